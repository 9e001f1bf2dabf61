// What a glass does along its focus: travels, and how it breathes.
#pragma once

#include <vector>

#include "jolly_iris/export.hpp"
#include "jolly_iris/glass/prescription.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// Focused at one distance.
struct GlassMark {
  Length distance{};  ///< from the film plane
  Length travel{};
  /// Focal length of the pinhole in the entrance pupil's place that frames alike near the axis:
  /// it breathes as this changes.
  Length focal_scene{};
  double magnification = 0.0;  ///< of what is in focus; 0 of infinity
  /// How much smaller it is across than up and down, by rays through the opening's middle; 1 of a
  /// round glass.
  double squeeze = 1.0;
};

/// At distances as barrels have them, from infinity to the nearest that it focuses at; those that
/// it does not reach are left out.
/// @throws OpticsError for a prescription with mistakes or without power
std::vector<GlassMark> marks_of(const Prescription& prescription);

/// At one. @throws as focused
GlassMark mark_at(const Prescription& prescription, Length distance);

}  // namespace jolly_iris
