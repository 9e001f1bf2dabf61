// A glass in a compact form, for renderers: from a place in the frame and two random numbers to a
// ray, by polynomials in place of surfaces.
//
//   const GlassSampler glass = glass_sampler(camera);           // glass_fit.hpp; once a frame
//   const GlassSampler::Ray ray = glass.ray(right, up, u, v, 1); // metres on the gate; green
//   colour += scene(ray.origin, ray.direction) * ray.weight;     // then divided by the count
//
// The origin lies in the entrance pupil's plane, which is the camera's; x is right, y up, and the
// camera looks along −z. The direction has z = −1. (u, v) in [0, 1)² are spread evenly over what
// the opening may look like from that place; what a rim or the opening hides has the weight 0. In
// the picture's middle the weights' mean is 1.
//
// What comes out of a round glass is an odd function of where the ray is on the film, x, and in
// the last surface's plane, p, that turns with them:
//
//   A(x·x, x·p, p·p) x + B(x·x, x·p, p·p) p
//
// with polynomials A and B. (E.g. Welford, Aberrations of Optical Systems, section 7.1: the
// invariants of rotation.) So are the places where it goes past the rims.
//
// This one file needs only the standard library of C++14 and throws nothing.
#pragma once

#include <array>
#include <cmath>
#include <cstddef>
#include <vector>

namespace jolly_iris {

struct GlassSampler {
  static constexpr std::size_t lanes = 4;
  /// One colour's way: what comes out, all at once. Output 0 is the origin (m), 1 the direction
  /// (for z = −1), 2 the place in the stop (opening radii), the others places at rims (each in its
  /// own clear radius: up to 1 it passes).
  struct Way {
    std::size_t outputs = 3;  ///< 3 … 16
    /// Outputs are padded with zeros to a multiple of 4, the stride n. Of monomial t and output o:
    /// [2 t n + o] is what x is multiplied with, [(2 t + 1) n + o] what p is. Monomials are (x·x)^i
    /// (x·p)^j (p·p)^k, i + j + k ≤ (order − 1) / 2, k running quickest, then j.
    std::vector<double> weights{};
    std::size_t stride() const { return (outputs + lanes - 1) / lanes * lanes; }
  };
  /// What the opening may look like from a height on the film: an ellipse in the last surface's
  /// plane, along the height and across it.
  struct Bound {
    double middle = 0.0;  ///< m, along
    double along = 0.0;   ///< half an axis, m
    double across = 0.0;
  };
  struct Ray {
    std::array<double, 3> origin{};
    std::array<double, 3> direction{};
    double weight = 0.0;
  };

  int order = 7;                ///< of the polynomials, odd, 3 … 9
  double reach = 1.0;           ///< m on the film that are 1 in x: the farthest place
  double pupil = 1.0;           ///< m that are 1 in p
  double plane = 1.0;           ///< from the film to the last surface's plane, m
  double middle_light = 1.0;    ///< projected solid angle that the picture's middle sees
  std::vector<Bound> bounds{};  ///< at heights of 0 … reach, evenly
  /// Of the opening, in its radii, around its middle; empty: round.
  std::vector<std::array<double, 2>> outline{};
  double inside_sq = 0.0;  ///< squared radii between which its edge lies
  double outside_sq = 1.0;
  std::array<Way, 3> ways{};  ///< red, green, blue

