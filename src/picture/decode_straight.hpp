// A whole picture from its file's numbers to linear light.
#pragma once

#include "jolly_iris/export.hpp"
#include "jolly_iris/optics/shot.hpp"
#include "jolly_iris/picture/picture.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// Decodes colour in place; alpha stays. Pixels are taken as *not* premultiplied and come out
/// premultiplied, since that is what linear light wants and encoded files do not have.
/// @param curve for Transfer::table
void decode_straight(Picture& picture, Transfer transfer, const Curve& curve = {});

}  // namespace jolly_iris
