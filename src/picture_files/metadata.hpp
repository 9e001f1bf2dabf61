// From a picture's header to what it says of the take.
#pragma once

#include <OpenImageIO/imageio.h>

#include <string>

#include "jolly_iris/optics/plate_facts.hpp"

namespace jolly_iris::picture_files {

/// Values that cannot be (n/0, nonsense text, a focal length of 0) are not believed: they end up in
/// `doubts`. @throws OpticsError for a panorama or a stereo pair
PlateFacts plate_facts(const OIIO::ImageSpec& spec, const std::string& path, bool exr);

}  // namespace jolly_iris::picture_files
