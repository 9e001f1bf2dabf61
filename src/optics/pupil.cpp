#include "jolly_iris/optics/pupil.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <numbers>

#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/optics/opening_light.hpp"
#include "jolly_iris/optics/seen_blur.hpp"

namespace jolly_iris {

namespace {

using std::numbers::pi;
constexpr double fine_tolerance = 1e-4;  // of outlines whose area is wanted

struct Circle {
  Point2 centre{};
  double radius = 0.0;
};

// Cuts contours down to a circle. What lies outside moves along its radius onto the circle, so that
// each contour goes on winding as often around every point within as before: areas stay right for
// outlines of any shape.
class CircleClip {
 public:
  CircleClip(const Circle& circle, double tolerance)
      : circle_(circle),
        step_(2.0 * std::acos(1.0 - std::clamp(tolerance / circle.radius, 1e-9, 0.3))) {}

  Contour operator()(const Contour& contour) {
    out_.clear();
    const std::size_t n = contour.size();
    out_.reserve(2 * n);
    std::size_t first = 0;
    while (first < n && outside(contour[first])) ++first;
    if (first == n) first = 0;
    outside_ = outside(contour[first]);
    if (outside_) leave(contour[first]);
    for (std::size_t k = 0; k < n; ++k) {
      side(contour[(first + k) % n], contour[(first + k + 1) % n]);
    }
    if (outside_) enter(contour[first]);
    return std::move(out_);
  }

 private:
  Point2 from_centre(Point2 p) const { return {p.x - circle_.centre.x, p.y - circle_.centre.y}; }
  bool outside(Point2 p) const {
    const Point2 f = from_centre(p);
    return f.x * f.x + f.y * f.y > circle_.radius * circle_.radius;
  }
  double angle(Point2 p) const {
    const Point2 f = from_centre(p);
    return std::atan2(f.y, f.x);
  }

  void side(Point2 a, Point2 b) {
    const Point2 d{b.x - a.x, b.y - a.y};
    const Point2 f = from_centre(a);
    const double dd = d.x * d.x + d.y * d.y;
    const double fd = f.x * d.x + f.y * d.y;
    const double c = f.x * f.x + f.y * f.y - circle_.radius * circle_.radius;
    const double root = fd * fd - dd * c;
    if (!outside_) out_.push_back(a);
    if (root <= 0.0 || dd == 0.0) return turn(a, b);
    const double in = (-fd - std::sqrt(root)) / dd;
    const double out = (-fd + std::sqrt(root)) / dd;
    const auto at = [&](double t) { return Point2{a.x + t * d.x, a.y + t * d.y}; };
    if (outside_) {
      if (!(in > 0.0 && in < 1.0)) return turn(a, b);
      turn(a, at(in));
      enter(at(in));
      out_.push_back(at(in));
      if (out >= 1.0) return;
      leave(at(out));
      turn(at(out), b);
    } else if (out < 1.0) {
      leave(at(std::max(out, 0.0)));
      turn(at(std::max(out, 0.0)), b);
    }
  }

  // The way outside, from where it leaves to where it enters: only how far it turns counts.
  void leave(Point2 p) {
    outside_ = true;
    left_at_ = angle(p);
    turns_ = 0;
  }
  // Counts how often the way crosses the half-line at angle π, where atan2 jumps.
  void turn(Point2 a, Point2 b) {
    if (!outside_) return;
    const Point2 p = from_centre(a);
    const Point2 q = from_centre(b);
    if ((p.y < 0.0) == (q.y < 0.0)) return;
    const double x = p.x + (q.x - p.x) * p.y / (p.y - q.y);
    if (x < 0.0) turns_ += q.y < 0.0 ? 1 : -1;
  }
  void enter(Point2 p) {
    outside_ = false;
    const double run = angle(p) - left_at_ + 2.0 * pi * turns_;
    const int n = std::max(1, static_cast<int>(std::ceil(std::abs(run) / step_)));
    // Each further point by turning the last one.
    const double c = std::cos(run / n);
    const double s = std::sin(run / n);
    Point2 r{circle_.radius * std::cos(left_at_), circle_.radius * std::sin(left_at_)};
    for (int i = 0; i < n; ++i) {
      out_.push_back({circle_.centre.x + r.x, circle_.centre.y + r.y});
      r = {r.x * c - r.y * s, r.x * s + r.y * c};
    }
  }

