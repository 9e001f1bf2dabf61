// How what each pixel shows moves across the picture.
#pragma once

#include <array>
#include <cstddef>
#include <vector>

#include "jolly_iris/export.hpp"
#include "jolly_iris/optics/camera.hpp"
#include "jolly_iris/optics/exposure.hpp"
#include "jolly_iris/optics/finish.hpp"
#include "jolly_iris/optics/geometry.hpp"
#include "jolly_iris/optics/sharpness.hpp"
#include "jolly_iris/picture/picture.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// One vector a pixel, row by row: px to the right and down in a frame's time, at the frame's own
/// moment. NaN where nobody knows.
struct MotionVectors {
  PixelSize size{};
  std::vector<std::array<float, 2>> px_a_frame{};
  std::vector<float> depth{};  ///< of what goes so, axial metres: for frames without any; or empty
};

/// A renderer's vectors, brought to ours.
/// @param vectors the first two channels count
MotionVectors read_vectors(const Picture& vectors, const VectorMeaning& meaning);

/// Where a camera is at one moment.
struct CameraMoment {
  VirtualCamera camera{};
  Pose place{};  ///< camera → world, metres
};

/// The vectors of a still scene that a camera moves through.
/// @param frame with axial depth in metres; infinity is sky, which turns with the camera
/// @param now, opens, closes the camera at the frame's moment and at both ends of the shutter
/// @param span when those are, in frames
/// @param margin px that the frame has beyond the camera's picture
/// @throws NoDepthError for a frame without depth
MotionVectors vectors_of_camera(const Frame& frame, const CameraMoment& now,
                                const CameraMoment& opens, const CameraMoment& closes,
                                const ShutterSpan& span, const Margin& margin = {});

/// When a shutter is open, in frames from the frame's moment.
/// @param fraction how much of a frame's time it is open, > 0
ShutterSpan shutter_span(double fraction, ShutterPlace place);

}  // namespace jolly_iris
