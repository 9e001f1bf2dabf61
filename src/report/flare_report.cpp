#include "flare_report.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace jolly_iris::report {

namespace {

constexpr std::size_t told_lamps = 4;
constexpr std::size_t told_ghosts = 10;

// "1 / 52000": shares this small read better so.
std::string share_text(double share) {
  return share > 0.0 ? fmt::format("1 / {:.3g}", 1.0 / share) : std::string("nothing");
}

std::string surface_text(const FlaredFrame& made, std::size_t i) {
  return fmt::format("{:>2} ({})", i + 1, made.surfaces[i]);
}

}  // namespace

std::string flare_text(const FlaredFrame& made) {
  const Flare& f = made.flare;
  if (f.ghosts.empty()) return fmt::format("{}: no ghosts\n", made.glass);
  std::string text =
      fmt::format("LAMPS       px from the left, top       light (sum over pixels)\n");
  for (std::size_t k = 0; k < std::min(told_lamps, made.lamps.lamps.size()); ++k) {
    const FlareLamp& l = made.lamps.lamps[k];
    text += fmt::format("  {:>2}        {:>7.1f}, {:>6.1f}          {:>12.4g}\n", k + 1, l.x, l.y,
                        (l.light[0] + l.light[1] + l.light[2]) / 3.0);
  }
  if (made.lamps.lamps.size() > told_lamps) {
    text += fmt::format("  and {} more\n", made.lamps.lamps.size() - told_lamps);
  }
  text += fmt::format(
      "\nGHOSTS OF {}: {} of {} pairs of surfaces drawn; in the frame {} of the lamps' light\n",
      made.glass, f.ghosts.size(), f.paths, share_text(f.light));
  if (f.veil > 0.0) {
    text += fmt::format("  a veil over most of the picture: {} of it\n",
                        fmt::format("{:.0f} %", 100.0 * f.veil / f.light));
  }
  text +=
      "  turns back at               and at                      of the light     around px        "
      "wide\n";
  for (std::size_t k = 0; k < std::min(told_ghosts, f.ghosts.size()); ++k) {
    const Ghost& g = f.ghosts[k];
    text += fmt::format("  {:<27} {:<27} {:<12} {:>7.0f}, {:>5.0f} {:>8.0f} px\n",
                        surface_text(made, g.path.far), surface_text(made, g.path.near),
                        share_text(g.light), g.x, g.y, g.size_px);
  }
  if (f.ghosts.size() > told_ghosts) {
    text += fmt::format("  and {} fainter\n", f.ghosts.size() - told_ghosts);
  }
  return text;
}

void add_flare_json(const FlaredFrame& made, Json& json) {
  const Flare& f = made.flare;
  Json lamps = Json::array();
  for (const FlareLamp& l : made.lamps.lamps) {
    lamps.push_back({{"x_px", l.x}, {"y_px", l.y}, {"light", l.light}});
  }
  Json ghosts = Json::array();
  for (const Ghost& g : f.ghosts) {
    ghosts.push_back({{"surfaces", {g.path.far + 1, g.path.near + 1}},
                      {"light", g.light},
                      {"x_px", g.x},
                      {"y_px", g.y},
                      {"size_px", g.size_px},
                      {"peak", g.peak}});
  }
  json["glass"] = made.glass;
  json["pairs"] = f.paths;
  json["light"] = f.light;
  json["veil"] = f.veil;
  json["lamps"] = std::move(lamps);
  json["lamps_in_picture"] = made.lamps.all;
  json["lamps_light"] = made.lamps.share;
  json["ghosts"] = std::move(ghosts);
}

}  // namespace jolly_iris::report
