// A sharp picture drawn out along the ways that things go while the shutter is open.
//
//   const MotionVectors v = read_vectors(picture_of_vectors, meaning);
//   const SmearedPicture out = smeared(frame, v, shutter_span(0.48, ShutterPlace::centred));
//
// The picture is shown at many moments, each pixel moved along its vector, the nearer before the
// farther; what a nearer thing hid and leaves is filled with what is seen beside it, farther away.
// The mean of all moments is the smear: uniform in time, as a shutter is.
#pragma once

#include "jolly_iris/export.hpp"
#include "jolly_iris/optics/execution.hpp"
#include "jolly_iris/picture/defocus.hpp"
#include "jolly_iris/picture/motion_vectors.hpp"
#include "jolly_iris/picture/picture.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

struct SmearedPicture {
  Picture picture{};
  double longest_px = 0.0;  ///< how far the quickest pixel goes while the shutter is open
  std::size_t unusable =
      0;  ///< vectors that are no numbers, or go beyond all frames: taken as still
};

/// @param frame colour (linear, premultiplied); its depth says who is in front. Without depth, what
///        goes farther is taken for nearer
/// @param span when the shutter is open; the vectors hold all the time
/// @throws PictureError for vectors of another size, colour that is not finite, depth that is not a
///         number; Cancelled
SmearedPicture smeared(const Frame& frame, const MotionVectors& vectors, const ShutterSpan& span,
                       const Execution& execution = {});

/// The same through a lens: each part of the shutter's time is smeared and blurred by itself, so
/// that discs move too and what is behind is seen past them.
/// @throws as smeared and defocus
SmearedPicture smeared_defocus(const Frame& frame, const MotionVectors& vectors,
                               const ShutterSpan& span, const VirtualCamera& camera,
                               const DefocusSettings& settings = {});

}  // namespace jolly_iris
