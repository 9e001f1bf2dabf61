// How near the measured grain of a plate comes to what it was made with, and whether its margins
// hold.
//
//   grain [COUNT] [FIRST SEED] [details]
#include <fmt/format.h>
#include <unistd.h>

#include <cstdlib>
#include <string_view>

#include "../tests/plates/grained.hpp"
#include "asked_plates.hpp"
#include "jolly_iris/jolly_iris.hpp"

int main(int argc, char** argv) {
  using namespace jolly_iris;
  const auto [count, first, details] = asked_plates(argc, argv);
  for (const bool jpeg : {false, true}) {
    int told = 0;
    int easy = 0;
    int easy_told = 0;
    int levels = 0;
    int near = 0;
    int held = 0;
    int sizes = 0;
    int size_near = 0;
    int size_held = 0;
    int alike_held = 0;
    for (int i = 0; i < count; ++i) {
      const plates::GrainedPlate p =
          plates::grained_plate(static_cast<std::uint32_t>(first + i), jpeg);
      const GrainFinding f = grain_in(p.picture, {.steps = jpeg ? 255.0 : 0.0});
      const bool is_easy = p.textured < 0.5 && (!jpeg || p.grey[1] > 0.012);
      easy += is_easy;
      if (!f.grain) {
        if (details) fmt::print("{} {}: {}\n", first + i, jpeg ? "jpeg" : "half", f.no_grain);
        continue;
      }
      ++told;
      easy_told += is_easy;
      const GrainInPlate& g = *f.grain;
      std::string odd;
      for (std::size_t c = 0; c < 3; ++c) {
        const double a = g.black[c].value * g.black[c].value;
        const double b = (g.grey[c].value * g.grey[c].value - a) / 0.18;
        const double seen = std::sqrt(std::max(0.0, a + b * p.level[c]));
        ++levels;
        near += std::abs(seen / p.at_level[c] - 1.0) <= 0.05;
        const double truth_a = p.black[c] * p.black[c];
        const double truth =
            std::sqrt(truth_a + (p.grey[c] * p.grey[c] - truth_a) / 0.18 * g.level[c]);
        const double z = (g.at_level[c].value - truth) / g.at_level[c].margin;
        held += std::abs(z) <= 1.0;
        odd += fmt::format(" {:+.1f}%({:+.1f})", 100.0 * (g.at_level[c].value / truth - 1.0), z);
      }
      ++sizes;
      // Softness below what pixels can show is none.
      const double true_size = p.size_px;
      size_near += std::abs(g.size_px.value - true_size) <= 0.15;
      size_held += std::abs(g.size_px.value - true_size) <= g.size_px.margin;
      alike_held += std::abs(g.alike.value - p.alike) <= g.alike.margin;
      if (details) {
        fmt::print(
            "{:4} {} squares {:3}/{:3} levels{}  size {:.2f} {:.2f} ±{:.2f}  alike {:.2f} "
            "{:.2f} ±{:.2f}  textured {:.0f}% grey {:.4f}\n",
            first + i, jpeg ? "jpeg" : "half", g.places.size(), g.squares, odd, p.size_px,
            g.size_px.value, g.size_px.margin, p.alike, g.alike.value, g.alike.margin,
            100.0 * p.textured, p.grey[1]);
      }
    }
    fmt::print(
        "{}: told {}/{} (easy {}/{}); levels within 5 % {}/{}, margins hold {}/{}; size within "
        "0.15 px {}/{}, margin holds {}/{}; alike holds {}/{}\n",
        jpeg ? "jpeg" : "half", told, count, easy_told, easy, near, levels, held, levels, size_near,
        sizes, size_held, sizes, alike_held, sizes);
  }
}
