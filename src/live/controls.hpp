// What can be turned on the page: the sections and words of the shot file.
#pragma once

#include <string>
#include <vector>

#include "disk/json.hpp"
#include "jolly_iris/workflow/live_shot.hpp"

namespace jolly_iris::live {

/// Every control as the page takes it: key, words, value, range, how a position becomes text.
/// @param look_follows the picture is made anew where the camera moves
Json controls_of(const LiveShot& shot, bool look_follows);

}  // namespace jolly_iris::live
