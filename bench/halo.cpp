// How near the measured halo of a plate comes to what it was made with, and whether its margins
// hold.
//
//   halo [COUNT] [FIRST SEED] [details]
#include <fmt/format.h>

#include <cmath>
#include <cstdlib>

#include "../tests/plates/haloed.hpp"
#include "asked_plates.hpp"
#include "jolly_iris/jolly_iris.hpp"

int main(int argc, char** argv) {
  using namespace jolly_iris;
  const auto [count, first, details] = asked_plates(argc, argv);
  for (const bool jpeg : {false, true}) {
    int told = 0;
    int easy = 0;
    int easy_told = 0;
    int shares = 0;
    int held = 0;
    int sure = 0;
    int sure_near = 0;
    int shapes = 0;
    int reach_held = 0;
    int power_held = 0;
    int limits = 0;
    int limits_held = 0;
    for (int i = 0; i < count; ++i) {
      const plates::HaloedPlate p =
          plates::haloed_plate(static_cast<std::uint32_t>(first + i), jpeg);
      const HaloFinding f =
          halo_in(p.picture, {.clips_at = jpeg ? 0.98 : 0.0, .codec_px = jpeg ? 4 : 0});
      const bool is_easy =
          p.unclipped >= 5 && p.texture < 0.1 && p.fraction[1] > 0.02 && p.reach_px > 4.0;
      easy += is_easy;
      if (!f.halo) {
        if (f.at_most && p.reach_px >= f.usual_reach_px && p.power <= 3.0) {
          for (std::size_t c = 0; c < 3; ++c) {
            ++limits;
            limits_held += p.fraction[c] <= (*f.at_most)[c];
          }
        }
        if (details) {
          fmt::print("{:4} {} ({} lamps, {:.3f}, {:.1f} px, texture {:.2f}): {}\n", first + i,
                     jpeg ? "jpeg" : "half", p.unclipped, p.fraction[1], p.reach_px, p.texture,
                     f.no_halo);
        }
        continue;
      }
      ++told;
      easy_told += is_easy;
      std::string text;
      for (std::size_t c = 0; c < 3; ++c) {
        const Measured& m = f.halo->fraction[c];
        ++shares;
        held += std::abs(m.value - p.fraction[c]) <= m.margin;
        if (m.margin <= 0.1 * m.value) {
          ++sure;
          sure_near += std::abs(m.value / p.fraction[c] - 1.0) <= 0.1;
        }
        text += fmt::format(" {:.3f}/{:.3f} ±{:.0f}% ({:+.1f})", m.value, p.fraction[c],
                            100.0 * m.margin / m.value, (m.value - p.fraction[c]) / m.margin);
      }
      ++shapes;
      reach_held += std::abs(f.halo->reach_px.value - p.reach_px) <= f.halo->reach_px.margin;
      power_held += std::abs(f.halo->power.value - p.power) <= f.halo->power.margin;
      if (details) {
        fmt::print(
            "{:4} {} {} lamps{}  reach {:.1f} ±{:.1f} of {:.1f}  power {:.2f} ±{:.2f} of "
            "{:.2f}  texture {:.2f}\n",
            first + i, jpeg ? "jpeg" : "half", p.unclipped, text, f.halo->reach_px.value,
            f.halo->reach_px.margin, p.reach_px, f.halo->power.value, f.halo->power.margin, p.power,
            p.texture);
      }
    }
    fmt::print(
        "{}: told {}/{} (easy {}/{}); share's margins hold {}/{}; sure to 10 %: {}, of those "
        "within 10 % {}; reach holds {}/{}, power {}/{}; limits hold {}/{}\n",
        jpeg ? "jpeg" : "half", told, count, easy_told, easy, held, shares, sure, sure_near,
        reach_held, shapes, power_held, shapes, limits_held, limits);
  }
}
