// CG that is given a plate's measured grain, against that plate: whether what is told of both
// differs by more than its margins, and how its power differs by fineness.
//
//   finish_likeness [COUNT] [FIRST SEED] [details]
#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "../tests/plates/grained.hpp"
#include "asked_plates.hpp"
#include "jolly_iris/jolly_iris.hpp"

int main(int argc, char** argv) {
  using namespace jolly_iris;
  const auto [count, first, details] = asked_plates(argc, argv);
  int looked_at = 0;
  int within = 0;
  int within_a_decibel = 0;
  for (int i = 0; i < count; ++i) {
    const auto seed = static_cast<std::uint32_t>(first + i);
    const plates::GrainedPlate p = plates::grained_plate(seed, false);
    const GrainFinding found = grain_in(p.picture);
    if (!found.grain) continue;
    const Grain grain = grain_like(*found.grain);
    const Picture cg = with_grain(p.clean, grain, grain.size.value, 1.0);
    const FinishComparison c = compare_finishes(p.picture, cg, {}, {});
    double chi2 = 0.0;
    int free = 0;
    for (const FinishDifference& d : c.numbers) {
      chi2 += std::pow(2.0 * d.off.value / d.off.margin, 2.0);
      ++free;
    }
    double most = 0.0;
    for (const GrainBand& b : c.grain_bands) most = std::max(most, std::abs(b.db.value));
    // 99 of 100 (Wilson and Hilferty 1931).
    const double k = 2.0 / (9.0 * std::max(1, free));
    const double limit = free * std::pow(1.0 - k + 2.326 * std::sqrt(k), 3.0);
    ++looked_at;
    within += free > 0 && chi2 <= limit;
    within_a_decibel += !c.grain_bands.empty() && most <= 1.0;
    if (details)
      fmt::print("{:4} χ² {:.1f} of {} (99 %: {:.1f}), {:.2f} dB\n", seed, chi2, free, limit, most);
  }
  fmt::print(
      "{} plates of {} tell their grain: {} within their margins (χ² at 99 %), {} within 1 dB\n",
      looked_at, count, within, within_a_decibel);
}
