// Whether a plate's spikes and streak are told as it was made, and whether their margins hold.
//
//   rays [COUNT] [FIRST SEED] [details]
#include <fmt/format.h>

#include <cmath>

#include "../tests/plates/rayed.hpp"
#include "asked_plates.hpp"
#include "jolly_iris/jolly_iris.hpp"

int main(int argc, char** argv) {
  using namespace jolly_iris;
  const auto [count, first, details] = asked_plates(argc, argv);
  for (const bool jpeg : {false, true}) {
    for (const int kind : {0, 1, 2, 3}) {
      int easy = 0;
      int easy_told = 0;
      int told = 0;
      int wrong = 0;
      int turns_held = 0;
      int streaks = 0;
      int streaks_wrong = 0;
      int directions_held = 0;
      int shares = 0;
      int shares_held = 0;
      int shapes = 0;
      int reach_held = 0;
      int power_held = 0;
      int limits = 0;
      int limits_held = 0;
      for (int i = 0; i < count; ++i) {
        const auto seed = static_cast<std::uint32_t>(first + i);
        const plates::RayedPlate p = plates::rayed_plate(seed, jpeg, kind);
        const RaysFinding f =
            rays_in(p.picture, {.clips_at = jpeg ? 0.98 : 0.0, .codec_px = jpeg ? 4 : 0});
        const bool is_easy = p.lamps >= 4 && p.texture < 0.1 && p.seen > (jpeg ? 6.0 : 1.0);
        easy += is_easy;
        bool all = true;
        std::string text;
        if (p.rays > 0) all = all && f.spikes.has_value();
        if (f.spikes) {
          const bool right = f.spikes->rays == p.rays;
          const double off =
              std::remainder(f.spikes->first_deg.value - p.first_deg, 360.0 / std::max(1, p.rays));
          told += right;
          wrong += !right;
          turns_held += right && std::abs(off) <= f.spikes->first_deg.margin;
          text += fmt::format(" {} rays, off by {:.2f} ±{:.2f}", f.spikes->rays, off,
                              f.spikes->first_deg.margin);
        }
        if (p.has_streak) all = all && f.streak.has_value();
        if (f.streak) {
          const double off = std::remainder(f.streak->direction_deg.value - p.direction_deg, 180.0);
          streaks += p.has_streak;
          streaks_wrong += !p.has_streak || std::abs(off) > 5.0;
          directions_held += std::abs(off) <= f.streak->direction_deg.margin;
          text += fmt::format("  streak off by {:.2f} ±{:.2f} deg", off,
                              f.streak->direction_deg.margin);
          if (f.streak->reach_px.margin > 0.0 && p.has_streak) {
            ++shapes;
            reach_held +=
                std::abs(f.streak->reach_px.value - p.reach_px) <= f.streak->reach_px.margin;
            power_held += std::abs(f.streak->power.value - p.power) <= f.streak->power.margin;
            for (std::size_t c = 0; c < 3; ++c) {
              const Measured& m = f.streak->fraction[c];
              ++shares;
              shares_held += std::abs(m.value - p.fraction[c]) <= m.margin;
              text += fmt::format(" {:.3f}/{:.3f} ±{:.0f}%", m.value, p.fraction[c],
                                  100.0 * m.margin / m.value);
            }
            text += fmt::format("  reach {:.1f} ±{:.1f} of {:.1f}  power {:.2f} ±{:.2f} of {:.2f}",
                                f.streak->reach_px.value, f.streak->reach_px.margin, p.reach_px,
                                f.streak->power.value, f.streak->power.margin, p.power);
          }
        } else if (f.streak_at_most && !p.has_streak) {
          ++limits;
          limits_held += *f.streak_at_most > 0.0;
        }
        easy_told += is_easy && all;
        if (details) {
          fmt::print("{:4} {} {} lamps, {} rays{}, seen {:.1f}, texture {:.2f}:{}{}\n", seed,
                     jpeg ? "jpeg" : "half", p.lamps, p.rays, p.has_streak ? " and a streak" : "",
                     p.seen, p.texture, text, f.spikes || f.streak ? "" : f.no_spikes);
          if (!f.spikes) {
            for (const PlateRay& r : f.rays) {
              fmt::print("       {:.1f} ±{:.1f} {:.1f}\n", r.direction_deg.value,
                         r.direction_deg.margin, r.sureness);
            }
          }
        }
      }
      constexpr const char* kinds[] = {"spikes", "streak", "both", "none"};
      fmt::print(
          "{} {}: easy all told {}/{}; rays right {}, wrong {}, turn holds {}; streaks {}, wrong "
          "{}, direction holds {}; shares hold {}/{}, reach {}/{}, power {}/{}\n",
          jpeg ? "jpeg" : "half", kinds[kind], easy_told, easy, told, wrong, turns_held, streaks,
          streaks_wrong, directions_held, shares_held, shares, reach_held, shapes, power_held,
          shapes);
    }
  }
}