  Circle circle_;
  double step_;
  Contour out_{};
  bool outside_ = false;
  double left_at_ = 0.0;
  int turns_ = 0;
};

// The opening as it is seen from a place: where a pupil point p passes a rim of radius R at h,
// |p (1 − h/z) + X h/z| ≤ R, in opening radii.
Circle rim_seen(const LensSampler::Rim& rim, const PupilPlace& place, double radius) {
  const double scale = 1.0 - rim.ahead * place.inverse_z;
  const double k = 1.0 / (scale * radius);
  return {{-place.right * rim.ahead * k, -place.up * rim.ahead * k}, rim.radius * k};
}

double area_of(const std::vector<Contour>& contours) {
  double twice = 0.0;
  for (const Contour& c : contours) twice += signed_area_twice(c);
  return 0.5 * twice;
}

}  // namespace

Pupil::Pupil(const VirtualCamera& camera)
    : opening_(camera.iris, camera.aperture_radius), lens_(faults_of(camera)) {
  lens_.opening = opening_.table();
  lens_.light = opening_light(camera.iris, opening_);
  for (const VignettingRim& rim : camera.vignetting) {
    lens_.rims.push_back({rim.radius.m(), rim.ahead.m()});
  }
  if (lens_.rims.empty()) return;
  fine_ = whole(fine_tolerance);
  fine_area_ = area_of(fine_);
  if (!even()) fill_points();
  middle_ = fraction({});
  if (middle_ < 0.5) {
    throw OpticsError(
        fmt::format("the barrel's rims let only {:.0f} % of the opening's light through in the "
                    "picture's middle; f/{:.3g} needs an opening of {:.4g} mm, so their radii are "
                    "too small, or their places wrong",
                    100.0 * middle_, camera.lens_f_number, 2.0 * camera.aperture_radius.mm()),
        "lens.barrel");
  }
  lens_.gain = 1.0 / middle_;
}

void Pupil::fill_points() {
  constexpr int n = 80;
  double all = 0.0;
  for (int i = 0; i < n; ++i) {
    for (int j = 0; j < n; ++j) {
      const Point2 p = opening_.sample((i + 0.5) / n, (j + 0.5) / n);
      if (opening_.blocked(p)) continue;
      const auto light = lens_.light.at(p);
      points_.push_back(
          {{p.x * lens_.aspect, p.y}, static_cast<double>(light[0] + light[1] + light[2])});
      all += points_.back().light;
    }
  }
  for (LitPoint& p : points_) p.light /= all;
}

std::vector<Contour> Pupil::whole(double tolerance) const {
  std::vector<Contour> all = opening_.contours(tolerance);
  for (Contour& c : all) {
    for (Point2& p : c) p.x *= lens_.aspect;
  }
  return all;
}

std::vector<Contour> Pupil::contours(const PupilPlace& place, double tolerance) const {
  return cut(whole(tolerance), place, tolerance);
}

std::vector<Contour> Pupil::cut(std::vector<Contour> contours, const PupilPlace& place,
                                double tolerance) const {
  bool any = false;
  for (const LensSampler::Rim& rim : lens_.rims) {
    if (rim.ahead * place.inverse_z >= 1.0) continue;  // nearer than the rim: it is behind it
    const Circle seen = rim_seen(rim, place, lens_.radius);
    if (std::hypot(seen.centre.x, seen.centre.y) + opening_.corner_radius() <= seen.radius) {
      continue;
    }
    any = true;
    CircleClip clip(seen, tolerance);
    for (Contour& c : contours) c = clip(c);
  }
  if (!any) return contours;
  double twice = 0.0;
  std::erase_if(contours, [&](const Contour& c) {
    const double own = signed_area_twice(c);
    twice += own;
    return std::abs(own) < 1e-9;
  });
  if (twice < 2e-9) return {};
  return contours;
}

bool Pupil::cuts(const PupilPlace& place) const {
  return std::any_of(lens_.rims.begin(), lens_.rims.end(), [&](const LensSampler::Rim& rim) {
    if (rim.ahead * place.inverse_z >= 1.0) return false;
    const Circle seen = rim_seen(rim, place, lens_.radius);
    return std::hypot(seen.centre.x, seen.centre.y) + opening_.corner_radius() > seen.radius;
  });
}

double Pupil::open(const PupilPlace& place) const {
  if (lens_.rims.empty()) return 1.0;
  return std::clamp(area_of(cut(fine_, place, fine_tolerance)) / fine_area_, 0.0, 1.0);
}

double Pupil::fraction(const PupilPlace& place) const {
  if (even()) return open(place);
  // The rims as seen from there, squared: one comparison a point.
  std::vector<Circle> seen;
  for (const LensSampler::Rim& rim : lens_.rims) {
    if (rim.ahead * place.inverse_z < 1.0) seen.push_back(rim_seen(rim, place, lens_.radius));
  }
  double sum = 0.0;
  for (const LitPoint& p : points_) {
    bool open = true;
    for (const Circle& c : seen) {
      const double x = p.at.x - c.centre.x;
      const double y = p.at.y - c.centre.y;
      open = open && x * x + y * y <= c.radius * c.radius;
    }
    if (open) sum += p.light;
  }
  return sum;
}

double Pupil::light(const PupilPlace& place) const {
  return lens_.rims.empty() ? 1.0 : fraction(place) / middle_;
}

LensSampler lens_sampler(const VirtualCamera& camera) { return Pupil(camera).lens(); }

}  // namespace jolly_iris
