#include "jolly_iris/optics/ease.hpp"

#include <algorithm>
#include <cmath>

#include "optics/enum_name.hpp"

namespace jolly_iris {

namespace {

double smooth(double t) { return t * t * (3.0 - 2.0 * t); }

// Through turning points in equal stretches of time, resting at each for an instant.
double through(const std::vector<double>& points, double t) {
  const auto stretches = static_cast<double>(points.size() - 1);
  const auto i = static_cast<std::size_t>(std::min(std::floor(t * stretches), stretches - 1.0));
  const double u = smooth(t * stretches - static_cast<double>(i));
  return (1.0 - u) * points[i] + u * points[i + 1];
}

// Past the target and back, each swing half as wide as the one before.
std::vector<double> swings(double from, double to, double past, int count) {
  std::vector<double> points{from};
  for (int i = 0; i < count; ++i) {
    points.push_back(to + past);
    past *= -0.5;
  }
  points.push_back(to);
  return points;
}

}  // namespace

std::string_view to_string(Ease::Kind kind) {
  return name_of<Ease::Kind::search>(
      kind, {"step", "linear", "smooth", "slow start", "slow stop", "overshoot", "search"});
}

double between(const Ease& ease, double from, double to, double t) {
  if (t <= 0.0) return from;
  if (t >= 1.0) return to;
  double u = t;
  switch (ease.kind) {
    case Ease::Kind::step:
      return from;
    case Ease::Kind::linear:
      break;
    case Ease::Kind::smooth:
      u = smooth(t);
      break;
    case Ease::Kind::slow_start:
      u = t * t;
      break;
    case Ease::Kind::slow_stop:
      u = 1.0 - (1.0 - t) * (1.0 - t);
      break;
    case Ease::Kind::overshoot:
      return through(swings(from, to, ease.by * (to - from), ease.swings), t);
    case Ease::Kind::search: {
      const double stray = to < from ? -ease.dioptres : ease.dioptres;
      std::vector<double> points = swings(from, to, stray, ease.swings);
      points.insert(points.begin() + 1, from - stray);
      return through(points, t);
    }
  }
  return (1.0 - u) * from + u * to;
}

}  // namespace jolly_iris
