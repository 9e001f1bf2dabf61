#include "edge_kernel.hpp"

#include <algorithm>
#include <cmath>
#include <cstddef>
#include <map>
#include <memory>
#include <mutex>
#include <numbers>

#include "measure/constants.hpp"

namespace jolly_iris::measuring {

namespace {

using std::numbers::pi;

// What of squares lies below x where they are cut at an angle with these two widths: integrals of
// boxes are powers of ramps.
double squares_below(int squares, double x, double wide, double narrow) {
  const auto ramp = [&](double at, int power) {
    return at <= 0.0 ? 0.0 : power == 2 ? at * at / 2.0 : at * at * at * at / 24.0;
  };
  if (squares == 1) {
    double sum = 0.0;
    for (const double i : {-0.5, 0.5}) {
      for (const double j : {-0.5, 0.5}) {
        sum += (i * j > 0.0 ? 1.0 : -1.0) * ramp(x - i * wide - j * narrow, 2);
      }
    }
    return sum / (wide * narrow);
  }
  constexpr std::array<double, 3> times{1.0, -2.0, 1.0};
  double sum = 0.0;
  for (int i = -1; i <= 1; ++i) {
    for (int j = -1; j <= 1; ++j) {
      sum += times[static_cast<std::size_t>(i + 1)] * times[static_cast<std::size_t>(j + 1)] *
             ramp(x - i * wide - j * narrow, 4);
    }
  }
  return sum / (wide * wide * narrow * narrow);
}

// The kernel's own edge, px, by straight lines.
class OwnEdge {
 public:
  OwnEdge(const EdgeKernel& kernel, double sigma) : reach_(6.5 * sigma + 0.1) {
    constexpr int angles = 8;  // an eighth of a turn: the others are alike
    const auto squares = [&](double x) {
      double sum = 0.0;
      for (int k = 0; k < angles; ++k) {
        const double a = (k + 0.5) / angles * pi / 4.0;
        sum += squares_below(kernel.squares, x, std::cos(a), std::sin(a));
      }
      return sum / angles;
    };
    if (!(kernel.bell_px > 0.0)) {
      for (int i = 0; i <= count; ++i) at_[static_cast<std::size_t>(i)] = squares(x_of(i));
      return;
    }
    // The squares' edge is even beyond their corners: a table of its own saves most of the work.
    constexpr int nodes = 49;
    std::array<double, nodes> weight{};
    double sum = 0.0;
    for (int k = 0; k < nodes; ++k) {
      const double z = z_of(k, nodes);
      sum += weight[static_cast<std::size_t>(k)] = std::exp(-0.5 * z * z);
    }
    std::vector<double> plain(count + 1);
    for (int i = 0; i <= count; ++i) plain[static_cast<std::size_t>(i)] = squares(x_of(i));
    for (int i = 0; i <= count; ++i) {
      double value = 0.0;
      for (int k = 0; k < nodes; ++k) {
        value += weight[static_cast<std::size_t>(k)] / sum *
                 between(plain, x_of(i) - kernel.bell_px * z_of(k, nodes));
      }
      at_[static_cast<std::size_t>(i)] = value;
    }
  }

  double below(double x) const { return between(at_, x); }

 private:
  static constexpr int count = 800;
  static double z_of(int k, int nodes) { return 4.5 * (2.0 * k / (nodes - 1) - 1.0); }
  double x_of(int i) const { return reach_ * (2.0 * i / count - 1.0); }
  double between(const std::vector<double>& table, double x) const {
    const double at = (x / reach_ + 1.0) * (0.5 * count);
    if (at <= 0.0) return 0.0;
    if (at >= count) return 1.0;
    const auto i = static_cast<std::size_t>(at);
    return table[i] + (at - static_cast<double>(i)) * (table[i + 1] - table[i]);
  }

