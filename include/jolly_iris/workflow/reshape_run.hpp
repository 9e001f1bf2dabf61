// Pictures straightened or bent as the shot's lens bends, squeezed or desqueezed: one, or one a
// frame.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "jolly_iris/export.hpp"
#include "jolly_iris/optics/picture_size.hpp"
#include "jolly_iris/optics/undistort.hpp"
#include "jolly_iris/workflow/frame_run.hpp"
#include "jolly_iris/workflow/load.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

enum class Reshape { undistort, redistort, desqueeze, squeeze };

struct ReshapeRequest {
  Reshape reshape = Reshape::undistort;
  std::string picture{};   ///< "####" stands for the frame's number
  bool same_size = false;  ///< undistort: without the margin; the corners are lost
  /// squeeze, desqueeze: whose pixel count stays; none: the height, or what makes the delivered
  /// picture
  std::optional<KeptSide> kept{};
  Decoding decoding{};
};

/// What the shot's lens does to straight lines.
/// @throws UsageError for a shot that says nothing of it
DistortionMap distortion_of(const LoadedShot& loaded);

/// @throws UsageError for a lens that does not bend, or not squeeze; PictureError for a picture of
///         a shape that does not fit, with its name; as read_picture
MadeFrame reshaped_picture(const ReshapeRequest& request, const LoadedShot& loaded,
                           std::vector<std::string>& files);

/// A sequence. @throws as make_frames and reshaped_picture
FrameRun reshape_frames(const ReshapeRequest& request, const std::vector<std::string>& names,
                        const FrameRunSettings& settings, const LoadedShot& loaded,
                        std::vector<std::string>& files, const Execution& execution = {});

}  // namespace jolly_iris
