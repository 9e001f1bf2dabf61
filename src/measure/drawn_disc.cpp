#include "drawn_disc.hpp"

#include <algorithm>
#include <cmath>

#include "fast_atan2.hpp"
#include "measure/constants.hpp"

namespace jolly_iris::measuring {

namespace {

// How near to the middle the outline can come.
double nearest_of(const DrawnDisc& d) {
  if (d.tube <= 0.0) return outline::nearest;
  const double open = d.tube - std::hypot(d.tube_at[0], d.tube_at[1]);
  return std::clamp(open / std::max(1.0, d.aspect), 0.0, outline::nearest);
}

// The tube's rim where it is within the iris's outline.
void close_in(const DrawnDisc& d, double cosine, double sine, double& outline, double& change) {
  const auto open = [&](double c, double s) {
    return std::max(outline::min_open, tube_opens_to(d.aspect * c, s, d.tube_at, d.tube));
  };
  const double here = open(cosine, sine);
  if (here >= outline) return;
  outline = here;
  constexpr double step = 1e-3;  // radians
  change = (open(cosine - step * sine, sine + step * cosine) -
            open(cosine + step * sine, sine - step * cosine)) /
           (2.0 * step);
}

}  // namespace

bool too_soft(const DrawnDisc& d) {
  constexpr double max = 0.14;  // of its smaller side
  return d.soft > max * d.height * std::min(1.0, d.aspect);
}

double tube_opens_to(double ex, double ey, const std::array<double, 2>& at, double tube) {
  const double a = ex * ex + ey * ey;
  const double b = ex * at[0] + ey * at[1];
  const double root = b * b - a * (at[0] * at[0] + at[1] * at[1] - tube * tube);
  return root <= 0.0 ? 0.0 : std::max(0.0, (std::sqrt(root) - b) / a);
}

double lamp_fraction(const DrawnDisc& d) {
  const double own = d.edges->sigma_px() / d.soft;
  return std::clamp(1.0 - own * own, 0.0, 1.0);
}

// By half of the blur's variance over the radius of the bend: that of the oval there.
double inside_straight(const DrawnDisc& d, const Against& a) {
  const double area = 0.25 * d.height * d.height * d.aspect;
  const double bend = a.slope * a.slope * a.slope * area * area;
  return a.inside - 0.5 * d.soft * d.soft / std::max(bend, d.soft);
}

EdgeLight edge_of(const DrawnDisc& d, const Against& a) {
  const double far = (EdgeTable::farthest + 0.5) * d.soft;  // an edge has ended there
  if (a.inside > far) return {1.0, 0.0};
  if (a.inside < -far) return {0.0, 0.0};
  return d.edges->light(inside_straight(d, a) / d.soft, lamp_fraction(d));
}

double light_of(const DrawnDisc& disc, const Against& a) {
  const double cover = edge_of(disc, a).cover;
  if (cover == 0.0) return 0.0;
  double brighter = 1.0;
  if (disc.rim != 0.0) {
    const double r2 = std::min(a.fraction * a.fraction, 1.0);
    brighter = std::exp2(disc.rim * r2 * r2 * r2);
  }
  return disc.contrast * brighter * cover;
}

Against against(const DrawnDisc& disc, const BladeShape& shape, double x, double y) {
  const double hr = 0.5 * disc.height;
  const double wr = hr * disc.aspect;
  Against a;
  a.u = (x - disc.x) / wr;
  a.v = (disc.y - y) / hr;
  if (disc.turned) {
    a.u = -a.u;
    a.v = -a.v;
  }
  const double r = std::max(std::sqrt(a.u * a.u + a.v * a.v), 1e-9);
  // Far from the edge nobody asks for its shape: no outline comes nearer or farther.
  const double smaller = std::min(hr, wr);
  const double far = 5.5 * disc.soft;
  const double within = (nearest_of(disc) - r) * smaller;
  const double beyond = (r - outline::farthest) * smaller;
  if (within > far || beyond > far) {
    a.inside = within > far ? within : -beyond;
    a.fraction = r;
    a.fu = a.u / r;
    a.fv = a.v / r;
    a.slope = 1.0 / smaller;
    return a;
  }
  double outline = 1.0;
  double change = 0.0;
  if (!shape.round()) {
    const BladeShape::Outline there = shape.outline(fast_atan2(a.v, a.u));
    outline = there.radius;
    change = there.slope;
  }
  if (disc.tube > 0.0) close_in(disc, a.u / r, a.v / r, outline, change);
  a.fu = a.u / r + change * a.v / (r * r);
  a.fv = a.v / r - change * a.u / (r * r);
  const double sx = a.fu / wr;
  const double sy = a.fv / hr;
  a.slope = std::sqrt(sx * sx + sy * sy);
  a.inside = (outline - r) / a.slope;
  a.fraction = r / outline;
  return a;
}

double light_at(const DrawnDisc& disc, const BladeShape& shape, double x, double y) {
  const double hr = 0.5 * disc.height;
  const double max = 1.6;  // no outline reaches farther
  if (std::abs(x - disc.x) > max * hr * disc.aspect + 6.0 * disc.soft ||
      std::abs(y - disc.y) > max * hr + 6.0 * disc.soft) {
    return 0.0;
  }
  return light_of(disc, against(disc, shape, x, y));
}

}  // namespace jolly_iris::measuring
