// What a renderer needs of a lens: from two random numbers and a place in the frame to a ray.
//
//   const LensSampler lens = lens_sampler(camera);              // pupil.hpp; once a frame
//   const LensRay ray = lens.ray(right, up, u, v, 1);           // metres on the gate; green
//   colour += scene(ray.origin, ray.direction) * ray.weight;    // then divided by the count
//
// The origin lies on the entrance pupil, the camera's own origin; x is right, y up, and the camera
// looks along −z. The direction has z = −1, so a ray's parameter is the axial distance. Uniform
// (u, v) in [0, 1)² give points uniform over the opening; the map is continuous within a blade, so
// stratified numbers stay stratified, and nothing is ever rejected: what the barrel hides has the
// weight 0. In the picture's middle the weights' mean is 1.
//
// This one file needs only the standard library of C++14, throws nothing and asks for no types at
// run time, so that a renderer can take it as it is; it is filled by lens_sampler(), or from the
// table that `jolly-iris bokeh --table` writes.
#pragma once

#include <algorithm>
#include <array>
#include <cmath>
#include <cstddef>
#include <vector>

namespace jolly_iris {

/// A place on the pupil, looking into the scene: x right, y up.
struct Point2 {
  double x = 0.0;
  double y = 0.0;
  friend bool operator==(const Point2& a, const Point2& b) { return a.x == b.x && a.y == b.y; }
};

/// Points spread evenly over an outline, in opening radii.
struct OpeningTable {
  /// A point of the edge and its change along one interval. Between two of them the edge is a cubic
  /// (Hermite); intervals of one piece sweep equal areas from the centre.
  struct Node {
    double x = 0.0, y = 0.0;
    double dx = 0.0, dy = 0.0;
  };
  enum class Kind {
    round,     ///< the unit circle
    sectors,   ///< pieces of an outline that is seen whole from its centre
    triangles  ///< any outline: `nodes` holds three corners for each
  };
  static constexpr int intervals = 32;  ///< of one sector
  static constexpr int guides = 256;

  Kind kind = Kind::round;
  double hole = 0.0;            ///< radius that is left out in the middle (not for triangles)
  std::vector<Node> nodes{};    ///< sectors: (intervals + 1) for each
  std::vector<double> start{};  ///< share of the area before each piece; the last is 1
  std::vector<int> guide{};     ///< for u = i / guides, the piece to begin looking at
  bool equal = false;           ///< all pieces have the same area

  Point2 sample(double u, double v) const {
    if (kind == Kind::round) return in_ring(on_disk(u, v));
    const Piece at = piece_at(u);
    return kind == Kind::sectors ? in_sector(at.index, at.fraction, v)
                                 : in_triangle(at.index, at.fraction, v);
  }

  /// The same for `n` pairs at once, for renderers that work in batches: a round opening's points
  /// are then made by whole vectors.
  void sample(const double* u, const double* v, double* x, double* y, std::size_t n) const {
    if (kind == Kind::round && hole == 0.0) {
      round_points(u, v, x, y, n);
      return;
    }
    for (std::size_t i = 0; i < n; ++i) {
      const Point2 p = sample(u[i], v[i]);
      x[i] = p.x;
      y[i] = p.y;
    }
  }

 private:
  // Concentric map: Shirley & Chiu, "A low distortion map between disk and square" (1997). The
  // angle stays within ±45°, where short polynomials are exact to a double's last digits.
  static Point2 on_disk(double u, double v) {
    constexpr double quarter = 0.78539816339744830962;
    const double a = 2.0 * u - 1.0;
    const double b = 2.0 * v - 1.0;
    const bool width = std::abs(a) > std::abs(b);
    const double r = width ? a : b;
    // In the very middle both are zero. (Asked in this way, compilers make whole vectors of it.)
    constexpr double min = 1e-300;
    const double t = quarter * (width ? b : a) / (std::abs(r) > min ? r : min);
    const double q = t * t;
    const double sine =
        t * (1.0 +
             q * (-1.0 / 6.0 +
                  q * (1.0 / 120.0 + q * (-1.0 / 5040.0 + q * (1.0 / 362880.0 - q / 39916800.0)))));
    const double cosine =
        1.0 + q * (-0.5 + q * (1.0 / 24.0 +
                               q * (-1.0 / 720.0 + q * (1.0 / 40320.0 -
                                                        q * (1.0 / 3628800.0 - q / 479001600.0)))));
    return width ? Point2{r * cosine, r * sine} : Point2{r * sine, r * cosine};
  }

  static void round_points(const double* u, const double* v, double* x, double* y, std::size_t n) {
    for (std::size_t i = 0; i < n; ++i) {
      const Point2 p = on_disk(u[i], v[i]);
      x[i] = p.x;
      y[i] = p.y;
    }
  }

