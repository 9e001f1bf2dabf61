// Reading glTF 2.0 (.gltf and .glb) into a Scene.
//
// Beyond core glTF: KHR_materials_emissive_strength, KHR_lights_punctual, and four `extras` of our
// own: `point_diameter_m` and `line_width_m` on a material, `sky` and `ground` (linear colours) on
// the scene. Animations of translation, rotation and scale become channels. Textures, skins and
// morphs are left alone.
#pragma once

#include <filesystem>

#include "jolly_iris/export.hpp"
#include "jolly_iris/scene/scene.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// @throws FileError naming file, element and index for anything broken: a missing or short buffer,
///         an index out of range, a node that is its own ancestor or has two parents, a matrix of
///         other than 16 numbers, an animation whose times do not rise, a required extension that
///         is not known, positions that are not numbers
/// @throws OpticsError for cameras of kinds beyond glTF's (panorama, fisheye …): out of scope
/// @return posed at time 0
Scene read_gltf(const std::filesystem::path& path);

}  // namespace jolly_iris
