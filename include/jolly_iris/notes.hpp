// What was written down of a take, resolved so far that a camera can be made of it; and what a
// plate may show to be otherwise.
#pragma once

#include "jolly_iris/body.hpp"
#include "jolly_iris/camera.hpp"
#include "jolly_iris/lens.hpp"
#include "jolly_iris/take.hpp"
#include "jolly_iris/units.hpp"

namespace jolly_iris {

struct Notes {
  Body body{};
  Lens lens{};
  Take take{};
  Length focus{};            ///< axial; may be infinite
  double off_axis = 0.0;     ///< of what was focused on, radians
  Length half_deep{};        ///< half of how far that reaches along the view
  double scene_scale = 1.0;  ///< the scene is really so much larger than it says
  Length farther{};          ///< the camera really stood so much farther back than in the scene
  double brighter = 0.0;     ///< stops: the picture is so much brighter than stop, shutter, ISO and
                             ///< ND make it
};

/// The camera that notes make. @throws OpticsError as resolve
inline VirtualCamera camera_of(const Notes& notes) {
  return resolve(notes.body, notes.lens, notes.take, notes.focus);
}

}  // namespace jolly_iris
