#include "jolly_iris/glass/point_light.hpp"

#include <algorithm>
#include <cmath>
#include <numbers>
#include <optional>

#include "jolly_iris/glass/aim.hpp"
#include "jolly_iris/glass/paraxial.hpp"
#include "stop_wedges.hpp"

namespace jolly_iris {

namespace {

// Points of the opening's rim by which its outline is found.
constexpr int outline_points = 12;
// How much wider than found, as a share: what bulges between those points, and other colours.
constexpr double more = 0.04;
// A difference of directions for what distortion does here.
constexpr double direction_nudge = 1e-4;

using Pair = std::array<double, 2>;

RaySource source(const GlassCamera& camera, const PupilPlace& from) {
  if (from.inverse_z <= 0.0) return RaySource::far({-from.right, -from.up, 1.0});
  const double z = 1e3 / from.inverse_z;
  return RaySource::point({z * from.right, z * from.up, -camera.pupil_to_film().mm() - z});
}

// Where a ray meets the first vertex's plane.
Pair in_plane(const GlassRay& ray, double plane) {
  const double t = (plane - ray.at[2]) / ray.along[2];
  return {ray.at[0] + t * ray.along[0], ray.at[1] + t * ray.along[1]};
}

// What one corner of the lattice knows.
struct Corner {
  Point2 at{};    // m, on the straight picture
  Point2 stop{};  // mm
  double rim = 0.0;
  double light = 0.0;  // a mm² of the first plane
  bool met = false;
};

LightPiece triangle(const Corner& a, const Corner& b, const Corner& c) {
  LightPiece out;
  out.corners = {a.at, b.at, c.at};
  out.count = 3;
  return out;
}

// What cutting needs of a corner.
struct CutCorner {
  Point2 at;
  Point2 stop;
  double rim;
  bool cut;  // it lies where the last cut went
};

// A polygon of the lattice while it is cut.
struct Cut {
  std::array<CutCorner, LightPiece::most> corner;  // as many as `count` are set
  std::size_t count = 0;
};

CutCorner between(const CutCorner& a, const CutCorner& b, double t) {
  const auto mix = [&](double x, double y) { return x + t * (y - x); };
  return {{mix(a.at.x, b.at.x), mix(a.at.y, b.at.y)},
          {mix(a.stop.x, b.stop.x), mix(a.stop.y, b.stop.y)},
          mix(a.rim, b.rim),
          true};
}

// What is left where `side` of a corner is ≥ 0 (Sutherland and Hodgman).
template <class Side>
Cut keep(const Cut& from, const Side& side) {
  Cut out;
  for (std::size_t i = 0; i < from.count && out.count + 2 <= LightPiece::most; ++i) {
    const CutCorner& a = from.corner[i];
    const CutCorner& b = from.corner[i + 1 == from.count ? 0 : i + 1];
    const double sa = side(a);
    const double sb = side(b);
    if (sa >= 0.0) {
      out.corner[out.count] = a;
      out.corner[out.count++].cut = false;
    }
    if ((sa >= 0.0) != (sb >= 0.0)) out.corner[out.count++] = between(a, b, sa / (sa - sb));
  }
  return out;
}

// A piece that was cut along a circle has a chord for its arc: the arc's middle is put between.
Cut bulged(const Cut& cut, const std::array<Corner, 3>& triangle, double radius) {
  const auto on_circle = [&](const CutCorner& k) {
    return std::abs(std::hypot(k.stop.x, k.stop.y) - radius) < 0.02 * radius;
  };
  const Point2 ab{triangle[1].stop.x - triangle[0].stop.x, triangle[1].stop.y - triangle[0].stop.y};
  const Point2 ac{triangle[2].stop.x - triangle[0].stop.x, triangle[2].stop.y - triangle[0].stop.y};
  const double det = ab.x * ac.y - ab.y * ac.x;
  if (cut.count < 3 || cut.count + 1 > LightPiece::most || !(std::abs(det) > 0.0)) return cut;
  Cut out;
  for (std::size_t i = 0; i < cut.count; ++i) {
    const CutCorner& a = cut.corner[i];
    const CutCorner& b = cut.corner[i + 1 == cut.count ? 0 : i + 1];
    out.corner[out.count++] = a;
    if (!a.cut || !b.cut || !on_circle(a) || !on_circle(b) || out.count > cut.count) continue;
    const Point2 chord{0.5 * (a.stop.x + b.stop.x), 0.5 * (a.stop.y + b.stop.y)};
    // Both ends lie within the circle by as little: an edge's linear guess. A parabola through the
    // three has the area of the arc's segment where its middle is 4/3 of the way out.
    const double way = radius / std::hypot(chord.x, chord.y);
    const double further = 1.0 + (way - 1.0) * 4.0 / 3.0;
    const Point2 stop{chord.x * further, chord.y * further};
    const Point2 d{stop.x - triangle[0].stop.x, stop.y - triangle[0].stop.y};
    const double s = (d.x * ac.y - d.y * ac.x) / det;
    const double t = (ab.x * d.y - ab.y * d.x) / det;
    const auto mix = [&](double k0, double k1, double k2) {
      return k0 + s * (k1 - k0) + t * (k2 - k0);
    };
    out.corner[out.count++] = {{mix(triangle[0].at.x, triangle[1].at.x, triangle[2].at.x),
                                mix(triangle[0].at.y, triangle[1].at.y, triangle[2].at.y)},
                               stop,
                               a.rim,
                               true};
  }
  return out;
}

double stop_area(const Cut& c) {
  double twice = 0.0;
  for (std::size_t i = 0; i < c.count; ++i) {
    const Point2& a = c.corner[i].stop;
    const Point2& b = c.corner[(i + 1) % c.count].stop;
    twice += a.x * b.y - a.y * b.x;
  }
  return 0.5 * std::abs(twice);
}

void add(const Cut& cut, double light, std::vector<LightPiece>& pieces) {
  if (cut.count < 3 || !(light > 0.0)) return;
  LightPiece out;
  out.count = cut.count;
  for (std::size_t i = 0; i < cut.count; ++i) out.corners[i] = cut.corner[i].at;
  out.light = light;
  pieces.push_back(out);
}

}  // namespace

PointLight::PointLight(const GlassCamera& camera, const PupilPlace& from)
    : camera_(camera), from_(from) {
  reaches_ = find_middle();
  if (reaches_) find_box();
}

bool PointLight::find_middle() {
  const TracedGlass& glass = camera_.green();
  const double plane = glass.surfaces().front().z;
  // Nearer than the first surface nothing goes through it.
  if (!(1.0 + 1e-3 * (plane + camera_.pupil_to_film().mm()) * from_.inverse_z > 1e-6)) return false;
  std::optional<Pair> guess;
  const auto landing = [&](const PupilPlace& place) -> std::optional<Pair> {
    const auto ray = aimed(glass, source(camera_, place), {0.0, 0.0}, guess);
    if (!ray) return std::nullopt;
    guess = in_plane(*ray, plane);
    const GlassWay way = glass.to_film(*ray, false);
    if (way.end != RayEnd::passed) return std::nullopt;
    return Pair{-1e-3 * camera_.squeeze() * way.ray.at[0], -1e-3 * way.ray.at[1]};
  };
  const auto here = landing(from_);
  if (!here) return false;
  const auto right = landing({from_.right + direction_nudge, from_.up, from_.inverse_z});
  const auto above = landing({from_.right, from_.up + direction_nudge, from_.inverse_z});
  if (!right || !above) return false;
  middle_ = *here;
  const double a = ((*right)[0] - middle_[0]) / direction_nudge;
  const double b = ((*above)[0] - middle_[0]) / direction_nudge;
  const double c = ((*right)[1] - middle_[1]) / direction_nudge;
  const double d = ((*above)[1] - middle_[1]) / direction_nudge;
  const double det = a * d - b * c;
  if (!(det > 0.0)) return false;
  straight_ = {d / det, -b / det, -c / det, a / det};
  // Flux through a piece dP of the first plane against what the pinhole's picture of an emitter
  // counts: an emitter of projected area A, r away at the angle θ, sends A dP cos θ / r² and lies
  // on A det / (z² cos θ) of the picture, det m² on the film for a unit of direction each way. A
  // picture counts irradiance against that of its middle, the projected solid angle there.
  const double off = 1.0 / std::sqrt(1.0 + from_.right * from_.right + from_.up * from_.up);
  light_of_mm2_ = off * camera_.squeeze() / (camera_.middle_light() * 1e6 * det);
  return true;
}

void PointLight::find_box() {
  const TracedGlass& glass = camera_.green();
  const RaySource from = source(camera_, from_);
  const double plane = glass.surfaces().front().z;
  const auto chief = aimed(glass, from, {0.0, 0.0});
  if (!chief) return;
  const Pair middle = in_plane(*chief, plane);
  const double radius = glass.farthest_open().mm();
  box_ = {middle, middle};
  const auto grow = [&](const Pair& p) {
    for (std::size_t k = 0; k < 2; ++k) {
      box_.low[k] = std::min(box_.low[k], p[k]);
      box_.high[k] = std::max(box_.high[k], p[k]);
    }
  };
  std::optional<Pair> guess;
  for (int k = 0; k < outline_points; ++k) {
    const double angle = 2.0 * std::numbers::pi * k / outline_points;
    const auto ray =
        aimed(glass, from, {radius * std::cos(angle), radius * std::sin(angle)}, guess);
    if (!ray) continue;
    guess = in_plane(*ray, plane);
    grow(*guess);
    // Where no ray goes on the other side, as far as on this one.
    grow({2.0 * middle[0] - (*guess)[0], 2.0 * middle[1] - (*guess)[1]});
  }
  const double clear = std::sqrt(glass.surfaces().front().clear_sq);
  for (std::size_t k = 0; k < 2; ++k) {
    const double aside = more * (box_.high[k] - box_.low[k]);
    box_.low[k] = std::clamp(box_.low[k] - aside, -clear, clear);
    box_.high[k] = std::clamp(box_.high[k] + aside, -clear, clear);
  }
}

void PointLight::pieces(std::size_t colour, int side, std::vector<LightPiece>& pieces) const {
  pieces.clear();
  if (!reaches_) return;
  const TracedGlass& glass = camera_.glass(colour);
  const double plane = glass.surfaces().front().z;
  const double behind = 1e-3 * (plane + camera_.pupil_to_film().mm());  // of the pupil, m
  const auto columns = static_cast<std::size_t>(side) + 1;
  thread_local std::vector<Corner> lattice;
  lattice.assign(columns * columns, {});
  const double step_x = (box_.high[0] - box_.low[0]) / side;
  const double step_y = (box_.high[1] - box_.low[1]) / side;
  if (!(step_x > 0.0) || !(step_y > 0.0)) return;
  RayBlock rays;
  RayMarks marks;
  for (std::size_t first = 0; first < lattice.size(); first += RayBlock::most) {
    rays.count = std::min(RayBlock::most, lattice.size() - first);
    for (std::size_t i = 0; i < rays.count; ++i) {
      const std::size_t k = first + i;
      const double x = box_.low[0] + static_cast<double>(k % columns) * step_x;
      const double y = box_.low[1] + static_cast<double>(k / columns) * step_y;
      // From the point to this place, for a z of 1: the same formula for one infinitely far away.
      const double dx = 1e-3 * x * from_.inverse_z - from_.right;
      const double dy = 1e-3 * y * from_.inverse_z - from_.up;
      const double dz = 1.0 + behind * from_.inverse_z;
      const double square = dx * dx + dy * dy + dz * dz;
      const double length = std::sqrt(square);
      rays.x[i] = static_cast<float>(x);
      rays.y[i] = static_cast<float>(y);
      rays.z[i] = static_cast<float>(plane);
      rays.along_x[i] = static_cast<float>(dx / length);
      rays.along_y[i] = static_cast<float>(dy / length);
      rays.along_z[i] = static_cast<float>(dz / length);
      rays.open[i] = 1;
      lattice[k].light = light_of_mm2_ * dz / (square * length);
    }
    camera_.blocks(colour).follow(rays, marks);
    for (std::size_t i = 0; i < rays.count; ++i) {
      Corner& c = lattice[first + i];
      if (rays.open[i] == 0) continue;
      c.met = true;
      const double right = -1e-3 * camera_.squeeze() * static_cast<double>(rays.x[i]) - middle_[0];
      const double up = -1e-3 * static_cast<double>(rays.y[i]) - middle_[1];
      const double v = camera_.scene_focal().m();
      c.at = {v * (straight_[0] * right + straight_[1] * up),
              v * (straight_[2] * right + straight_[3] * up)};
      c.stop = {static_cast<double>(marks.stop_x[i]), static_cast<double>(marks.stop_y[i])};
      c.rim = static_cast<double>(marks.rim[i]);
    }
  }
  const StopWedges& wedges = camera_.wedges();
  const double area = 0.5 * step_x * step_y;
  const auto one = [&](const Corner& a, const Corner& b, const Corner& c) {
    if (!a.met || !b.met || !c.met) return;
    const double light = area * (a.light + b.light + c.light) / 3.0;
    const std::array<Point2, 3> stop{a.stop, b.stop, c.stop};
    const bool clear = a.rim <= 1.0 && b.rim <= 1.0 && c.rim <= 1.0;
    const auto where = wedges.where(stop);
    if (where == StopWedges::Where::outside) return;
    if (clear && where == StopWedges::Where::inside) {
      LightPiece whole = triangle(a, b, c);
      whole.light = light;
      pieces.push_back(whole);
      return;
    }
    Cut cut;
    for (const Corner* k : {&a, &b, &c}) cut.corner[cut.count++] = {k->at, k->stop, k->rim, false};
    const double all = stop_area(cut);
    if (!(all > 0.0)) return;
    if (!clear) cut = keep(cut, [](const CutCorner& k) { return 1.0 - k.rim; });
    if (cut.count < 3) return;
    if (where == StopWedges::Where::across && wedges.round()) {
      cut = keep(cut, [&](const CutCorner& k) { return wedges.within(k.stop); });
      cut = bulged(cut, {a, b, c}, wedges.radius());
    }
    if (where == StopWedges::Where::inside || wedges.round()) {
      add(cut, light * stop_area(cut) / all, pieces);
      return;
    }
    wedges.over(stop, [&](const StopWedges::Wedge& wedge) {
      Cut part = cut;
      for (const StopWedges::Line& line : wedge.sides) {
        part = keep(part, [&](const CutCorner& k) { return line.side(k.stop); });
        if (part.count < 3) return;
      }
      add(part, light * stop_area(part) / all, pieces);
    });
  };
  for (std::size_t j = 0; j + 1 < columns; ++j) {
    for (std::size_t i = 0; i + 1 < columns; ++i) {
      const Corner* low = lattice.data() + j * columns + i;
      const Corner* high = low + columns;
      one(low[0], low[1], high[1]);
      one(low[0], high[1], high[0]);
    }
  }
}

double PointLight::light(int side) const {
  thread_local std::vector<LightPiece> found;
  pieces(1, side, found);
  double sum = 0.0;
  for (const LightPiece& p : found) sum += p.light;
  return sum;
}

}  // namespace jolly_iris
