// The halo that explains the skirts of a plate's lamps best.
#pragma once

#include <Eigen/Core>
#include <map>
#include <optional>
#include <utility>
#include <vector>

#include "bright_things.hpp"
#include "halo_shape.hpp"
#include "lamp_skirts.hpp"

namespace jolly_iris::measuring {

/// How much of a shape the skirts have.
struct HaloFit {
  HaloShape shape{};
  /// The share of its light that a thing spreads, by channel: of all that are not clipped together,
  /// and of each skirt by itself.
  std::array<double, 3> gain{};
  std::array<double, 3> free_gain{};  ///< the same where it may be below zero: chance alone
  std::vector<std::array<double, 3>> gain_of{};
  double cost = 0.0;
};

/// Shapes are looked for on a lattice of reaches and powers; what skirts say of a point of it is
/// summed up once, in parts that can be left out.
class SkirtFit {
 public:
  /// Both must outlive it. @param largest_px how far light can go in the plate
  SkirtFit(const std::vector<Skirt>& skirts, const BrightThings& bright, double largest_px);

  /// @param left_out a group of places; none: all count
  HaloFit best(std::optional<int> left_out);
  /// With a shape that is given (the nearest of the lattice).
  HaloFit with(const HaloShape& shape, std::optional<int> left_out);
  /// How places agree is found anew, as this fit leaves them; outliers count less.
  void weigh(const HaloFit& fit);

  /// Rings nearest to the things count no more.
  void leave_rings(int count);

  int groups() const { return groups_; }

 private:
  static constexpr int quarters = 4;
  using Point = std::pair<int, int>;  // of the lattice
  // Sums over places, which add up: those that no shape changes,
  struct Plain {
    Eigen::Matrix3d ground = Eigen::Matrix3d::Zero();
    Eigen::Vector3d ground_y = Eigen::Vector3d::Zero();
    double yy = 0.0;
    Plain& operator+=(const Plain& more);
  };
  // and those of a shape.
  struct Moments {
    Eigen::Vector3d ground_h = Eigen::Vector3d::Zero();
    double hy = 0.0;
    double hh = 0.0;
    Moments& operator+=(const Moments& more);
  };
  template <class Sums>
  using ByPart = std::array<std::array<Sums, 3>, quarters>;  // by quarter and channel
  using OfSkirt = ByPart<Moments>;
  struct Solved;

  std::array<float, skirt_bins> kernel(const HaloShape& shape) const;
  template <class Sums, class Add>
  std::vector<ByPart<Sums>> summed(const Add& add) const;
  const std::vector<OfSkirt>& moments_at(const Point& point);
  HaloFit at(const Point& point, std::optional<int> left_out);
  Solved solved(const OfSkirt& of, std::size_t skirt, std::size_t channel,
                std::optional<int> left_out) const;

  const std::vector<Skirt>& skirts_;
  const BrightThings& bright_;
  double largest_px_;
  bool by_thing_ = false;
  int groups_ = 1;
  std::vector<std::vector<std::array<float, 3>>> weight_{};  // by skirt, place and channel
  std::vector<ByPart<Plain>> plain_{};
  std::map<Point, std::vector<OfSkirt>> known_{};
};

}  // namespace jolly_iris::measuring
