// What somebody drew on a plate: straight edges, round things, lamps, grey cards, boxes. Places are
// in px of the delivered picture, from its top left corner, as the plate shows them (distorted).
#pragma once

#include <array>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "jolly_iris/export.hpp"
#include "jolly_iris/optics/take.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// Which way a straight edge runs in reality.
enum class Runs {
  anyhow,    ///< not known, or of no interest: it is straight, that is all
  vertical,  ///< plumb
  level,     ///< level, all of these parallel to each other
  across     ///< level, and at right angles to those
};

/// "anyhow", "vertical", "level", "across".
std::string_view to_string(Runs runs);

/// An edge that is straight in reality.
struct DrawnLine {
  std::vector<std::array<double, 2>> points{};  ///< two or more along it
  Runs runs = Runs::anyhow;
  std::string name{};
};

/// Something round in reality.
struct DrawnCircle {
  std::vector<std::array<double, 2>> points{};  ///< three or more on its rim
  std::string name{};
};

/// A lamp, out of focus or not.
struct DrawnLamp {
  std::array<double, 2> at{};
  std::optional<double> diameter{};  ///< px, as far as it is known
  std::string name{};
};

/// A grey card, or any other part of the plate.
struct DrawnBox {
  enum class Kind { grey, box };
  Kind kind = Kind::box;
  std::array<double, 4> box{};  ///< left, top, width, height
  std::string name{};
  /// Of a card: what a spot meter read of it on the set, cd/m²; and the light that it stood in.
  std::optional<double> luminance{};
  std::optional<White> light{};
};

struct PlateMarks {
  std::vector<DrawnLine> lines{};
  std::vector<DrawnCircle> circles{};
  std::vector<DrawnLamp> lamps{};
  std::vector<DrawnBox> boxes{};

  bool any() const { return !(lines.empty() && circles.empty() && lamps.empty() && boxes.empty()); }
};

}  // namespace jolly_iris
