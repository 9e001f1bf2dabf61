// Linear pictures as a screen takes them.
#pragma once

#include <string>
#include <vector>

#include "jolly_iris/files/load.hpp"
#include "jolly_iris/picture/picture.hpp"

namespace jolly_iris::live {

/// Four bytes a pixel, red, green, blue and 255: by the shot's display where it names one, else
/// encoded as sRGB; clipped to 0 … 1, over black.
std::string display_bytes(const Picture& picture, const LoadedShot& loaded);

/// Marks by pattern what is not sharp: lines in front of the focus, dots behind it, the closer the
/// more blurred; what is sharp stays as it is. Readable without colour.
/// @param bytes of display_bytes @param coc_px one a pixel, signed @param limit_px that is sharp
void shade_blur(std::string& bytes, int width, const std::vector<float>& coc_px, double limit_px);

}  // namespace jolly_iris::live