  double reach_;
  std::vector<double> at_ = std::vector<double>(count + 1, 0.0);
};

std::vector<EdgeKernel> made_kernels() {
  std::vector<EdgeKernel> all;
  for (const double sharpening : kernels::sharpenings) {
    for (const double bell : kernels::bells_px) {
      // What is as soft as that has not been sharpened by so little.
      if (sharpening > 0.0 && bell > kernels::softest_sharpened_px) continue;
      all.push_back({1, bell, sharpening});
    }
    for (const double bell : kernels::tent_bells_px) all.push_back({2, bell, sharpening});
  }
  return all;
}

}  // namespace

EdgeTable::EdgeTable(const EdgeKernel& kernel)
    : kernel_(kernel),
      sigma_px_(std::sqrt(kernel.squares / 12.0 + kernel.bell_px * kernel.bell_px)) {
  const OwnEdge own(kernel, sigma_px_);
  for (int k = 0; k <= lamps; ++k) {
    const double lamp = static_cast<double>(k) / lamps;
    const double radius = 2.0 * std::sqrt(lamp);  // a round lamp's deviation is half its radius
    const double rest = std::sqrt(std::max(1.0 - lamp, 1e-4));
    // Strips of the lamp, each an edge of its own.
    constexpr int n = 64;
    auto& row = cover_[static_cast<std::size_t>(k)];
    for (int i = 0; 2 * i <= cells; ++i) {
      const double t = -farthest + i * step;
      double sum = 0.0;
      double weight = 0.0;
      for (int j = 0; j < n; ++j) {
        const double at = -1.0 + (2.0 * j + 1.0) / n;
        const double w = std::sqrt(1.0 - at * at);
        sum += w * own.below((t - radius * at) / rest * sigma_px_);
        weight += w;
        if (lamp == 0.0) break;
      }
      // Kernel and lamp are even: the other half is what this one leaves.
      row[static_cast<std::size_t>(cells - i)] = static_cast<float>(1.0 - sum / weight);
      row[static_cast<std::size_t>(i)] = static_cast<float>(sum / weight);
    }
  }
}

EdgeLight EdgeTable::light(double t, double lamp) const {
  if (t >= farthest - 1e-6) return {1.0, 0.0};
  if (t <= -farthest + 1e-6) return {0.0, 0.0};
  const double x = (t + farthest) / step;
  const auto i = static_cast<std::size_t>(x);
  const double f = x - static_cast<double>(i);
  const double y = std::clamp(lamp, 0.0, 1.0) * lamps;
  const auto k = std::min(static_cast<std::size_t>(y), static_cast<std::size_t>(lamps - 1));
  const double g = y - static_cast<double>(k);
  const auto& a = cover_[k];
  const auto& b = cover_[k + 1];
  const auto mix = [&](std::size_t cell) {
    return (1.0 - g) * static_cast<double>(a[cell]) + g * static_cast<double>(b[cell]);
  };
  const double low = mix(i);
  const double high = mix(i + 1);
  return {low + f * (high - low), (high - low) / step};
}

const EdgeTable& edge_table(const EdgeKernel& kernel) {
  static std::mutex one_at_a_time;
  static std::map<std::array<int, 3>, std::unique_ptr<EdgeTable>> made;
  const auto steps = [](double v) { return static_cast<int>(std::lround(v / kernels::finest)); };
  const std::array<int, 3> key{kernel.squares, steps(kernel.bell_px), steps(kernel.sharpening)};
  {
    const std::scoped_lock lock(one_at_a_time);
    if (const auto& table = made[key]; table) return *table;
  }
  // Others may be made meanwhile; of two that are the same, the first stays.
  auto table = std::make_unique<EdgeTable>(
      EdgeKernel{key[0], key[1] * kernels::finest, key[2] * kernels::finest});
  const std::scoped_lock lock(one_at_a_time);
  auto& kept = made[key];
  if (!kept) kept = std::move(table);
  return *kept;
}

const EdgeTable& usual_kernel() {
  static const EdgeTable& usual = edge_table(kernels::usual);
  return usual;
}

const std::vector<EdgeKernel>& known_kernels() {
  static const std::vector<EdgeKernel> made = made_kernels();
  return made;
}

}  // namespace jolly_iris::measuring
