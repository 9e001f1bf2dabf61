// The blurred lights of a plate over frames: measured in each, and followed from one to the next.
#pragma once

#include <string>
#include <vector>

#include "jolly_iris/export.hpp"
#include "jolly_iris/measure/disc_tracks.hpp"
#include "jolly_iris/workflow/frame_run.hpp"
#include "jolly_iris/workflow/load.hpp"
#include "jolly_iris/workflow/plate_observations.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

struct DiscSequence {
  std::vector<FrameDiscs> frames{};  ///< of this part, without those that failed
  std::vector<DiscTrack> tracks{};
  std::vector<FrameFailure> failed{};
  std::size_t empty = 0;             ///< frames without any disc
  std::vector<std::string> notes{};  ///< what looks wrong with the sequence
};

/// @param settings `keep_made` does not count
/// @param files gains the pictures
/// @throws UsageError for a shot whose plate is no sequence; FileError for a frame that is not
///         there, before any work, unless it keeps going; as measure_discs; Cancelled
DiscSequence measure_disc_frames(const LoadedShot& loaded, const DiscSearch& search,
                                 const FrameRunSettings& settings, std::vector<std::string>& files,
                                 const Execution& execution = {});

}  // namespace jolly_iris
