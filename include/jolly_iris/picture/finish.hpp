// What light does after the opening, done to a picture in linear light, always in the same order.
//
//   const Picture ready = before_lens(sharp, finish).picture;          // lifted highlights
//   const Picture blurred = defocus({ready, depth}, camera);
//   const FinishedPicture out = after_lens(blurred, camera, finish);   // halo … grain
//
// or, where nothing is blurred in between, finished(). Pixels are premultiplied and alpha stays as
// it is: light that a part brings beside a thing is added to what is behind it. Nothing is clamped.
#pragma once

#include <string>
#include <vector>

#include "jolly_iris/export.hpp"
#include "jolly_iris/optics/camera.hpp"
#include "jolly_iris/optics/execution.hpp"
#include "jolly_iris/optics/finish.hpp"
#include "jolly_iris/optics/sharpness.hpp"
#include "jolly_iris/picture/picture.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

struct FinishSettings {
  double factor = 1.0;  ///< exposure, > 0; between corners and cast
  Rgb gains{1, 1, 1};   ///< white, > 0
  double frame = 0.0;   ///< grain is another one in each
  Margin margin{};      ///< px that the picture has beyond the camera's
  bool layers = false;  ///< whether what each part adds is kept
  Execution execution{};
};

/// What one part added to every pixel: below zero where it took light away. Alpha is 0.
struct FinishLayer {
  std::string name{};  ///< "lift", "smear", "halo", "spikes", "streak", "corners", "exposure",
                       ///< "cast", "grain"
  Picture added{};
};

struct FinishedPicture {
  Picture picture{};
  std::vector<FinishLayer> layers{};  ///< in the order of work; the picture is the sum of the first
                                      ///< picture and all of them
  std::vector<std::string> notes{};   ///< what each part did, a sentence each
};

/// Takes what one part made of the picture, and keeps what that added.
void take_part(FinishedPicture& work, const char* name, Picture made, bool layers);

// Each works on the picture that it is given: a caller that needs it no more moves it there.

/// Lifted highlights; a smear, which needs to know how things move, is smear.hpp's.
/// @throws PictureError for colour that is not finite; OpticsError (finish…) for values out of
///         their ranges, or that this picture cannot have
FinishedPicture before_lens(Picture picture, const Finish& finish,
                            const FinishSettings& settings = {});
/// @throws the same; MemoryError; Cancelled
FinishedPicture after_lens(Picture picture, const VirtualCamera& camera, const Finish& finish,
                           const FinishSettings& settings = {});
/// Both, one after the other, without a smear. @throws the same
FinishedPicture finished(Picture picture, const VirtualCamera& camera, const Finish& finish,
                         const FinishSettings& settings = {});

/// How much light a place keeps of `corners`, r being its distance from the middle against the
/// corner's.
double corner_fraction(const Corners& corners, double r);

/// The gains that this cast amounts to, against daylight of 6504 K, with G = 1.
/// @throws OpticsError (finish.cast…) for a cast beyond all whites
Rgb cast_gains(const Cast& cast, Primaries primaries = Primaries::rec709);

}  // namespace jolly_iris
