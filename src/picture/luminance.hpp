// What is asked of every pixel where light is measured.
#pragma once

#include <algorithm>
#include <cmath>

#include "jolly_iris/optics/primaries.hpp"
#include "jolly_iris/picture/picture.hpp"

namespace jolly_iris {

/// Luminance in the precision of pixels.
struct Weights {
  float r, g, b;
  explicit Weights(Primaries primaries) {
    const Rgb w = luminance_weights(primaries);
    r = static_cast<float>(w[0]);
    g = static_cast<float>(w[1]);
    b = static_cast<float>(w[2]);
  }
  float of(const Rgba& p) const { return r * p[0] + g * p[1] + b * p[2]; }
};

inline bool finite(const Rgba& p) {
  return std::isfinite(p[0]) && std::isfinite(p[1]) && std::isfinite(p[2]);
}

inline float brightest(const Rgba& p) { return std::max({p[0], p[1], p[2]}); }

}  // namespace jolly_iris
