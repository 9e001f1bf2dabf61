#include "likely_light.hpp"

#include <algorithm>
#include <cmath>
#include <limits>

namespace jolly_iris::measuring {

LikelyLight likely_light(std::vector<LightTry> tries) {
  std::sort(tries.begin(), tries.end(),
            [](const LightTry& a, const LightTry& b) { return a.disc.contrast < b.disc.contrast; });
  double cheapest = std::numeric_limits<double>::infinity();
  for (const LightTry& t : tries) cheapest = std::min(cheapest, t.cost);
  double sum = 0.0;
  double light = 0.0;
  double size = 0.0;
  double size2 = 0.0;
  const auto add = [&](double weight, double log_light, double log_size, double cost) {
    const double w = weight * std::exp(std::max(cheapest - cost, -700.0));
    sum += w;
    light += w * log_light;
    size += w * log_size;
    size2 += w * log_size * log_size;
  };
  constexpr int between = 40;
  for (std::size_t k = 0; k + 1 < tries.size(); ++k) {
    const double a = std::log(tries[k].disc.contrast);
    const double b = std::log(tries[k + 1].disc.contrast);
    const double height_a = std::log(tries[k].disc.height);
    const double height_b = std::log(tries[k + 1].disc.height);
    for (int i = 0; i < between; ++i) {
      const double f = (i + 0.5) / between;
      add((b - a) / between, a + f * (b - a), height_a + f * (height_b - height_a),
          tries[k].cost + f * (tries[k + 1].cost - tries[k].cost));
    }
  }
  if (!(sum > 0.0)) {
    const auto& best =
        *std::min_element(tries.begin(), tries.end(),
                          [](const LightTry& a, const LightTry& b) { return a.cost < b.cost; });
    return {best.disc.contrast, 0.0};
  }
  return {std::exp(light / sum), std::sqrt(std::max(0.0, size2 / sum - size / sum * (size / sum)))};
}

}  // namespace jolly_iris::measuring