  /// @param right, up on the gate, m, as the picture shows it
  Ray ray(double right, double up, double u, double v, std::size_t colour) const {
    Ray out;
    const double x = -right;  // the film is upside down
    const double y = -up;
    const double height = std::sqrt(x * x + y * y);
    const double cx = height > 0.0 ? x / height : 1.0;
    const double cy = height > 0.0 ? y / height : 0.0;
    const Bound at = bound(height);
    const double r = std::sqrt(u);
    const double angle = 6.283185307179586 * v;
    const double along = at.middle + at.along * r * std::cos(angle);
    const double across = at.across * r * std::sin(angle);
    const double px = along * cx - across * cy;
    const double py = along * cy + across * cx;
    const double xs = x / reach;
    const double ys = y / reach;
    const double pxs = px / pupil;
    const double pys = py / pupil;
    Monomials m;
    m.fill(xs * xs + ys * ys, xs * pxs + ys * pys, pxs * pxs + pys * pys, (order - 1) / 2);
    const Way& way = ways[colour];
    const Values all = values(way, m, xs, ys, pxs, pys);
    for (std::size_t i = 3; i < way.outputs; ++i) {
      if (!(all.x[i] * all.x[i] + all.y[i] * all.y[i] <= 1.0)) return out;
    }
    if (!open(all.x[2], all.y[2])) return out;
    out.origin = {all.x[0], all.y[0], 0.0};
    out.direction = {all.x[1], all.y[1], -1.0};
    const double dx = px - x;
    const double dy = py - y;
    const double square = dx * dx + dy * dy + plane * plane;
    out.weight =
        3.141592653589793 * at.along * at.across * plane * plane / (square * square) / middle_light;
    return out;
  }

  /// So many weights has each half of a polynomial.
  static std::size_t terms(int order) {
    const std::size_t n = static_cast<std::size_t>((order - 1) / 2);
    return (n + 1) * (n + 2) * (n + 3) / 6;
  }

  struct Monomials {
    std::array<double, 35> value;  // as many as `count` are set; of order 9
    std::size_t count = 0;
    void fill(double s, double t, double w, int degree) {
      count = 0;
      double si = 1.0;
      for (int i = 0; i <= degree; ++i, si *= s) {
        double tj = si;
        for (int j = 0; i + j <= degree; ++j, tj *= t) {
          double wk = tj;
          for (int k = 0; i + j + k <= degree; ++k, wk *= w) value[count++] = wk;
        }
      }
    }
  };

  static constexpr std::size_t most_outputs = 16;
  struct Values {
    std::array<double, most_outputs> x, y;
  };
  /// All outputs of one ray, four side by side, so that a compiler makes vectors of them. Those
  /// beyond way.outputs are not set.
  static Values values(const Way& way, const Monomials& m, double x, double y, double px,
                       double py) {
    Values out;
    const std::size_t stride = 2 * way.stride();
    for (std::size_t first = 0; first < way.outputs; first += lanes) {
      std::array<double, lanes> a{};
      std::array<double, lanes> b{};
      const double* w = way.weights.data() + first;
      for (std::size_t t = 0; t < m.count; ++t, w += stride) {
        const double v = m.value[t];
        const double* const wb = w + way.stride();
        for (std::size_t o = 0; o < lanes; ++o) a[o] += w[o] * v;
        for (std::size_t o = 0; o < lanes; ++o) b[o] += wb[o] * v;
      }
      for (std::size_t o = 0; o < lanes; ++o) {
        out.x[first + o] = a[o] * x + b[o] * px;
        out.y[first + o] = a[o] * y + b[o] * py;
      }
    }
    return out;
  }

  Bound bound(double height) const {
    const double last = static_cast<double>(bounds.size() - 1);
    double at = height / reach * last;
    if (!(at < last)) return bounds.back();
    if (at < 0.0) at = 0.0;
    const std::size_t i = static_cast<std::size_t>(at);
    const double f = at - static_cast<double>(i);
    const Bound& a = bounds[i];
    const Bound& b = bounds[i + 1];
    return {a.middle + f * (b.middle - a.middle), a.along + f * (b.along - a.along),
            a.across + f * (b.across - a.across)};
  }

  /// Whether a place of the opening (radii) lets light through.
  bool open(double x, double y) const {
    const double square = x * x + y * y;
    if (outline.empty()) return square <= 1.0;
    if (square < inside_sq) return true;
    if (!(square <= outside_sq)) return false;
    bool inside = false;
    for (std::size_t i = 0; i < outline.size(); ++i) {
      const std::array<double, 2>& a = outline[i];
      const std::array<double, 2>& b = outline[i + 1 < outline.size() ? i + 1 : 0];
      if ((a[1] > y) == (b[1] > y)) continue;
      if (x < a[0] + (y - a[1]) / (b[1] - a[1]) * (b[0] - a[0])) inside = !inside;
    }
    return inside;
  }
};

}  // namespace jolly_iris
