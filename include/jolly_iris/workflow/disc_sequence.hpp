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
  std::vector<PixelSize> sizes{};    ///< of their plates
  std::vector<DiscTrack> tracks{};
  std::vector<FrameFailure> failed{};
  std::size_t empty = 0;             ///< frames without any disc
  std::vector<std::string> notes{};  ///< what looks wrong with the sequence
};

/// How edges and the iris look is found in up to five frames of the whole sequence, whichever part
/// of it is measured; else no frame depends on another.
/// @param settings `keep_made` does not count
/// @param files gains the pictures
/// @throws UsageError for a shot whose plate is no sequence; FileError for a frame that is not
///         there, before any work, unless it keeps going; as measure_discs; Cancelled
DiscSequence measure_disc_frames(const LoadedShot& loaded, const DiscSearch& search,
                                 const FrameRunSettings& settings, std::vector<std::string>& files,
                                 const Execution& execution = {});

/// What several tasks measured, each a part of the frames, as one: from the JSON that "measure
/// --frames --json" says.
/// @param names of the files, in any order; `files` gains them
/// @throws FileError for another file, with what is missing; UsageError for a frame that two of
///         them have
DiscSequence read_disc_frames(const std::vector<std::string>& names,
                              std::vector<std::string>& files);

}  // namespace jolly_iris