  // The disk's area moved out of the hole, along its radii.
  Point2 in_ring(Point2 p) const {
    if (hole == 0.0) return p;
    const double r2 = p.x * p.x + p.y * p.y;
    if (r2 == 0.0) return {hole, 0.0};
    const double k = std::sqrt((r2 * (1.0 - hole * hole) + hole * hole) / r2);
    return {p.x * k, p.y * k};
  }

  struct Piece {
    std::size_t index;
    double fraction;  // within it
  };
  Piece piece_at(double u) const {
    const std::size_t count = start.size() - 1;
    if (equal) {
      const double scaled = u * static_cast<double>(count);
      const std::size_t i = std::min(static_cast<std::size_t>(scaled), count - 1);
      return {i, scaled - static_cast<double>(i)};
    }
    auto i = static_cast<std::size_t>(
        guide[std::min(static_cast<std::size_t>(u * guides), std::size_t{guides - 1})]);
    while (i + 1 < count && start[i + 1] <= u) ++i;
    return {i, (u - start[i]) / (start[i + 1] - start[i])};
  }

  Point2 in_sector(std::size_t piece, double s, double v) const {
    const double scaled = s * intervals;
    const int k = std::min(static_cast<int>(scaled), intervals - 1);
    const double t = scaled - k;
    const Node* n = nodes.data() + piece * (intervals + 1) + static_cast<std::size_t>(k);
    const double t2 = t * t;
    const double to = t2 * (3.0 - 2.0 * t);
    const double out = t * (1.0 - t) * (1.0 - t);
    const double in = t2 * (t - 1.0);
    const double x = n->x + to * (n[1].x - n->x) + out * n->dx + in * n[1].dx;
    const double y = n->y + to * (n[1].y - n->y) + out * n->dy + in * n[1].dy;
    double r2 = v;
    if (hole > 0.0) r2 += (1.0 - v) * hole * hole / (x * x + y * y);
    const double r = std::sqrt(r2);
    return {x * r, y * r};
  }

  Point2 in_triangle(std::size_t piece, double s, double v) const {
    const Node* n = nodes.data() + 3 * piece;
    const double r = std::sqrt(s);
    const double a = 1.0 - r;
    const double b = r * (1.0 - v);
    const double c = r * v;
    return {a * n[0].x + b * n[1].x + c * n[2].x, a * n[0].y + b * n[1].y + c * n[2].y};
  }
};

/// Light over the opening, on a square grid from −reach to +reach (opening radii), rows from the
/// bottom; empty where it is the same everywhere. Its mean over the opening is 1.
struct OpeningLightGrid {
  int side = 0;
  double reach = 1.0;
  std::vector<std::array<float, 3>> light{};

  /// Between the four cells around a point.
  std::array<float, 3> at(Point2 p) const {
    if (side == 0) return {1.0F, 1.0F, 1.0F};
    const auto cell = [this](double v) {
      return std::min(std::max((v / reach + 1.0) * 0.5 * side - 0.5, 0.0), side - 1.000001);
    };
    const double x = cell(p.x);
    const double y = cell(p.y);
    const auto i = static_cast<std::size_t>(x);
    const auto j = static_cast<std::size_t>(y);
    const auto fx = static_cast<float>(x - static_cast<double>(i));
    const auto fy = static_cast<float>(y - static_cast<double>(j));
    const std::array<float, 3>* row = light.data() + j * static_cast<std::size_t>(side) + i;
    const std::array<float, 3>* next = row + side;
    std::array<float, 3> out{};
    for (std::size_t c = 0; c < 3; ++c) {
      out[c] = (1.0F - fy) * ((1.0F - fx) * row[0][c] + fx * row[1][c]) +
               fy * ((1.0F - fx) * next[0][c] + fx * next[1][c]);
    }
    return out;
  }
};

struct LensRay {
  std::array<double, 3> origin{};             ///< on the pupil, metres; z = 0
  std::array<double, 3> direction{0, 0, -1};  ///< z = −1
  std::array<float, 3> weight{1, 1, 1};
};

/// The whole lens. Lengths are metres, powers dioptres; places on the gate count from the axis, as
/// seen in the scene (desqueezed, upright).
struct LensSampler {
  struct Rim {
    double radius = 0.0;
    double ahead = 0.0;  ///< of the pupil, towards the scene
  };
  OpeningTable opening{};
  OpeningLightGrid light{};
  double radius = 0.0;         ///< D / 2
  double aspect = 1.0;         ///< the pupil's width against its height
  double focal = 0.05;         ///< pinhole focal length v
  double inverse_focus = 0.0;  ///< 1 / s, axial
  std::vector<Rim> rims{};
  double gain = 1.0;       ///< against what the rims take in the picture's middle
  double spherical = 0.0;  ///< at this stop: a of faults.hpp
  double coma = 0.0;       ///< at this stop, per metre of image height
  double curvature = 0.0;  ///< dioptres per squared metre of image height
  std::array<double, 3> focus_shift{};
  std::array<double, 3> magnification{1.0, 1.0, 1.0};

