// How distances are written into depth pictures, and read back.
#pragma once

#include "jolly_iris/export.hpp"
#include "jolly_iris/optics/shot.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// What a depth picture's number stands for: a radial distance for the radial code, else an axial
/// one. Infinity is 0 in inverse pictures.
/// @throws PictureError for a number that stands for nothing in front of the camera
Length decode_depth(const DepthCode& code, double number);

/// The number a depth picture shows for a distance. Beyond its near and far ends a normalised
/// picture goes on below 0 and above 1; for infinity it is infinite.
double encode_depth(const DepthCode& code, Length axial, Length radial);

}  // namespace jolly_iris
