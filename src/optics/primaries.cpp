#include "jolly_iris/optics/primaries.hpp"

#include <cmath>

#include "jolly_iris/optics/errors.hpp"

namespace jolly_iris {

namespace {

struct Corners {
  Chromaticity r, g, b, white;
};

Corners corners_of(Primaries primaries) {
  if (primaries == Primaries::acescg) {
    return {{0.713, 0.293}, {0.165, 0.830}, {0.128, 0.044}, {0.32168, 0.33767}};
  }
  return {{0.64, 0.33}, {0.30, 0.60}, {0.15, 0.06}, {0.3127, 0.3290}};
}

// Each primary as bright as it must be for all of them to make the white.
ColourMatrix made_of(const Corners& c) {
  const Rgb r = xyz_of(c.r);
  const Rgb g = xyz_of(c.g);
  const Rgb b = xyz_of(c.b);
  ColourMatrix m;
  for (std::size_t i = 0; i < 3; ++i) m[i] = {r[i], g[i], b[i]};
  const Rgb fraction = product(inverse(m), xyz_of(c.white));
  for (auto& row : m) {
    for (std::size_t i = 0; i < 3; ++i) row[i] *= fraction[i];
  }
  return m;
}

}  // namespace

Rgb xyz_of(const Chromaticity& c) { return {c.x / c.y, 1.0, (1.0 - c.x - c.y) / c.y}; }

std::string_view to_string(Primaries primaries) {
  return primaries == Primaries::acescg ? "ACEScg" : "Rec.709";
}

Chromaticity white_of(Primaries primaries) { return corners_of(primaries).white; }

const ColourMatrix& xyz_from_rgb(Primaries primaries) {
  static const ColourMatrix rec709 = made_of(corners_of(Primaries::rec709));
  static const ColourMatrix acescg = made_of(corners_of(Primaries::acescg));
  return primaries == Primaries::acescg ? acescg : rec709;
}

const ColourMatrix& rgb_from_xyz(Primaries primaries) {
  static const ColourMatrix rec709 = inverse(xyz_from_rgb(Primaries::rec709));
  static const ColourMatrix acescg = inverse(xyz_from_rgb(Primaries::acescg));
  return primaries == Primaries::acescg ? acescg : rec709;
}

Rgb luminance_weights(Primaries primaries) { return xyz_from_rgb(primaries)[1]; }

Rgb product(const ColourMatrix& m, const Rgb& v) {
  Rgb out{};
  for (std::size_t i = 0; i < 3; ++i) out[i] = m[i][0] * v[0] + m[i][1] * v[1] + m[i][2] * v[2];
  return out;
}

ColourMatrix product(const ColourMatrix& a, const ColourMatrix& b) {
  ColourMatrix out{};
  for (std::size_t i = 0; i < 3; ++i) {
    for (std::size_t j = 0; j < 3; ++j) {
      out[i][j] = a[i][0] * b[0][j] + a[i][1] * b[1][j] + a[i][2] * b[2][j];
    }
  }
  return out;
}

ColourMatrix inverse(const ColourMatrix& m) {
  const auto minor = [&](std::size_t i, std::size_t j) {
    const std::size_t a = (i + 1) % 3;
    const std::size_t b = (i + 2) % 3;
    const std::size_t c = (j + 1) % 3;
    const std::size_t d = (j + 2) % 3;
    return m[a][c] * m[b][d] - m[a][d] * m[b][c];
  };
  const double det = m[0][0] * minor(0, 0) + m[0][1] * minor(0, 1) + m[0][2] * minor(0, 2);
  if (!(std::abs(det) > 1e-300)) throw OpticsError("a matrix of colours has no inverse");
  ColourMatrix out{};
  for (std::size_t i = 0; i < 3; ++i) {
    for (std::size_t j = 0; j < 3; ++j) out[j][i] = minor(i, j) / det;
  }
  return out;
}

}  // namespace jolly_iris
