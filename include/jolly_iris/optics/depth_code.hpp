// How distances are written into depth pictures, and read back.
#pragma once

#include <optional>
#include <string>

#include "jolly_iris/export.hpp"
#include "jolly_iris/optics/units.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// How a depth picture's numbers stand for distances.
struct DepthCode {
  enum class Kind {
    axial,      ///< z in `unit`
    radial,     ///< along the ray, in `unit`
    inverse,    ///< 1 / axial, per `unit`
    normalised  ///< 0 … 1 from `near` to `far`, axial
  };
  Kind kind = Kind::axial;
  Length unit = Length::from_m(1.0);
  std::optional<Length> near{};  ///< normalised: what one end stands for
  std::optional<Length> far{};
  bool white_is_near = false;  ///< normalised: 1 is near and 0 is far
};

/// A depth picture of the shot.
struct DepthEntry {
  std::string file{};  ///< resolved against the shot file's folder; may be empty: only a code
  DepthCode code{};
  std::optional<Length> distance{};  ///< of all of a flat picture; may be infinite
};

/// What a depth picture's number stands for: a radial distance for the radial code, else an axial
/// one. Infinity is 0 in inverse pictures.
/// @throws PictureError for a number that stands for nothing in front of the camera
Length decode_depth(const DepthCode& code, double number);

/// The number a depth picture shows for a distance. Beyond its near and far ends a normalised
/// picture goes on below 0 and above 1; for infinity it is infinite.
double encode_depth(const DepthCode& code, Length axial, Length radial);

}  // namespace jolly_iris
