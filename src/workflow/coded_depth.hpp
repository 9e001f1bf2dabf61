// Depth pictures as a shot's [depth] counts them.
#pragma once

#include <string>
#include <vector>

#include "jolly_iris/workflow/load.hpp"

namespace jolly_iris {

/// Makes a frame's depth axial metres: that of a picture of its own, else the frame's, as the shot
/// says it counts. What this program wrote says itself how it counts.
/// @param picture the frame's file
/// @param depth_file empty: the depth is in the picture
/// @throws as read_values and axial_depth, with the file's name
void decode_depth(Frame& frame, const std::string& picture, const std::string& depth_file,
                  const LoadedShot& loaded, std::vector<std::string>& notes,
                  std::vector<std::string>& files);

}  // namespace jolly_iris
