// The fit behind match().
#pragma once

#include <limits>
#include <vector>

#include "jolly_iris/match/match.hpp"

namespace jolly_iris::matching {

/// @param hopeless a cost from which on no other start is tried
/// @return one result for each plate; none where notes make no camera
std::vector<MatchResult> fit(const std::vector<NotedPlate>& plates, const MatchSettings& settings,
                             double hopeless = std::numeric_limits<double>::infinity());

/// The same, begun at the notes alone: they are near already, and another place that fits as well
/// is not what is asked for.
std::vector<MatchResult> fit_nearby(const std::vector<NotedPlate>& plates,
                                    const MatchSettings& settings);

/// Root mean square over discs and lengths, px, of what the notes (or the results) leave over.
double residual_px(const std::vector<MatchResult>& results, bool noted);

}  // namespace jolly_iris::matching
