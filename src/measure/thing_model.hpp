// What light a bright thing of a shape has for each of its pixels, and how that hangs on what is
// not known of it.
#pragma once

#include <vector>

#include "drawn_thing.hpp"
#include "normal_equations.hpp"

namespace jolly_iris::measuring {

inline constexpr std::size_t thing_unknowns = 10;
using ThingUnknowns = Terms<thing_unknowns>;
/// The ground's light and how it slopes; logarithms of all of its light, of its radius and of its
/// softness; where it is (px right and down of the window's middle); its way (the same).
struct ThingOf {
  enum : std::size_t {
    base,
    base_x,
    base_y,
    log_flux,
    log_radius,
    log_softness,
    place_x,
    place_y,
    way_x,
    way_y
  };
};

/// By the pixels that count.
struct ThingPicture {
  std::vector<double> shape{};  ///< of a thing of light 1, without ground
  std::vector<double> light{};
  int discs = 0;  ///< along its way
};

class ThingModel {
 public:
  ThingModel(const ThingPixels& pixels, ThingShape shape);

  ThingPicture picture(const ThingUnknowns& u) const;
  /// Sum of squares, in deviations.
  double misfit(const ThingPicture& picture) const;
  /// @param now of u
  NormalEquations<thing_unknowns> equations(const ThingUnknowns& u, const ThingPicture& now) const;

 private:
  struct Seen {
    double right = 0.0;  // px of the window's middle
    double down = 0.0;
    double light = 0.0;
    double weight = 0.0;
  };
  /// How a shape changes with where it is and with its way.
  using Moved = std::array<double, 4>;

  std::vector<double> shape_of(const ThingUnknowns& u, int discs, std::vector<Moved>* moved) const;
  std::vector<double> window_of(const ThingUnknowns& u) const;
  double difference(const Seen& seen, double model) const;

  ThingShape shape_;
  double width_;
  double height_;
  double clip_;
  std::vector<Seen> seen_{};
};

}  // namespace jolly_iris::measuring
