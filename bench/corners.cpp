// How near the measured darkening of a plate's corners comes to what it was made with, and whether
// its margins hold.
//
//   corners [COUNT] [FIRST SEED] [details]
#include <fmt/format.h>

#include <cmath>

#include "../tests/plates/cornered.hpp"
#include "asked_plates.hpp"
#include "jolly_iris/jolly_iris.hpp"

int main(int argc, char** argv) {
  using namespace jolly_iris;
  const auto [count, first, details] = asked_plates(argc, argv);
  for (const bool jpeg : {false, true}) {
    for (const bool pool : {false, true}) {
      int told = 0;
      int held = 0;
      int easy = 0;
      int easy_told = 0;
      int powers = 0;
      int powers_held = 0;
      double margins = 0.0;
      for (int i = 0; i < count; ++i) {
        const auto seed = static_cast<std::uint32_t>(first + i);
        const plates::CorneredPlate p = plates::cornered_plate(seed, jpeg, pool);
        const CornersFinding f = corners_in(p.picture);
        const bool is_easy = !pool && p.surfaces >= 2;
        easy += is_easy;
        easy_told += is_easy && f.stops;
        if (f.stops) {
          ++told;
          held += std::abs(f.stops->value - p.stops) <= f.stops->margin;
          margins += f.stops->margin;
          powers += f.power.has_value();
          powers_held += f.power && std::abs(f.power->value - p.power) <= f.power->margin;
        }
        if (details) {
          fmt::print("{:4} {}{} {} surfaces, {:.2f} stops: {}\n", seed, jpeg ? "jpeg" : "half",
                     pool ? " pool" : "", p.surfaces, p.stops,
                     f.stops
                         ? fmt::format("{:.2f} ±{:.2f} ({:+.1f})", f.stops->value, f.stops->margin,
                                       (f.stops->value - p.stops) / f.stops->margin)
                         : f.no_corners.substr(0, 90));
        }
      }
      fmt::print(
          "{}{}: told {}/{} (easy {}/{}), margins hold {}/{}, mean margin {:.2f} stops; "
          "powers {}/{}\n",
          jpeg ? "jpeg" : "half", pool ? ", a pool of light" : "", told, count, easy_told, easy,
          held, told, margins / std::max(1, told), powers_held, powers);
    }
  }
}
