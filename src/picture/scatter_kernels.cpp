// Halo and streak: kernels that a formula gives.
#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "disc_table.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/picture/scatter.hpp"
#include "parallel.hpp"
#include "to_size.hpp"

namespace jolly_iris {

namespace {

// Farther out than where it falls to this part of its middle, a kernel ends.
constexpr double faintest = 1e-7;
// Pixels near the middle are averages of so many places along a side.
constexpr int places = 8;
constexpr int near_px = 4;
// A streak is drawn in steps of this part of a pixel.
constexpr double streak_step_px = 0.25;

double fall(double r_squared, double power) { return std::pow(1.0 + r_squared, -0.5 * power); }

int kernel_reach(double reach_px, double power, int size) {
  return std::max(1,
                  static_cast<int>(std::min(std::ceil(reach_px * std::pow(faintest, -1.0 / power)),
                                            static_cast<double>(size - 1))));
}

void require_that(bool holds, const char* key, double value, const char* wanted) {
  if (holds) return;
  throw OpticsError(fmt::format("{}: {:g} is not {}", key, value, wanted), key);
}

void require_fraction(const Rgb& fraction, const char* key) {
  for (const double f : fraction) require_that(f >= 0.0 && f <= 1.0, key, f, "a share of 0 to 1");
}

std::shared_ptr<const ScatterShape> normalised(ScatterShape shape,
                                               const std::vector<double>& values) {
  double sum = 0.0;
  for (const double v : values) sum += v;
  shape.values.reserve(values.size());
  for (const double v : values) shape.values.push_back(static_cast<float>(v / sum));
  return std::make_shared<const ScatterShape>(std::move(shape));
}

}  // namespace

ScatterKernel halo_kernel(const Halo& halo, const VirtualCamera& camera, PixelSize size,
                          const Margin& margin) {
  require_fraction(halo.fraction, "finish.halo.share");
  const double reach = on_gate(halo.reach, camera).m();
  require_that(reach > 0.0, "finish.halo.reach", halo.reach.value, "above zero");
  require_that(halo.power > 2.0, "finish.halo.power", halo.power,
               "above 2: with less, most of the light would be infinitely far away");
  const blur::GateMap map = blur::gate_map(camera, size, margin);
  const double step_x = map.pixel_width / reach;
  const double step_y = map.pixel_height / reach;
  ScatterShape shape{kernel_reach(1.0 / step_x, halo.power, size.width),
                     kernel_reach(1.0 / step_y, halo.power, size.height),
                     {}};
  // A quarter, since all four are alike.
  const std::size_t columns = to_size(shape.reach_x + 1);
  std::vector<double> values(columns * to_size(shape.reach_y + 1));
  std::vector<double> row_sums(to_size(shape.reach_y + 1));
  parallel_for(0, shape.reach_y + 1, [&](int y) {
    double* const row = values.data() + to_size(y) * columns;
    for (int x = 0; x <= shape.reach_x; ++x) {
      const bool near = x <= near_px && y <= near_px;
      const int n = near ? places : 1;
      double sum = 0.0;
      for (int j = 0; j < n; ++j) {
        for (int i = 0; i < n; ++i) {
          const double u = step_x * (x + (i + 0.5) / n - 0.5);
          const double v = step_y * (y + (j + 0.5) / n - 0.5);
          sum += fall(u * u + v * v, halo.power);
        }
      }
      row[x] = sum / (n * n);
      row_sums[to_size(y)] += row[x] * (x > 0 ? 2.0 : 1.0);
    }
  });
  double all = row_sums.front();
  for (std::size_t y = 1; y < row_sums.size(); ++y) all += 2.0 * row_sums[y];
  const std::size_t width = to_size(2 * shape.reach_x + 1);
  shape.values.resize(width * to_size(2 * shape.reach_y + 1));
  parallel_for(-shape.reach_y, shape.reach_y + 1, [&](int y) {
    const double* const row = values.data() + to_size(std::abs(y)) * columns;
    float* const out = shape.values.data() + to_size(y + shape.reach_y) * width;
    for (int x = -shape.reach_x; x <= shape.reach_x; ++x) {
      out[x + shape.reach_x] = static_cast<float>(row[std::abs(x)] / all);
    }
  });
  const auto one = std::make_shared<const ScatterShape>(std::move(shape));
  return {"halo", {one, one, one}, halo.fraction};
}

ScatterKernel streak_kernel(const Streak& streak, const VirtualCamera& camera, PixelSize size,
                            const Margin& margin) {
  require_fraction({streak.fraction, 0.0, 0.0}, "finish.streak.share");
  const double reach = on_gate(streak.reach, camera).m();
  require_that(reach > 0.0, "finish.streak.reach", streak.reach.value, "above zero");
  require_that(streak.power > 1.0, "finish.streak.power", streak.power,
               "above 1: with less, most of the light would be infinitely far away");
  const double most = std::max({streak.colour[0], streak.colour[1], streak.colour[2]});
  for (const double c : streak.colour) {
    require_that(c >= 0.0 && most > 0.0 && std::isfinite(c), "finish.streak.colour", c,
                 "a colour: 0 or more each, and not all 0");
  }
  const blur::GateMap map = blur::gate_map(camera, size, margin);
  // Px a step along it.
  const double along_x = std::cos(streak.direction.radians()) / map.pixel_width;
  const double along_y = -std::sin(streak.direction.radians()) / map.pixel_height;
  const double px_a_metre = std::hypot(along_x, along_y);
  const double dx = along_x / px_a_metre;
  const double dy = along_y / px_a_metre;
  const double reach_px = reach * px_a_metre;
  const double far = reach_px * std::pow(faintest, -1.0 / streak.power);
  const auto bound = [&](double d, int of) {
    return std::max(1, static_cast<int>(std::min(std::ceil(std::abs(d) * far) + 1.0,
                                                 static_cast<double>(of - 1))));
  };
  ScatterShape shape{bound(dx, size.width), bound(dy, size.height), {}};
  const std::size_t width = to_size(2 * shape.reach_x + 1);
  std::vector<double> values(width * to_size(2 * shape.reach_y + 1));
  // Both halves are drawn by the same numbers, so that each is the other turned round.
  const auto add = [&](double x, double y, double light) {
    const int x0 = static_cast<int>(std::floor(x));
    const int y0 = static_cast<int>(std::floor(y));
    for (int j = 0; j < 2; ++j) {
      for (int i = 0; i < 2; ++i) {
        const double part = std::abs(1 - i - (x - x0)) * std::abs(1 - j - (y - y0));
        const int px = x0 + i;
        const int py = y0 + j;
        if (std::abs(px) > shape.reach_x || std::abs(py) > shape.reach_y) continue;
        values[to_size(py + shape.reach_y) * width + to_size(px + shape.reach_x)] += part * light;
        values[to_size(shape.reach_y - py) * width + to_size(shape.reach_x - px)] += part * light;
      }
    }
  };
  for (double t = 0.5 * streak_step_px; t < far; t += streak_step_px) {
    if (t * std::abs(dx) > shape.reach_x + 1 || t * std::abs(dy) > shape.reach_y + 1) break;
    add(t * dx, t * dy, fall(t * t / (reach_px * reach_px), streak.power));
  }
  const auto one = normalised(std::move(shape), values);
  Rgb fraction{};
  for (std::size_t c = 0; c < 3; ++c) fraction[c] = streak.fraction * streak.colour[c] / most;
  return {"streak", {one, one, one}, fraction};
}

}  // namespace jolly_iris
