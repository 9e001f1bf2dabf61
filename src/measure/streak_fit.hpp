// How much light a streak has, how far it reaches and how it falls, from strips along it.
#pragma once

#include <array>
#include <optional>
#include <vector>

#include "jolly_iris/optics/measured.hpp"
#include "ray_strips.hpp"

namespace jolly_iris::measuring {

struct StreakFit {
  std::array<Measured, 3> fraction{};
  Measured reach_px{};
  Measured power{};
};

/// @param lamps that are not clipped; @param largest_px how far light can go
/// @return none where fewer than two strips tell
std::optional<StreakFit> fitted_streak(const std::vector<RayStrips>& lamps, double direction_deg,
                                       double largest_px);

/// The share of a streak of a known shape that could hide: of the direction that hides most.
double most_hidden_streak(const std::vector<RayStrips>& lamps, double reach_px, double power,
                          double largest_px);

}  // namespace jolly_iris::measuring
