// Motion blur in the picture: how fast a subject moves across it.
#pragma once

#include <string>

#include "jolly_iris/export.hpp"
#include "jolly_iris/optics/camera.hpp"
#include "jolly_iris/optics/shot.hpp"
#include "jolly_iris/scene/scene.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// How fast a subject's middle moves across the picture at a frame, in px a second: by its own
/// motion, the camera's and a zoom's, from half a frame before to half a frame after. 0 where
/// nothing moves, or where only its distance is known.
/// @param shot as the file has it; the scene is posed at that frame afterwards
/// @throws UsageError for a subject that does not exist (names the nearest), or one behind the
///         camera; OpticsError (take.fps) without a frame rate
double speed_in_picture(const Shot& shot, const Scene* scene, const std::string& name,
                        double frame);

/// Of something that moves across the view at this speed, at an axial distance: px a second.
/// @param metres_per_second across the view axis, ≥ 0
/// @throws OpticsError for a distance that is not in front of the camera
double speed_in_picture(const VirtualCamera& camera, double metres_per_second, Length axial);

}  // namespace jolly_iris
