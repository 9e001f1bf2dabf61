// The fit behind match(): unknowns in units of their notes' deviations.
#pragma once

#include <limits>
#include <optional>

#include "jolly_iris/match.hpp"

namespace jolly_iris::matching {

/// The notes with other values; `x` in deviations, one for each unknown of the list.
Notes moved(const Notes& notes, const std::vector<Unknown>& unknowns, const double* x);

/// Which unknowns these observations have anything to do with.
std::vector<Unknown> unknowns_for(const std::vector<Observation>& seen);

/// @param hopeless a cost from which on no other start is tried
/// @return none where the notes make no camera
std::optional<MatchResult> fit(const Notes& notes, const std::vector<Observation>& seen,
                               const MatchSettings& settings,
                               double hopeless = std::numeric_limits<double>::infinity());

/// What these notes, which make this camera, say would be seen.
double predicted_by(const Notes& notes, const VirtualCamera& camera, const Observation& seen);

/// One deviation of an observation: its own, and what lamps of one group differ by.
double deviation_of(const Observation& seen);

/// Root mean square over discs and lengths, px, of what the notes (or the result) leave over.
double off_px(const MatchResult& result, bool noted);

}  // namespace jolly_iris::matching
