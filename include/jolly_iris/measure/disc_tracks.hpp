// Discs of a plate followed from frame to frame: which is which, as far as place, size and light
// tell.
//
//   std::vector<FrameDiscs> frames = …;             // discs_in_plate of each
//   for (const DiscTrack& t : follow_discs(frames)) fmt::print("{}: {} frames\n", t.number,
//   t.seen.size());
//
// A disc is expected where its track goes on at its own speed, as large as it was and as bright
// against the others; of all ways to give a frame's discs to the tracks the likeliest is taken, not
// each disc for itself, so two that cross keep their ways. A track that is not seen for a while
// (behind something, or nothing was found in a frame) is looked for where it would be by then, the
// wider the longer it was away.
//
// Sources: Bar-Shalom, Li and Kirubarajan, Estimation with Applications to Tracking and Navigation
// (2001), sections 1.5 and 6.3 (gates, expected places); Kuhn (1955) for who gets which.
#pragma once

#include <vector>

#include "jolly_iris/export.hpp"
#include "jolly_iris/measure/discs.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

struct FrameDiscs {
  double frame = 0.0;
  std::vector<PlateDisc> discs{};
};

struct TrackPoint {
  std::size_t frame = 0;  ///< which of the frames
  std::size_t disc = 0;   ///< which of its discs
};

struct DiscTrack {
  int number = 0;  ///< 1, 2, … in the order in which they begin, then from the left
  std::vector<TrackPoint> seen{};  ///< by frame
};

struct TrackSettings {
  double max_gap = 12.0;       ///< frames that it may be away, ≥ 1
  std::size_t min_points = 3;  ///< shorter ones are no tracks, ≥ 1
};

/// @param frames by rising number, which need not be one apart
/// @return tracks; each disc is in one at the most
/// @throws UsageError for frames that do not rise, or settings out of range
std::vector<DiscTrack> follow_discs(const std::vector<FrameDiscs>& frames,
                                    const TrackSettings& settings = {});

}  // namespace jolly_iris
