// A distance as somebody measured it. What it is along the view: distance.hpp.
#pragma once

#include <array>
#include <optional>
#include <string_view>

#include "jolly_iris/export.hpp"
#include "jolly_iris/optics/units.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// In which of the five ways a distance was measured (see distance.hpp).
enum class DistanceKind { axial, radial, tape, mark, floor };

/// "axial", "radial", "tape", "mark", "floor".
std::string_view to_string(DistanceKind kind);

/// A distance as it was entered, with what is needed to make it axial.
struct DistanceEntry {
  DistanceKind kind = DistanceKind::axial;
  Length length{};                               ///< may be infinite
  std::optional<Angle> off_axis{};               ///< of a radial or tape; in the plan of a floor
  std::optional<std::array<double, 2>> pixel{};  ///< or where the plate shows it
  bool pixel_in_cg = false;                      ///< the pixel is one of the CG picture
  std::optional<Length> height{};                ///< of the thing above the floor; none: 0
};

}  // namespace jolly_iris
