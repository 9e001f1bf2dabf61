// What OpenEXR's standard attributes can say of a camera, for the pictures that are written for a
// shot.
#pragma once

#include <map>
#include <string>

#include "jolly_iris/files/load.hpp"

namespace jolly_iris {

/// By the names that picture files know them by, numbers as text: `focus` (m, as the barrel shows
/// it), FNumber and tStop (as marked on the lens, like nominalFocalLength: an adapter is not in
/// them), isoSpeed, ExposureTime (s), shutterAngle (degrees), framesPerSecond ("24000/1001"),
/// nominalFocalLength and pinholeFocalLength (mm), chromaticities (x and y of red, green, blue,
/// white), worldtocamera and worldtoNDC (16 numbers row by row, a place being a row before them;
/// metres). Camera space: x right, y up, z into the picture. NDC: 0, 0 is the display window's
/// upper left corner, 1, 1 its lower right. Source: OpenEXR, ImfStandardAttributes.h.
std::map<std::string, std::string> standard_header(const LoadedShot& loaded);

}  // namespace jolly_iris