  /// Whether red, green and blue take different rays: then trace one for each of them.
  bool coloured() const {
    return focus_shift[0] != focus_shift[1] || focus_shift[1] != focus_shift[2] ||
           magnification[0] != magnification[1] || magnification[1] != magnification[2];
  }

  /// A point of the opening in opening radii, before the squeeze.
  Point2 point(double u, double v) const { return opening.sample(u, v); }

  /// The ray that brings light to a place on the gate.
  /// @param colour 0, 1, 2: red, green, blue; any where coloured() is false
  LensRay ray(double right, double up, double u, double v, std::size_t colour = 1) const {
    return ray_through(right, up, point(u, v), colour);
  }

  LensRay ray_through(double right, double up, Point2 p, std::size_t colour = 1) const {
    const double qx = right / magnification[colour];
    const double qy = up / magnification[colour];
    const Point2 shifted = deviation(p, qx, qy);
    const double power = power_at(qx, qy, colour);
    LensRay out;
    out.origin = {p.x * radius * aspect, p.y * radius, 0.0};
    out.direction = {(qx - shifted.x) / focal - out.origin[0] * power,
                     (qy - shifted.y) / focal - out.origin[1] * power, -1.0};
    out.weight = weight_of(p, out.origin[0], out.origin[1], out.direction[0], out.direction[1]);
    return out;
  }

  /// Where a point of space comes to lie on the gate through a point of the opening: the way back.
  /// `to` has z < 0.
  struct Landing {
    Point2 at{};
    std::array<float, 3> weight{1, 1, 1};
  };
  Landing land(const std::array<double, 3>& to, Point2 p, std::size_t colour = 1) const {
    const double z = -to[2];
    const double px = p.x * radius * aspect;
    const double py = p.y * radius;
    const double dx = (to[0] - px) / z;
    const double dy = (to[1] - py) / z;
    const double hx = focal * to[0] / z;  // height of the ray through the pupil's middle
    const double hy = focal * to[1] / z;
    const double power = power_at(hx, hy, colour);
    const Point2 shifted = deviation(p, hx, hy);
    const double m = magnification[colour];
    return {
        {m * (focal * (dx + px * power) + shifted.x), m * (focal * (dy + py * power) + shifted.y)},
        weight_of(p, px, py, dx, dy)};
  }

  /// Vergence the lens is focused at for a height on the gate.
  double power_at(double right, double up, std::size_t colour) const {
    return inverse_focus + focus_shift[colour] + curvature * (right * right + up * up);
  }

  /// How far beside a perfect lens's place a ray lands on the gate: spherical aberration and coma
  /// (faults.hpp).
  Point2 deviation(Point2 p, double right, double up) const {
    if (spherical == 0.0 && coma == 0.0) return {};
    const double r2 = p.x * p.x + p.y * p.y;
    const double s = spherical * (r2 - 2.0 / 3.0);
    Point2 shifted{s * p.x * aspect, s * p.y};
    const double height = std::sqrt(right * right + up * up);
    if (coma == 0.0 || height == 0.0) return shifted;
    const double cx = right / height;
    const double cy = up / height;
    const double along = p.x * cx + p.y * cy;
    const double across = p.y * cx - p.x * cy;
    const double k = coma * height / 3.0;
    const double a = k * (3.0 * along * along + across * across - 1.0);
    const double b = k * 2.0 * along * across;
    shifted.x += a * cx - b * cy;
    shifted.y += a * cy + b * cx;
    return shifted;
  }

  /// Light through a point of the opening for a ray that leaves the pupil at (px, py) with slopes
  /// (dx, dy): 0 where a rim of the barrel is in its way.
  std::array<float, 3> weight_of(Point2 p, double px, double py, double dx, double dy) const {
    for (const Rim& rim : rims) {
      const double x = px + dx * rim.ahead;
      const double y = py + dy * rim.ahead;
      if (x * x + y * y > rim.radius * rim.radius) return {0.0F, 0.0F, 0.0F};
    }
    std::array<float, 3> w = light.at(p);
    for (float& c : w) c *= static_cast<float>(gain);
    return w;
  }
};

}  // namespace jolly_iris
