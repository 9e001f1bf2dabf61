// Directions that all lamps of a picture have rays in, and which of them belong together.
#pragma once

#include <optional>
#include <vector>

#include "jolly_iris/optics/measured.hpp"
#include "ray_strips.hpp"

namespace jolly_iris::measuring {

struct FoundRay {
  Measured direction_deg{};  ///< 0 … 360, counter-clockwise from the right
  double sureness = 0.0;     ///< in deviations
};

struct FoundRays {
  std::vector<FoundRay> rays{};  ///< the surest first
  /// By direction: how sure a ray is there, in deviations of what chance and structure leave.
  std::vector<double> sureness{};
};

FoundRays rays_of(std::vector<RayStrips> lamps);

struct RaySet {
  int rays = 0;
  Measured first_deg{};  ///< 0 … 360 / rays
};

/// So many rays spread evenly that each of them is there; none for less than four.
std::optional<RaySet> even_set(const FoundRays& found);

/// The same where the rays are too faint to be told one by one.
struct FaintSet {
  std::optional<RaySet> told{};    ///< by all of a set together, beside a far stronger line
  std::optional<RaySet> likely{};  ///< not sure enough to be told, but enough to doubt a line in it
};

FaintSet faint_set(const std::vector<RayStrips>& lamps);

/// Two rays opposite to each other that are no part of the set, or far stronger than it, nor of one
/// that is likely.
std::optional<Measured> opposite_pair(const std::vector<FoundRay>& rays,
                                      const std::optional<RaySet>& set,
                                      const std::optional<RaySet>& likely = {});

}  // namespace jolly_iris::measuring
