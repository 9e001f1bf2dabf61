#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "edge.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/optics/undistort.hpp"
#include "solver.hpp"

namespace jolly_iris {

using namespace measuring;

namespace {

// All coefficients in one block: k₁ … k₃, across k₁ … k₃, p₁, p₂.
using Terms = std::array<double, 8>;

Distortion as_distortion(const Terms& t, bool squeezed, Length radius) {
  Distortion d;
  d.k = {t[0], t[1], t[2]};
  if (squeezed) d.width = {t[3], t[4], t[5]};
  d.p = {t[6], t[7]};
  d.radius = radius;
  return d;
}

// Distance of a straightened point from its edge, in px of the plate: divided by how much the place
// was stretched, or edges would fit best by shrinking the picture.
struct PointOnEdge {
  double x, y;    // radii, from the axis
  double radius;  // px
  bool squeezed;

  template <class T>
  bool operator()(const T* t, const T* edge, T* residual) const {
    const double r2 = x * x + y * y;
    const T up = 1.0 + r2 * (t[0] + r2 * (t[1] + r2 * t[2]));
    const T across = squeezed ? 1.0 + r2 * (t[3] + r2 * (t[4] + r2 * t[5])) : up;
    const T u = x * across + t[6] * (r2 + 2.0 * x * x) + 2.0 * t[7] * x * y;
    const T v = y * up + t[7] * (r2 + 2.0 * y * y) + 2.0 * t[6] * x * y;
    using std::cos;
    using std::sin;
    const T distance = u * cos(edge[0]) + v * sin(edge[0]) - edge[1];
    residual[0] = distance * radius / (0.5 * (up + across));
    return true;
  }
};

struct Drawn {
  std::vector<DrawnLine> lines{};  // of three or more points
  std::vector<std::string> names{};
  std::size_t points = 0;
};

struct DistortionFit {
  Terms terms{};
  std::vector<std::array<double, 2>> edges{};
  double residual2 = 0.0;
  std::size_t free = 0;
  double variance = 0.0;
  std::array<double, 64> covariance{};
  bool determined = false;
};

struct Model {
  const char* message;
  std::vector<int> free;  // indices of Terms
};

struct Setting {
  const Drawn& drawn;
  double axis_x, axis_y, radius;  // px
  bool squeezed;
  double drawn_px;
};

DistortionFit fit(const Setting& s, const Model& model) {
  DistortionFit result;
  result.free = model.free.size();
  ceres::Problem problem;
  problem.AddParameterBlock(result.terms.data(), 8);
  std::vector<int> constant;
  for (int i = 0; i < 8; ++i) {
    if (std::find(model.free.begin(), model.free.end(), i) == model.free.end()) {
      constant.push_back(i);
    }
  }
  problem.SetManifold(result.terms.data(), new ceres::SubsetManifold(8, constant));
  result.edges.reserve(s.drawn.lines.size());
  for (const DrawnLine& line : s.drawn.lines) {
    std::vector<std::array<double, 2>> points;
    for (const auto& p : line.points) {
      points.push_back({(p[0] - s.axis_x) / s.radius, (s.axis_y - p[1]) / s.radius});
    }
    const Edge edge = edge_through(points);
    const double normal = std::atan2(edge.along[0], -edge.along[1]);
    result.edges.push_back(
        {normal, edge.middle[0] * std::cos(normal) + edge.middle[1] * std::sin(normal)});
    for (const auto& p : points) {
      problem.AddResidualBlock(new ceres::AutoDiffCostFunction<PointOnEdge, 1, 8, 2>(
                                   new PointOnEdge{p[0], p[1], s.radius, s.squeezed}),
                               nullptr, result.terms.data(), result.edges.back().data());
    }
  }
  const auto cost = minimise(problem);
  result.residual2 = cost ? 2.0 * *cost : std::numeric_limits<double>::infinity();
  const double freedom = static_cast<double>(s.drawn.points) -
                         2.0 * static_cast<double>(s.drawn.lines.size()) -
                         static_cast<double>(result.free);
  result.variance = variance(result.residual2, std::max(0.0, freedom), s.drawn_px);
  result.determined = cost && freedom >= 0.0 &&
                      covariance_of(problem, result.terms.data(), result.covariance.data());
  return result;
}

double corner_of(const VirtualCamera& camera, const Distortion& distortion) {
  VirtualCamera c = camera;
  c.distortion = distortion;
  return figures_of_distortion(c).corner_px;
}

// Two standard deviations of the corner's shift, through the coefficients' covariance.
double corner_margin(const VirtualCamera& camera, const DistortionFit& f, bool squeezed,
                     Length radius) {
  if (!f.determined) return std::numeric_limits<double>::infinity();
  std::array<double, 8> slope{};
  const double here = corner_of(camera, as_distortion(f.terms, squeezed, radius));
  constexpr double step = 1e-6;
  for (std::size_t i = 0; i < 8; ++i) {
    Terms moved = f.terms;
    moved[i] += step;
    slope[i] = (corner_of(camera, as_distortion(moved, squeezed, radius)) - here) / step;
  }
  double sum = 0.0;
  for (std::size_t i = 0; i < 8; ++i) {
    for (std::size_t j = 0; j < 8; ++j) sum += slope[i] * f.covariance[8 * i + j] * slope[j];
  }
  return 2.0 * std::sqrt(std::max(0.0, sum) * f.variance);
}

Drawn usable(const std::vector<DrawnLine>& lines) {
  Drawn drawn;
  for (std::size_t i = 0; i < lines.size(); ++i) {
    if (lines[i].points.size() < 3) continue;
    drawn.lines.push_back(lines[i]);
    drawn.names.push_back(name_of(lines[i], i));
    drawn.points += lines[i].points.size();
  }
  if (drawn.lines.size() < 2) {
    throw OpticsError(fmt::format(
        "distortion shows in how edges bend: that takes two or more edges of three or more points "
        "each, better ten along the sides of the frame; {} of the {} drawn lines {} three",
        drawn.lines.size(), lines.size(), drawn.lines.size() == 1 ? "has" : "have"));
  }
  // The fit's time is some of the points times the square of the edges: seconds up to here.
  constexpr double most_work = 2e8;
  const auto edges = static_cast<double>(drawn.lines.size());
  if (edges * edges * static_cast<double>(drawn.points) > most_work) {
    throw UsageError(fmt::format(
        "{} edges of {} points are drawn, which would take minutes to measure; ten long "
        "ones along the sides of the frame tell as much",
        drawn.lines.size(), drawn.points));
  }
  return drawn;
}

}  // namespace

FoundDistortion distortion_from_lines(const VirtualCamera& camera,
                                      const std::vector<DrawnLine>& lines,
                                      const LineSettings& settings) {
  const Drawn drawn = usable(lines);
  const Length width = camera.pixel_pitch_x();
  const Length height = camera.pixel_pitch();
  if (std::abs(width / height - 1.0) > 1e-6) {
    throw OpticsError(
        "distortion is found in pictures with square pixels; desqueeze the plate first, and give "
        "its places in that",
        "body.pixel_aspect");
  }
  const Length radius =
      Length::from_mm(std::hypot(camera.gate.width.mm(), camera.gate.height.mm()) / 2.0);
  const bool squeezed = camera.squeeze != 1.0;
  const Setting setting{drawn,
                        0.5 * camera.pixels.width - camera.shift_right / width,
                        0.5 * camera.pixels.height + camera.shift_up / height,
                        radius / height,
                        squeezed,
                        settings.drawn_px};
  const std::vector<Model> models =
      squeezed
          ? std::vector<Model>{{"k1, wide k1", {0, 3}},
                               {"k1, k2, wide k1, k2", {0, 1, 3, 4}},
                               {"k1, k2, wide k1, k2, p1, p2", {0, 1, 3, 4, 6, 7}}}
          : std::vector<Model>{{"k1", {0}}, {"k1, k2", {0, 1}}, {"k1, k2, p1, p2", {0, 1, 6, 7}}};
  const auto n = static_cast<double>(drawn.points);
  std::optional<DistortionFit> best;
  const Model* chosen = nullptr;
  double min = std::numeric_limits<double>::infinity();
  for (const Model& model : models) {
    const DistortionFit f = fit(setting, model);
    if (best && !f.determined) continue;
    // Schwarz's criterion; the floor keeps drawings without noise from asking for ever more.
    const double score =
        n * std::log(f.residual2 / n + 1e-8) + static_cast<double>(f.free) * std::log(n);
    if (best && score >= min) continue;
    best = f;
    min = score;
    chosen = &model;
  }
  FoundDistortion found;
  found.distortion = as_distortion(best->terms, squeezed, radius);
  found.terms = chosen->message;
  double margin = std::numeric_limits<double>::infinity();
  try {
    margin = corner_margin(camera, *best, squeezed, radius);
    found.corner_px = {corner_of(camera, found.distortion), margin};
  } catch (const OpticsError&) {
    best->determined = false;  // it folds the picture: a number that means nothing
  }
  if (!best->determined || margin > std::max(3.0, 0.25 * std::abs(found.corner_px.value))) {
    throw OpticsError(fmt::format(
        "these edges cannot tell the distortion{}: edges through the middle stay straight, short "
        "ones hardly bend. Draw long ones near the frame's sides, with many points each",
        std::isfinite(margin) && best->determined
            ? fmt::format(" (the corner could be off by ±{:.0f} px)", margin)
            : ""));
  }
  found.residual_px = std::sqrt(best->residual2 / n);
  double before = 0.0;
  for (std::size_t i = 0; i < drawn.lines.size(); ++i) {
    const DrawnLine& line = drawn.lines[i];
    before += edge_through(line.points).residual2;
    double residual2 = 0.0;
    for (const auto& p : line.points) {
      const PointOnEdge point{(p[0] - setting.axis_x) / setting.radius,
                              (setting.axis_y - p[1]) / setting.radius, setting.radius, squeezed};
      double distance = 0.0;
      point(best->terms.data(), best->edges[i].data(), &distance);
      residual2 += distance * distance;
    }
    found.lines.push_back({drawn.names[i], line.runs, static_cast<int>(line.points.size()),
                           std::sqrt(residual2 / static_cast<double>(line.points.size()))});
  }
  found.residual_before_px = std::sqrt(before / n);
  return found;
}

}  // namespace jolly_iris
