// How blur looks wherever it is shaded: sharp is solid ink; in front of the focus ochre with
// diagonal hatching, behind it plum with dots; paler is less. The pattern alone tells which, so
// that it is read without colour and in print.
#pragma once

#include <vector>

#include "canvas.hpp"
#include "jolly_iris/scene/answer.hpp"

namespace jolly_iris::drawing {

struct BlurShade {
  enum class Pattern { solid, hatched, dotted };
  Pattern pattern = Pattern::solid;
  Colour colour{};  ///< of the pattern and of outlines
  Colour words{};   ///< darker, to be read on white
};

/// In front of, and behind the focus. @param strength as blur_strength
BlurShade shade_in_front(double strength);
BlurShade shade_behind(double strength);
BlurShade shade_sharp();

/// @param limit_px the blur up to which things are called sharp
BlurShade shade_of(const SubjectBlur& subject, double limit_px);

/// An area in its shade, outlined.
void fill(Canvas& canvas, const std::vector<Spot>& outline, const BlurShade& shade);
/// A mark of 11 px on a white ground.
void mark(Canvas& canvas, const Spot& at, const BlurShade& shade);

}  // namespace jolly_iris::drawing
