// How near the measured smear of a plate comes to what it was made with, and whether its margins
// hold.
//
//   smear [COUNT] [FIRST SEED] [details]
#include <fmt/format.h>

#include <cmath>

#include "../tests/plates/smeared.hpp"
#include "asked_plates.hpp"
#include "jolly_iris/jolly_iris.hpp"

int main(int argc, char** argv) {
  using namespace jolly_iris;
  const auto [count, first, details] = asked_plates(argc, argv);
  for (const bool jpeg : {false, true}) {
    int told = 0;
    int easy = 0;
    int easy_told = 0;
    int lengths_held = 0;
    int directions_held = 0;
    int near = 0;
    int limits = 0;
    int limits_held = 0;
    int wrong = 0;
    int still_limits = 0;
    for (int i = 0; i < count; ++i) {
      const auto seed = static_cast<std::uint32_t>(first + i);
      const SmearSettings settings{.clips_at = jpeg ? 0.98 : 0.0, .coded = jpeg};
      const plates::SmearedPlate p = plates::smeared_plate(seed, jpeg);
      const SmearFinding f = smear_in(p.picture, settings);
      const bool is_easy = p.lamps >= 5 && p.texture < 0.1 && p.length_px > 4.0;
      easy += is_easy;
      if (f.smear) {
        ++told;
        easy_told += is_easy;
        const Measured& l = f.smear->length_px;
        const Measured& d = f.smear->direction_deg;
        const double off = l.value - p.length_px;
        const double turned = std::remainder(d.value - p.direction_deg, 180.0);
        lengths_held += std::abs(off) <= l.margin;
        directions_held += std::abs(turned) <= d.margin;
        near += std::abs(off) <= 0.5 && std::abs(turned) <= 3.0;
        if (details) {
          fmt::print(
              "{:4} {} {} lamps {:.2f} ±{:.2f} of {:.2f} ({:+.1f})  {:.1f} ±{:.1f} of {:.1f} deg "
              "({:+.1f})  texture {:.2f}\n",
              seed, jpeg ? "jpeg" : "half", p.lamps, l.value, l.margin, p.length_px, off / l.margin,
              d.value, d.margin, p.direction_deg, turned / d.margin, p.texture);
        }
      } else {
        if (f.at_most_px) {
          ++limits;
          limits_held += p.length_px <= *f.at_most_px;
        }
        if (details) {
          fmt::print("{:4} {} {} lamps, {:.2f} px, texture {:.2f}: {}\n", seed,
                     jpeg ? "jpeg" : "half", p.lamps, p.length_px, p.texture, f.no_smear);
          for (const SmearedLamp& lamp : f.lamps) {
            fmt::print("       {:.0f},{:.0f} {:.2f} ±{:.2f} {}\n", lamp.at[0], lamp.at[1],
                       lamp.way.length_px.value, lamp.way.length_px.margin, lamp.why);
          }
        }
      }
      // The same lamps, still.
      const SmearFinding none = smear_in(plates::smeared_plate(seed, jpeg, true).picture, settings);
      wrong += none.smear.has_value();
      still_limits += none.at_most_px.has_value();
    }
    fmt::print(
        "{}: told {}/{} (easy {}/{}); length's margins hold {}/{}, direction's {}/{}; within 0.5 "
        "px "
        "and 3 deg {}; limits hold {}/{}; still ones: told {}, with a limit {}/{}\n",
        jpeg ? "jpeg" : "half", told, count, easy_told, easy, lengths_held, told, directions_held,
        told, near, limits_held, limits, wrong, still_limits, count);
  }
}
