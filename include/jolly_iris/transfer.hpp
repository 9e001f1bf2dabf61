// How a picture file's numbers stand for light. Inside, everything is linear.
#pragma once

#include "jolly_iris/picture.hpp"
#include "jolly_iris/shot.hpp"

namespace jolly_iris {

/// A file's number → linear light. sRGB: IEC 61966-2-1; Rec.709: the inverse of the camera curve of
/// ITU-R BT.709. Both go on as odd functions below zero and unclamped above one.
float decode(float encoded, Transfer transfer);
/// Linear light → a file's number.
float encode(float linear, Transfer transfer);

/// Decodes colour in place; alpha stays. Pixels are taken as *not* premultiplied and come out
/// premultiplied, since that is what linear light wants and encoded files do not have.
void decode_straight(Picture& picture, Transfer transfer);

}  // namespace jolly_iris
