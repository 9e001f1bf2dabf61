#include "jolly_iris/glass/coating.hpp"

#include <algorithm>
#include <cmath>
#include <complex>
#include <numbers>

#include "jolly_iris/glass/glass_camera.hpp"

namespace jolly_iris {

namespace {

using Complex = std::complex<double>;

// Amplitudes at one boundary; cosines of both sides, the second may be imaginary.
Complex across_plane(double n1, Complex c1, double n2, Complex c2) {
  return (n1 * c1 - n2 * c2) / (n1 * c1 + n2 * c2);
}
Complex in_plane(double n1, Complex c1, double n2, Complex c2) {
  return (n2 * c1 - n1 * c2) / (n2 * c1 + n1 * c2);
}

Complex cosine_behind(double n1, double cosine, double n2) {
  const double sine = n1 / n2 * std::sqrt(std::max(0.0, 1.0 - cosine * cosine));
  return std::sqrt(Complex(1.0 - sine * sine, 0.0));
}

}  // namespace

double reflectance(const GlassSurface& surface, double before, double after, double cosine,
                   double um) {
  if (before == after && !surface.coat) return 0.0;
  const Complex c0(cosine, 0.0);
  const Complex c2 = cosine_behind(before, cosine, after);
  if (!surface.coat) {
    const double s = std::norm(across_plane(before, c0, after, c2));
    const double p = std::norm(in_plane(before, c0, after, c2));
    return std::min(1.0, 0.5 * (s + p));
  }
  const double layer = surface.coat_index;
  const Complex c1 = cosine_behind(before, cosine, layer);
  // Phase of one way through it: 2π n d cos θ / λ, with n d a quarter of its wavelength.
  const Complex phase = 0.5 * std::numbers::pi * (surface.coat->mm() * 1e3 / um) * c1;
  const Complex twice = std::exp(Complex(0.0, 2.0) * phase);
  const auto both = [&](Complex first, Complex second) {
    return std::norm((first + second * twice) / (1.0 + first * second * twice));
  };
  const double s = both(across_plane(before, c0, layer, c1), across_plane(layer, c1, after, c2));
  const double p = both(in_plane(before, c0, layer, c1), in_plane(layer, c1, after, c2));
  return std::clamp(0.5 * (s + p), 0.0, 1.0);
}

std::array<double, 3> axis_transmission(const Prescription& p) {
  std::array<double, 3> out{1.0, 1.0, 1.0};
  for (std::size_t k = 0; k < 3; ++k) {
    double before = 1.0;
    for (const GlassSurface& s : p.surfaces) {
      if (s.stop) continue;
      const double after = refractive_index(s.medium, colours_um[k]);
      out[k] *= 1.0 - reflectance(s, before, after, 1.0, colours_um[k]);
      before = after;
    }
  }
  return out;
}

}  // namespace jolly_iris
