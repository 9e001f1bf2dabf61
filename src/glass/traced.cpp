#include "jolly_iris/glass/traced.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <limits>

#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/optics/opening.hpp"
#include "optics/enum_name.hpp"

namespace jolly_iris {

namespace {

// Steps that an asphere is found in, and how exactly, mm.
constexpr int most_steps = 40;
constexpr double found_mm = 1e-13;

using Vec = std::array<double, 3>;

double dot(const Vec& a, const Vec& b) { return a[0] * b[0] + a[1] * b[1] + a[2] * b[2]; }

// Height and slope against r² of an asphere.
struct Sag {
  double z = 0.0;
  double slope = 0.0;
};
Sag asphere(const TracedSurface& s, double square) {
  const double c = s.curvature;
  const double root = std::sqrt(1.0 - (1.0 + s.conic) * c * c * square);
  Sag out{c * square / (1.0 + root), 0.5 * c / root};
  double power = square;  // r², r⁴, …
  for (std::size_t i = 0; i < s.terms.size(); ++i) {
    out.slope += static_cast<double>(i + 2) * s.terms[i] * power;
    power *= square;
    out.z += s.terms[i] * power;
  }
  return out;
}

// The point where a ray meets a surface and the normal there (towards the film); the ray's place is
// against the vertex. Comparisons are written so that NaN fails them.
bool meet(const TracedSurface& s, Vec& at, const Vec& along, Vec& normal) {
  // In the vertex's plane first: numbers stay small.
  const double to_plane = -at[2] / along[2];
  at = {at[0] + to_plane * along[0], at[1] + to_plane * along[1], 0.0};
  const double c = s.curvature;
  if (c == 0.0 && s.terms.empty()) {
    normal = {0.0, 0.0, 1.0};
    return std::isfinite(at[0]) && std::isfinite(at[1]);
  }
  const double bx = s.curved == Curved::up ? 0.0 : 1.0;
  const double by = s.curved == Curved::across ? 0.0 : 1.0;
  // A t² − 2 B t + C = 0; of its roots the one next to the vertex.
  const double a = c * (bx * along[0] * along[0] + by * along[1] * along[1] +
                        (1.0 + s.conic) * along[2] * along[2]);
  const double b = along[2] - c * (bx * at[0] * along[0] + by * at[1] * along[1]);
  const double k = c * (bx * at[0] * at[0] + by * at[1] * at[1]);
  const double square = b * b - a * k;
  if (!(square >= 0.0)) return false;
  const double t = k / (b + std::copysign(std::sqrt(square), b));
  at = {at[0] + t * along[0], at[1] + t * along[1], t * along[2]};
  if (s.terms.empty() && s.conic == 0.0 && s.curved == Curved::round) {
    // A sphere: the way to its middle has the length of its radius.
    normal = {-c * at[0], -c * at[1], 1.0 - c * at[2]};
    return normal[2] > 0.0;
  }
  if (s.terms.empty()) {
    const double facing = 1.0 - c * (1.0 + s.conic) * at[2];
    if (!(facing > 0.0)) return false;
    const Vec n{-c * bx * at[0], -c * by * at[1], facing};
    const double length = std::sqrt(dot(n, n));
    normal = {n[0] / length, n[1] / length, n[2] / length};
    return true;
  }
  for (int step = 0; step < most_steps; ++step) {
    const Sag sag = asphere(s, at[0] * at[0] + at[1] * at[1]);
    const double off = at[2] - sag.z;
    const double slope = along[2] - 2.0 * sag.slope * (at[0] * along[0] + at[1] * along[1]);
    const double by_t = -off / slope;
    if (!std::isfinite(by_t)) return false;
    at = {at[0] + by_t * along[0], at[1] + by_t * along[1], at[2] + by_t * along[2]};
    if (!(std::abs(by_t) > found_mm)) {
      const Vec n{-2.0 * sag.slope * at[0], -2.0 * sag.slope * at[1], 1.0};
      const double length = std::sqrt(dot(n, n));
      normal = {n[0] / length, n[1] / length, n[2] / length};
      return true;
    }
  }
  return false;
}

// Snell's law; false where all of it is reflected.
bool refract(Vec& along, Vec normal, double before, double after) {
  double cosine = dot(along, normal);
  if (cosine < 0.0) {
    normal = {-normal[0], -normal[1], -normal[2]};
    cosine = -cosine;
  }
  const double ratio = before / after;
  const double square = 1.0 - ratio * ratio * (1.0 - cosine * cosine);
  if (!(square >= 0.0)) return false;
  const double turn = std::sqrt(square) - ratio * cosine;
  for (std::size_t i = 0; i < 3; ++i) along[i] = ratio * along[i] + turn * normal[i];
  return true;
}

}  // namespace

std::string_view to_string(RayEnd end) {
  return name_of<RayEnd::reflected>(end, {"passed", "missed", "clipped", "reflected"});
}

TravelRange travel_range(const Prescription& p) {
  TravelRange out{-Length::infinity(), Length::infinity()};
  for (std::size_t i = 0; i < p.surfaces.size(); ++i) {
    // The film stays where it is.
    const double next = i + 1 < p.surfaces.size() ? p.moves(i + 1) : 0.0;
    const double opens = p.moves(i) - next;  // a gap's growth with the travel
    const Length gap = p.surfaces[i].gap;
    if (opens > 0.0) out.least = std::max(out.least, gap * (-1.0 / opens));
    if (opens < 0.0) out.most = std::min(out.most, gap * (-1.0 / opens));
  }
  return out;
}

TracedGlass::TracedGlass(const Prescription& p, Length travel, double wavelength_um)
    : stop_(p.stop()), wavelength_um_(wavelength_um) {
  require_sound(p);
  const TravelRange range = travel_range(p);
  if (!(travel >= range.least) || !(travel <= range.most)) {
    throw OpticsError(fmt::format(
        "the glass {}: at a travel of {:.4g} mm its surfaces would go through each other; it goes "
        "from {:.4g} to {:.4g} mm",
        p.name, travel.mm(), range.least.mm(), range.most.mm()));
  }
  double z = 0.0;
  double after = 1.0;
  surfaces_.resize(p.surfaces.size());
  for (std::size_t i = p.surfaces.size(); i-- > 0;) {
    const GlassSurface& s = p.surfaces[i];
    z -= s.gap.mm();
    TracedSurface& out = surfaces_[i];
    out.z = z - p.moves(i) * travel.mm();
    out.curvature = s.radius.is_finite() ? 1.0 / s.radius.mm() : 0.0;
    out.conic = s.conic;
    out.terms = s.terms;
    out.curved = s.curved;
    out.clear_sq = 0.25 * s.clear.mm() * s.clear.mm();
    out.stop = s.stop;
  }
  for (std::size_t i = 0; i < surfaces_.size(); ++i) {
    surfaces_[i].before = after;
    // The opening's plane lies within what is before it: air, as mistakes_in holds.
    after = refractive_index(p.surfaces[i].medium, wavelength_um);
    surfaces_[i].after = after;
  }
  opening_ = 0.5 * p.surfaces[stop_].clear.mm();
}

void TracedGlass::set_opening(Length radius) {
  const double widest = std::sqrt(surfaces_[stop_].clear_sq);
  if (!(radius.mm() > 0.0) || !(radius.mm() <= widest * (1.0 + 1e-12))) {
    throw OpticsError(
        fmt::format("{:.4g} mm is no radius of an opening that has {:.4g} mm at the "
                    "most",
                    radius.mm(), widest));
  }
  opening_ = radius.mm();
  outline_.clear();
}

void TracedGlass::set_opening(Length radius, const Iris& iris) {
  set_opening(radius);
  const double widest = std::sqrt(surfaces_[stop_].clear_sq);
  if (iris.blades == 0 && iris.outline.empty()) return;
  if (radius.mm() >= widest * (1.0 - 1e-9)) return;
  const Opening shape(iris, radius);
  inside_sq_ = std::numeric_limits<double>::infinity();
  outside_sq_ = 0.0;
  for (const Point2& p : shape.outline()) {
    outline_.push_back({radius.mm() * p.x, radius.mm() * p.y});
  }
  for (std::size_t i = 0; i < outline_.size(); ++i) {
    const auto& a = outline_[i];
    const auto& b = outline_[(i + 1) % outline_.size()];
    outside_sq_ = std::max(outside_sq_, a[0] * a[0] + a[1] * a[1]);
    // The side's nearest point to the middle.
    const double dx = b[0] - a[0];
    const double dy = b[1] - a[1];
    const double along = std::clamp(-(a[0] * dx + a[1] * dy) / (dx * dx + dy * dy), 0.0, 1.0);
    const double x = a[0] + along * dx;
    const double y = a[1] + along * dy;
    inside_sq_ = std::min(inside_sq_, x * x + y * y);
  }
}

// Whether a place of the stop's plane lets light through: within the outline by the even-odd rule,
// where that is not plain from its distance.
bool TracedGlass::is_open(double x, double y) const {
  const double square = x * x + y * y;
  if (outline_.empty()) return square <= opening_ * opening_;
  if (!(square <= surfaces_[stop_].clear_sq) || !(square <= outside_sq_)) return false;
  if (square < inside_sq_) return true;
  bool inside = false;
  for (std::size_t i = 0; i < outline_.size(); ++i) {
    const auto& a = outline_[i];
    const auto& b = outline_[(i + 1) % outline_.size()];
    if ((a[1] > y) == (b[1] > y)) continue;
    if (x < a[0] + (y - a[1]) / (b[1] - a[1]) * (b[0] - a[0])) inside = !inside;
  }
  return inside;
}

// @param to the surface at which it stops, without being refracted there where it is the stop
GlassWay TracedGlass::run(GlassRay ray, std::ptrdiff_t from, std::ptrdiff_t to, bool clips) const {
  const std::ptrdiff_t step = from <= to ? 1 : -1;
  for (std::ptrdiff_t i = from;; i += step) {
    const auto index = static_cast<std::size_t>(i);
    const TracedSurface& s = surfaces_[index];
    Vec at{ray.at[0], ray.at[1], ray.at[2] - s.z};
    Vec normal{};
    if (!meet(s, at, ray.along, normal)) return {ray, RayEnd::missed, index};
    ray.at = {at[0], at[1], at[2] + s.z};
    if (clips) {
      const bool open =
          s.stop ? is_open(at[0], at[1]) : at[0] * at[0] + at[1] * at[1] <= s.clear_sq;
      if (!open) return {ray, RayEnd::clipped, index};
    }
    const double before = step > 0 ? s.before : s.after;
    const double after = step > 0 ? s.after : s.before;
    if (before != after && !refract(ray.along, normal, before, after)) {
      return {ray, RayEnd::reflected, index};
    }
    if (i == to) break;
  }
  return {ray, RayEnd::passed, static_cast<std::size_t>(to)};
}

GlassWay TracedGlass::to_film(const GlassRay& ray, bool clips) const {
  GlassWay way = run(ray, 0, static_cast<std::ptrdiff_t>(surfaces_.size()) - 1, clips);
  if (way.end != RayEnd::passed) return way;
  const double t = -way.ray.at[2] / way.ray.along[2];
  for (std::size_t i = 0; i < 3; ++i) way.ray.at[i] += t * way.ray.along[i];
  way.ray.at[2] = 0.0;
  return way;
}

GlassWay TracedGlass::to_scene(const GlassRay& ray, bool clips) const {
  GlassWay way = run(ray, static_cast<std::ptrdiff_t>(surfaces_.size()) - 1, 0, clips);
  if (way.end != RayEnd::passed) return way;
  const double t = (surfaces_.front().z - way.ray.at[2]) / way.ray.along[2];
  for (std::size_t i = 0; i < 3; ++i) way.ray.at[i] += t * way.ray.along[i];
  return way;
}

GlassWay TracedGlass::scene_to_stop(const GlassRay& ray, bool clips) const {
  return run(ray, 0, static_cast<std::ptrdiff_t>(stop_), clips);
}

GlassWay TracedGlass::to_surface(const GlassRay& ray, std::size_t surface) const {
  GlassWay way{ray, RayEnd::passed, 0};
  if (surface > 0) way = run(ray, 0, static_cast<std::ptrdiff_t>(surface) - 1, false);
  if (way.end != RayEnd::passed) return way;
  const TracedSurface& s = surfaces_[surface];
  Vec at{way.ray.at[0], way.ray.at[1], way.ray.at[2] - s.z};
  Vec normal{};
  way.surface = surface;
  if (!meet(s, at, way.ray.along, normal)) {
    way.end = RayEnd::missed;
    return way;
  }
  way.ray.at = {at[0], at[1], at[2] + s.z};
  return way;
}

GlassWay TracedGlass::film_to_stop(const GlassRay& ray, bool clips) const {
  return run(ray, static_cast<std::ptrdiff_t>(surfaces_.size()) - 1,
             static_cast<std::ptrdiff_t>(stop_), clips);
}

double sag_of(const TracedSurface& s, double x, double y) {
  const double bx = s.curved == Curved::up ? 0.0 : 1.0;
  const double by = s.curved == Curved::across ? 0.0 : 1.0;
  return asphere(s, bx * x * x + by * y * y).z;
}

}  // namespace jolly_iris
