#include "light_lattice.hpp"

#include <algorithm>
#include <cmath>

namespace jolly_iris {

namespace {

LightPiece triangle(const LightRay& a, const LightRay& b, const LightRay& c) {
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
Cut bulged(const Cut& cut, const std::array<LightRay, 3>& triangle, double radius) {
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

void begin_rays(const LatticePlane& plane, const PupilPlace& from, std::size_t first, double unit,
                RayBlock& rays, std::vector<LightRay>& lattice) {
  rays.count = std::min(RayBlock::most, lattice.size() - first);
  for (std::size_t i = 0; i < rays.count; ++i) {
    const std::size_t k = first + i;
    const std::size_t row = k / plane.columns;
    const double x = plane.left + static_cast<double>(k - row * plane.columns) * plane.step_x;
    const double y = plane.low + static_cast<double>(row) * plane.step_y;
    // From the point to this place, for a z of 1: the same formula for one infinitely far away.
    const double dx = 1e-3 * x * from.inverse_z - from.right;
    const double dy = 1e-3 * y * from.inverse_z - from.up;
    const double dz = 1.0 + plane.behind * from.inverse_z;
    const double square = dx * dx + dy * dy + dz * dz;
    const double length = std::sqrt(square);
    rays.x[i] = static_cast<float>(x);
    rays.y[i] = static_cast<float>(y);
    rays.z[i] = static_cast<float>(plane.z);
    rays.along_x[i] = static_cast<float>(dx / length);
    rays.along_y[i] = static_cast<float>(dy / length);
    rays.along_z[i] = static_cast<float>(dz / length);
    rays.open[i] = dz > 0.0 ? 1 : 0;
    lattice[k].light = unit * dz / (square * length);
  }
}

void cut_lattice(const std::vector<LightRay>& lattice, int side, double cell_area,
                 const StopWedges& wedges, std::vector<LightPiece>& pieces) {
  const auto columns = static_cast<std::size_t>(side) + 1;
  const double area = 0.5 * cell_area;
  const auto one = [&](const LightRay& a, const LightRay& b, const LightRay& c) {
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
    for (const LightRay* k : {&a, &b, &c})
      cut.corner[cut.count++] = {k->at, k->stop, k->rim, false};
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
      const LightRay* low = lattice.data() + j * columns + i;
      const LightRay* high = low + columns;
      one(low[0], low[1], high[1]);
      one(low[0], high[1], high[0]);
    }
  }
}

}  // namespace jolly_iris
