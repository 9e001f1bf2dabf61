#include "jolly_iris/optics/depth_code.hpp"

#include <fmt/format.h>

#include <cmath>

#include "jolly_iris/optics/errors.hpp"

namespace jolly_iris {

namespace {
// near and far as they must be for the normalised code; checked where shots are read.
struct Ends {
  double near;
  double far;
};
Ends ends_of(const DepthCode& code) {
  if (!code.near || !code.far || !(*code.near < *code.far) || code.far->is_infinite()) {
    throw UsageError(
        "a normalised depth picture needs what its ends stand for, near before far: depth.near = "
        "\"0.5 m\" and depth.far = \"40 m\"");
  }
  return {code.near->mm(), code.far->mm()};
}
}  // namespace

Length decode_depth(const DepthCode& code, double number) {
  double mm = number * code.unit.mm();
  if (code.kind == DepthCode::Kind::inverse) {
    mm = code.unit.mm() / number;
    if (number == 0.0) return Length::infinity();
  } else if (code.kind == DepthCode::Kind::normalised) {
    const Ends ends = ends_of(code);
    const double fraction = code.white_is_near ? 1.0 - number : number;
    mm = ends.near + fraction * (ends.far - ends.near);
  }
  if (!(mm > 0.0)) {
    throw PictureError(fmt::format(
        "the number {:g} stands for {:.4g} m, which is not in front of the camera; does [depth] "
        "say rightly how the picture counts?",
        number, mm / 1000.0));
  }
  return Length::from_mm(mm);
}

double encode_depth(const DepthCode& code, Length axial, Length radial) {
  switch (code.kind) {
    case DepthCode::Kind::axial:
      break;
    case DepthCode::Kind::radial:
      return radial / code.unit;
    case DepthCode::Kind::inverse:
      return code.unit / axial;
    case DepthCode::Kind::normalised: {
      const Ends ends = ends_of(code);
      const double fraction = (axial.mm() - ends.near) / (ends.far - ends.near);
      return code.white_is_near ? 1.0 - fraction : fraction;
    }
  }
  return axial / code.unit;
}

}  // namespace jolly_iris
