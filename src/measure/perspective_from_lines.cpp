#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <limits>
#include <numbers>

#include "edge.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/optics/undistort.hpp"
#include "solver.hpp"

namespace jolly_iris {

using namespace measuring;

namespace {

constexpr double degree = std::numbers::pi / 180.0;
constexpr double farthest_widths = 3.0;

// The view in one block: tilt, roll, heading against the level edges, logarithm of the focal
// length against the camera's.
using View = std::array<double, 4>;
enum ViewAngle { tilt, roll, heading, focal };

struct Optics {
  double axis_x, axis_y;  // px
  double width, height;   // focal length in px
};

// Where a set's edges meet, as homogeneous px.
template <class T>
std::array<T, 3> vanishing_of(const Optics& o, Runs runs, const T* v) {
  using std::cos;
  using std::exp;
  using std::sin;
  // In the level camera's space.
  std::array<T, 3> d{T(0.0), T(1.0), T(0.0)};
  if (runs == Runs::level) d = {sin(v[heading]), T(0.0), -cos(v[heading])};
  if (runs == Runs::across) d = {cos(v[heading]), T(0.0), sin(v[heading])};
  // Into the leaning camera's: see perspective.hpp.
  const T c = cos(v[tilt]);
  const T s = sin(v[tilt]);
  const std::array<T, 3> t{d[0], c * d[1] + s * d[2], -s * d[1] + c * d[2]};
  const T cr = cos(v[roll]);
  const T sr = sin(v[roll]);
  const T x = cr * t[0] - sr * t[1];
  const T y = sr * t[0] + cr * t[1];
  const T w = -t[2];
  const T longer = exp(v[focal]);
  return {o.axis_x * w + o.width * longer * x, o.axis_y * w - o.height * longer * y, w};
}

// How far the ends of an edge are off the line from its middle to the vanishing point, px.
struct EdgeToPoint {
  Edge edge;
  Runs runs;
  Optics optics;

