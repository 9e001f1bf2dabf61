// What was written down of a take, resolved so far that a camera can be made of it; and what a
// plate may show to be otherwise.
#pragma once

#include "jolly_iris/export.hpp"
#include "jolly_iris/optics/body.hpp"
#include "jolly_iris/optics/camera.hpp"
#include "jolly_iris/optics/lens.hpp"
#include "jolly_iris/optics/take.hpp"
#include "jolly_iris/optics/units.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

struct CameraEstimate {
  Body body{};
  Lens lens{};
  Take take{};
  Length focus{};               ///< axial; may be infinite
  bool focus_in_scene = false;  ///< it is on something of the scene: it goes with its scale
  double off_axis = 0.0;        ///< of what was focused on, radians
  Length half_deep{};           ///< half of how far that reaches along the view
  double scene_scale = 1.0;     ///< the scene is really so much larger than it says
  Length farther{};             ///< the camera really stood so much farther back than in the scene
  double brighter = 0.0;  ///< stops: the picture is so much brighter than stop, shutter, ISO and
                          ///< ND make it
};

/// Where it is focused, with what the scene's scale makes of that.
inline Length focus_of(const CameraEstimate& estimate) {
  return estimate.focus_in_scene && estimate.focus.is_finite()
             ? estimate.focus * estimate.scene_scale
             : estimate.focus;
}

/// The camera that notes make. @throws OpticsError as resolve
inline VirtualCamera camera_of(const CameraEstimate& estimate) {
  return resolve(estimate.body, estimate.lens, estimate.take, focus_of(estimate));
}

}  // namespace jolly_iris
