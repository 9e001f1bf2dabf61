// A CG sequence against the plate's, frame by frame: where they part, and by how much.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "jolly_iris/export.hpp"
#include "jolly_iris/workflow/comparison.hpp"
#include "jolly_iris/workflow/frame_run.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

struct ComparedFrame {
  double frame = 0.0;
  double psnr_db = 0.0;
  double psnr_lit_db = 0.0;  ///< with the plate's exposure and white
  std::size_t disc_pairs = 0;
  Measured larger{};                   ///< CG's discs, a share; margin 0: no pairs
  std::optional<double> stops{};       ///< that CG must gain; none where its regions contradict
  std::optional<double> blue_stops{};  ///< blue over red that CG must gain: colder is above zero
  bool same_view = true;
  std::string advice{};  ///< the most visible thing to change; empty: nothing beyond its margin
};

struct ComparedFrames {
  std::vector<ComparedFrame> frames{};
  std::vector<FrameFailure> failed{};
};

/// @param request one picture, "cg.####.exr"; its finish is not asked for
/// @throws UsageError for a plate or CG that is no sequence; as compare_pictures, for a frame,
/// unless
///         it keeps going; Cancelled
ComparedFrames compare_frames(const LoadedShot& loaded, const ComparisonRequest& request,
                              const FrameRunSettings& settings, std::vector<std::string>& files);

}  // namespace jolly_iris
