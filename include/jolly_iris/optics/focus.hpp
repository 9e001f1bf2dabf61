// What the camera focuses on, and how it gets from one thing to the next.
#pragma once

#include <array>
#include <optional>
#include <string>

#include "jolly_iris/export.hpp"
#include "jolly_iris/optics/distance_entry.hpp"
#include "jolly_iris/optics/ease.hpp"
#include "jolly_iris/optics/units.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// What is taken from the middle ninth of a depth picture.
enum class MiddleArea { nearest, median };

/// What was picked in a depth picture.
struct Picked {
  DistanceEntry distance{};  ///< axial or radial, with its pixel
  std::string message{};     ///< "pixel 960, 540 of pinhole.exr: 2.35 m"
};

/// Which point of a node is focused on.
enum class NodePart { middle, origin, nearest };

/// What the camera focuses on: exactly one of on, distance, pixel and area, or nothing (then the
/// take's mark counts).
struct Focus {
  std::optional<std::string> on{};  ///< a subject's name
  NodePart part = NodePart::middle;
  std::optional<DistanceEntry> distance{};
  std::optional<std::array<double, 2>> pixel{};  ///< of the depth picture
  std::optional<MiddleArea> area{};              ///< of the depth picture
  std::optional<Picked> picked{};  ///< what the last two found, filled in by who reads pictures
  Length offset{};                 ///< added to the axial distance: + behind, − in front

  bool any() const { return on || distance || pixel || area; }
};

/// Focus on its way from one thing to another, at one instant. It moves evenly in dioptres, since
/// equal steps of reciprocal distance are equal steps of blur.
struct FocusMove {
  Focus from{};
  Focus to{};
  Ease ease{};
  double fraction = 0.0;  ///< of the time, 0 … 1
};

/// One key of a pull: from `frame` on the focus is here; `ease` is how it came from the key before.
struct Pull {
  double frame = 0.0;
  Focus focus{};
  Ease ease{};
};

}  // namespace jolly_iris
