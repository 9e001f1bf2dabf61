// Reading coloured points (PLY) for a scene: a scanned tree, a photographed room, a swarm of lamps.
//
//   scene.points = "willow.ply" in a shot file does all of this.
#pragma once

#include <filesystem>
#include <string>
#include <string_view>

#include "jolly_iris/export.hpp"
#include "jolly_iris/scene/scene.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// How the numbers of a point cloud stand in the scene.
struct PointPlacing {
  double metres = 1.0;       ///< one unit of the file, > 0
  double diameter_m = 0.01;  ///< of each point, > 0
  bool z_is_up = false;      ///< as surveyors count; else +Y is up
};

/// Reads the vertices of a PLY 1.0 file (text, or binary of either byte order): x, y, z; red,
/// green, blue where given, whole numbers being sRGB (0 … 255 or 0 … 65535) and fractions linear
/// light; nx, ny, nz where given. Points without normals are shown in their own colour, those with
/// normals are lit. Faces and everything else in the file are passed over.
/// @param file a name for messages
/// @throws FileError with line (text) or vertex (binary) for what is no PLY, has no x, y, z, is cut
///         off, or holds what is no number; and for a file without points
Primitive points_of_ply(std::string_view bytes, const std::string& file);

/// Adds a PLY's points to a scene as a node of their own, named like the file without its ending.
/// @throws as points_of_ply, and FileError for a file that cannot be read
void add_points(Scene& scene, const std::filesystem::path& path, const PointPlacing& placing);

}  // namespace jolly_iris