  template <class T>
  bool operator()(const T* v, T* residual) const {
    const auto p = vanishing_of(optics, runs, v);
    const T x = p[0] - p[2] * edge.middle[0];
    const T y = p[1] - p[2] * edge.middle[1];
    using std::sqrt;
    residual[0] =
        edge.lever * (edge.along[0] * y - edge.along[1] * x) / sqrt(x * x + y * y + 1e-12);
    return true;
  }
};

struct StraightEdge {
  Edge edge;
  Runs runs;
  std::string name;
  int points;
};

struct ViewFit {
  View view{};
  double cost = std::numeric_limits<double>::infinity();
};

void build(ceres::Problem& problem, const std::vector<StraightEdge>& seen, const Optics& optics,
           const std::vector<int>& constant, View& view) {
  problem.AddParameterBlock(view.data(), 4);
  if (!constant.empty()) {
    problem.SetManifold(view.data(), new ceres::SubsetManifold(4, constant));
  }
  const auto bound = [&](int i, double max) {
    if (std::find(constant.begin(), constant.end(), i) != constant.end()) return;
    problem.SetParameterLowerBound(view.data(), i, -max);
    problem.SetParameterUpperBound(view.data(), i, max);
  };
  bound(tilt, 89.0 * degree);
  bound(roll, 100.0 * degree);
  bound(focal, std::log(20.0));
  for (const StraightEdge& s : seen) {
    problem.AddResidualBlock(
        new ceres::AutoDiffCostFunction<EdgeToPoint, 1, 4>(new EdgeToPoint{s.edge, s.runs, optics}),
        nullptr, view.data());
  }
}

// From many starts, since vanishing points can be reached from either side; `enough` is a cost that
// noise alone would leave.
ViewFit best_fit(const std::vector<StraightEdge>& seen, const Optics& optics,
                 const std::vector<int>& constant, double enough) {
  const auto is_free = [&](int i) {
    return std::find(constant.begin(), constant.end(), i) == constant.end();
  };
  const std::vector<double> once{0.0};
  const std::vector<double> headings{-75.0, -45.0, -15.0, 15.0, 45.0, 75.0};
  const std::vector<double> lengths{0.0, std::log(0.4), std::log(2.5)};
  ViewFit best;
  for (const double t : {0.0, -30.0, 30.0, -60.0, 60.0}) {
    for (const double r : {0.0, -50.0, 50.0}) {
      for (const double h : is_free(heading) ? headings : once) {
        for (const double f : is_free(focal) ? lengths : once) {
          View view{t * degree, r * degree, h * degree, f};
          ceres::Problem problem;
          build(problem, seen, optics, constant, view);
          const auto cost = minimise(problem);
          // A camera on its head fits as well; the one that stands is meant.
          const bool stands = std::abs(view[tilt]) < 88.0 * degree &&
                              std::abs(view[roll]) < 91.0 * degree && std::abs(view[focal]) < 6.0;
          if (cost && stands && *cost < best.cost * (1.0 - 1e-9) - 1e-12) best = {view, *cost};
          if (best.cost <= enough) return best;
        }
      }
    }
  }
  return best;
}

int count(const std::vector<StraightEdge>& seen, Runs runs) {
  return static_cast<int>(std::count_if(seen.begin(), seen.end(),
                                        [&](const StraightEdge& s) { return s.runs == runs; }));
}

std::vector<StraightEdge> straightened(const VirtualCamera& camera,
                                       const std::vector<DrawnLine>& lines) {
  const DistortionMap map(camera);
  std::vector<StraightEdge> seen;
  for (std::size_t i = 0; i < lines.size(); ++i) {
    if (lines[i].runs == Runs::anyhow || lines[i].points.size() < 2) continue;
    std::vector<std::array<double, 2>> points;
    for (const auto& p : lines[i].points) points.push_back(map.undistorted(p));
    seen.push_back({edge_through(points), lines[i].runs, name_of(lines[i], i),
                    static_cast<int>(points.size())});
  }
  return seen;
}

void require_enough(const std::vector<StraightEdge>& seen, bool with_focal) {
  const int v = count(seen, Runs::vertical);
  const int l = count(seen, Runs::level);
  const int a = count(seen, Runs::across);
  const int sets = (v >= 2) + (l >= 2) + (a >= 2);
  if (with_focal && sets < 2) {
    throw OpticsError(fmt::format(
        "a focal length takes two sets of two or more edges each that are at right angles in "
        "reality (two of vertical, level, across); drawn are {} vertical, {} level, {} across",
        v, l, a));
  }
  if (!with_focal && v < 2 && !(l >= 2 && a >= 2)) {
    throw OpticsError(fmt::format(
        "how the camera leaned takes two or more vertical edges, or two level ones and two across; "
        "drawn are {} vertical, {} level, {} across (say runs = \"vertical\")",
        v, l, a));
  }
}

double wrapped(double angle) { return std::remainder(angle, 2.0 * std::numbers::pi); }

// A homogeneous place in px: infinite for parallels, but never 0 / 0.
double in_px(double p, double w) {
  if (w != 0.0) return p / w;
  return p == 0.0 ? 0.0 : std::copysign(std::numeric_limits<double>::infinity(), p);
}

std::string_view plural(Runs runs) { return runs == Runs::across ? "across" : to_string(runs); }

}  // namespace

FoundPerspective perspective_from_lines(const VirtualCamera& camera,
                                        const std::vector<DrawnLine>& lines,
                                        const LineSettings& settings) {
  std::vector<StraightEdge> seen = straightened(camera, lines);
  require_enough(seen, settings.focal);
  // A single edge of a set whose direction nothing else fixes adds an unknown and no knowledge.
  const bool levels = count(seen, Runs::level) + count(seen, Runs::across) > 0;
  const Length width = camera.pixel_pitch_x();
  const Length height = camera.pixel_pitch();
  const Optics optics{0.5 * camera.pixels.width - camera.shift_right / width,
                      0.5 * camera.pixels.height + camera.shift_up / height, camera.focal / width,
                      camera.focal / height};
  std::vector<int> constant;
  if (!levels) constant.push_back(heading);
  if (!settings.focal) constant.push_back(focal);
  double within2 = 0.0;  // of the points from their own edges
  double within = 0.0;   // freedom of that
  for (const StraightEdge& s : seen) {
    within2 += s.edge.residual2;
    within += s.points - 2;
  }
  const double freedom = std::max(
      0.0, static_cast<double>(seen.size()) - (4.0 - static_cast<double>(constant.size())));
  const double noise2 = variance(within2, within, settings.drawn_px);
  const ViewFit fit =
      best_fit(seen, optics, constant, 0.5 * noise2 * static_cast<double>(seen.size()));
  const double residual2 = std::isfinite(fit.cost) ? 2.0 * fit.cost : 0.0;
  if (!std::isfinite(fit.cost) || (freedom > 0.0 && residual2 / freedom > 36.0 * noise2)) {
    std::string worst;
    double max = 0.0;
    for (const StraightEdge& s : seen) {
      double miss = 0.0;
      EdgeToPoint{s.edge, s.runs, optics}(fit.view.data(), &miss);
      if (std::abs(miss) > max) {
        max = std::abs(miss);
        worst = s.name;
      }
    }
    throw OpticsError(fmt::format(
        "these edges fit no camera{}: is each of them what it is said to be (vertical, level, or "
        "level and at right angles to that)? Is the distortion known?",
        worst.empty() ? "" : fmt::format(" ('{}' is off by {:.1f} px)", worst, max)));
  }
  ceres::Problem problem;
  View view = fit.view;
  build(problem, seen, optics, constant, view);
  std::array<double, 16> covariance{};
  const bool determined = covariance_of(problem, view.data(), covariance.data());
  const double variance_px = variance(within2 + residual2, within + freedom, settings.drawn_px);
  const auto margin = [&](ViewAngle i) {
    return 2.0 * std::sqrt(covariance[5 * static_cast<std::size_t>(i)] * variance_px);
  };
  if (!determined || margin(tilt) > 10.0 * degree) {
    throw OpticsError(
        fmt::format("these edges cannot tell how the camera leaned{}: draw longer ones, farther "
                    "apart from each other",
                    determined && margin(tilt) < 60.0 * degree
                        ? fmt::format(" (to ±{:.0f} deg at best)", margin(tilt) / degree)
                        : ""));
  }
  FoundPerspective found;
  found.lean = {Angle::from_radians(view[tilt]), Angle::from_radians(wrapped(view[roll]))};
  found.tilt_deg = {view[tilt] / degree, margin(tilt) / degree};
  found.roll_deg = {wrapped(view[roll]) / degree, margin(roll) / degree};
  for (const Runs runs : {Runs::vertical, Runs::level, Runs::across}) {
    if (count(seen, runs) < 2) continue;
    const auto p = vanishing_of(optics, runs, view.data());
    VanishingPoint point{runs, {in_px(p[0], p[2]), in_px(p[1], p[2])}, 0.0};
    point.widths = std::hypot(point.px[0] - 0.5 * camera.pixels.width,
                              point.px[1] - 0.5 * camera.pixels.height) /
                   camera.pixels.width;
    found.vanishing.push_back(point);
  }
  if (settings.focal) {
    // All but the two nearest may be as far as they like.
    std::vector<VanishingPoint> near = found.vanishing;
    std::sort(near.begin(), near.end(),
              [](const auto& a, const auto& b) { return a.widths < b.widths; });
    if (near[1].widths > farthest_widths) {
      throw OpticsError(fmt::format(
          "the {} edges meet {} picture widths away: so nearly parallel that a pixel more or less "
          "changes the focal length by much (±{:.0f} % here); it takes two sets that meet within "
          "{:g} widths",
          plural(near[1].runs),
          near[1].widths > 1e3 ? "very many" : fmt::format("{:.1f}", near[1].widths),
          100.0 * margin(focal), farthest_widths));
    }
    const double mm = camera.focal.mm() * std::exp(view[focal]);
    found.focal_mm = {mm, mm * margin(focal)};
  }
  double all = within2;
  double points = 0.0;
  for (const StraightEdge& s : seen) {
    double miss = 0.0;
    EdgeToPoint{s.edge, s.runs, optics}(view.data(), &miss);
    all += miss * miss;
    points += s.points;
    found.lines.push_back(
        {s.name, s.runs, s.points,
         std::sqrt((s.edge.residual2 + miss * miss) / static_cast<double>(s.points))});
  }
  found.residual_px = std::sqrt(all / points);
  return found;
}

}  // namespace jolly_iris
