// How things in a shot move while its shutter is open, whoever says so: its scene, its camera, or a
// renderer's vectors.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "jolly_iris/export.hpp"
#include "jolly_iris/optics/execution.hpp"
#include "jolly_iris/picture/motion_vectors.hpp"
#include "jolly_iris/trace/shutter.hpp"
#include "jolly_iris/workflow/load.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// When the shot's shutter is open: the take's, as [finish.smear] places it (centred without one).
/// @throws OpticsError (take.shutter) where shutter or frame rate are not known
ShutterSpan shutter_of(const LoadedShot& loaded);

/// The shot's scene and camera at any moment, each posed for itself. It refers to the shot.
/// @throws UsageError for a shot without a scene
MomentAt moments_of(const LoadedShot& loaded);

/// How what each pixel of a pinhole's picture shows moves, over the shot's shutter.
/// @throws as moments_of, shutter_of and trace_motion
MotionVectors motion_of_scene(const LoadedShot& loaded, const TraceSettings& settings);

/// Vectors as red and green of a picture: what read_vectors reads as "to the next frame", in px.
Picture picture_of(const MotionVectors& motion);

/// A picture traced while the shutter is open.
struct ShutterTrace {
  Frame frame{};
  int moments = 1;  ///< of the shutter's time
  int samples = 1;  ///< rays a pixel, of all moments together
  std::vector<std::string> notes{};
};
/// @param moments none: as many as leave steps of no more than a pixel, 8 … 128
/// @throws as moments_of, shutter_of and trace_shutter
ShutterTrace trace_open_shutter(const LoadedShot& loaded, std::optional<int> moments,
                                const TraceSettings& settings);

struct FoundMotion {
  MotionVectors vectors{};
  ShutterSpan span{};
  std::vector<std::string> notes{};
};

/// What [finish.smear] asks for, of a picture.
/// @param picture its file: vectors may be in it
/// @param frame that picture as it was read, at the size in which it is smeared
/// @param half it was halved
/// @param margin px that it has beyond the camera's picture
/// @param at the frame's number; none: the one that the shot is answered at
/// @throws FileError for vectors that are not there; UsageError, PictureError and OpticsError where
///         what is asked for is not known
FoundMotion motion_in(const std::string& picture, const Frame& frame, bool half,
                      const Margin& margin, std::optional<double> at, const LoadedShot& loaded,
                      std::vector<std::string>& files, const Execution& execution = {});

}  // namespace jolly_iris
