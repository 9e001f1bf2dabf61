// What a look at a picture found, as text and as JSON.
#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <filesystem>

#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/optics/exposure_hold.hpp"
#include "report/exposure_report.hpp"
#include "report/look_report.hpp"
#include "report/text.hpp"

namespace jolly_iris::report {

namespace {

std::string fraction_text(double fraction) {
  return fraction > 0.0 && fraction < 0.0005 ? "under 0.1 %"
                                             : fmt::format("{:.1f} %", 100.0 * fraction);
}

std::string by_stops(double stops) {
  if (std::abs(stops) < 0.005) return "just as it is";
  return stops_text(stops) + (stops > 0.0 ? " brighter" : " darker");
}

std::string from_grey(double stops) {
  if (std::abs(stops) < 0.005) return "mid-grey";
  return stops_text(stops) + (stops > 0.0 ? " above mid-grey" : " below mid-grey");
}

std::string way_text(const ExposureLook& look) {
  switch (look.how.way) {
    case MeterWay::average:
      return "the average of all of it";
    case MeterWay::centre:
      return "mostly its middle";
    case MeterWay::spot:
      return fmt::format("a spot of {:.0f} px", 2.0 * look.how.radius);
    case MeterWay::region:
      return fmt::format("'{}'", look.regions.front().name);
    case MeterWay::highlights:
      break;
  }
  return fmt::format("its highlights: {:g} % of the pixels may clip", 100.0 * look.how.may_clip);
}

std::string metered_text(const ExposureLook& look) {
  const Metered& m = look.metered;
  std::string text = fmt::format("METERED: {}\n  value {:.4g}, {}\n", way_text(look), m.level,
                                 from_grey(std::log2(m.level / grey_value)));
  text += fmt::format("  black {}, clipped {} (at {:.4g}), no number {}\n", fraction_text(m.black),
                      fraction_text(m.clipped), look.clips_at, fraction_text(m.non_finite));
  return text;
}

std::string way_there_text(const ExposureLook& look, const LoadedShot& loaded) {
  const double stops = look.metered.stops();
  const std::string goal = look.how.way == MeterWay::highlights
                               ? std::string("TO LET NO MORE CLIP")
                               : fmt::format("TO BRING IT TO {:g}", look.how.wanted);
  std::string text = fmt::format("\n{}: {}\n", goal, by_stops(stops));
  text += fmt::format("  {:<10}times {:.4g} ({:+.2f} stops)\n", "in CG", std::exp2(stops), stops);
  if (!loaded.answer.exposure.by_numbers) {
    return text +
           "  on set    not known: the take needs its iso and shutter (an angle also fps) for "
           "that\n";
  }
  for (const Partner partner : {Partner::stop, Partner::shutter, Partner::iso, Partner::nd}) {
    const std::string name = fmt::format("  {:<10}", partner_name(partner));
    try {
      const Trade t = change_exposure(loaded.now.lens, loaded.now.take, stops, partner);
      text += name + fmt::format("{:<18}", partner_text(partner, t.exact));
      text += fmt::format("to set: {}, {}\n", partner_text(partner, t.nearest),
                          std::abs(t.left_stops) < 0.005
                              ? std::string("just that")
                              : fmt::format("{:.2f} stop too {}", std::abs(t.left_stops),
                                            t.left_stops > 0.0 ? "bright" : "dark"));
    } catch (const OpticsError& e) {
      text += wrapped(fmt::format("cannot: {}", e.what()), name, std::string(12, ' '));
    }
  }
  return text;
}

std::string match_text(const ExposureLook& look) {
  const PlateMatch& m = *look.match;
  std::string text = fmt::format("\nAS THE PLATE ({}), by {} region{}\n", file_name(look.plate),
                                 m.regions.size(), m.regions.size() == 1 ? "" : "s");
  if (m.contradict) {
    text += wrapped(
        "the regions contradict each other: each asks for another change, so no one change brings "
        "CG to the plate. Look at the lights; or name regions that are lit alike (--region)",
        "  ", "  ");
  } else {
    text +=
        fmt::format("  CG must become {}: times {:.4g}; R times {:.4f}, B times {:.4f} besides\n",
                    by_stops(m.stops), std::exp2(m.stops), m.gains[0], m.gains[2]);
  }
  if (look.plate_white) {
    const double apart = mired(look.plate_white->temperature) - mired(look.cg_white.temperature);
    text += fmt::format("  if CG's light is {}, the plate's is {}: {:.1f} mired {}\n",
                        white_text(look.cg_white), white_text(*look.plate_white), std::abs(apart),
                        apart > 0.0 ? "warmer" : "cooler");
  } else if (!m.contradict) {
    text += wrapped("the plate's light has no temperature: " + look.no_plate_white, "  ", "  ");
  }
  std::size_t width = 8;
  for (const RegionLeft& r : m.regions) width = std::max(width, width_of(r.name));
  text += fmt::format("\n  {}  {:>12}{:>12}{:>12}\n", padded("region", width), "by itself", "left",
                      "left warm");
  bool any_apart = false;
  for (const RegionLeft& r : m.regions) {
    text += fmt::format("  {}  {:>+12.3f}{:>+12.3f}{:>+12.3f}{}\n", padded(r.name, width),
                        r.alone_stops, r.stops, r.warm_stops, r.apart ? "  lit otherwise" : "");
    any_apart = any_apart || r.apart;
  }
  text += wrapped(
      std::string(
          "in stops; left: what the plate still is brighter (+), and warmer in R against B, "
          "after that one change for all") +
          (any_apart ? ". Where it is lit otherwise, look at the lights, not at the camera" : ""),
      "  ", "  ");
  return text;
}

// Each region by itself: a grey card tells light and white at once.
std::string regions_text(const ExposureLook& look) {
  const auto tells = [](const RegionRead& r) { return r.worth_telling; };
  if (look.match || std::none_of(look.read.begin(), look.read.end(), tells)) return {};
  std::size_t width = 8;
  for (const RegionRead& r : look.read) width = std::max(width, width_of(r.name));
  std::string text = fmt::format("\n  {}  {:>10}{:>10}{:>10}   {}\n", padded("region", width),
                                 "value", "stops", "clipped", "if it is grey, the light is");
  for (const RegionRead& r : look.read) {
    if (!r.worth_telling) continue;
    const double stops = std::log2(r.light.luminance / grey_value);
    text +=
        fmt::format("  {}  {:>10.4g}{:>10}{:>10}   {}\n", padded(r.name, width), r.light.luminance,
                    std::isfinite(stops) ? fmt::format("{:+.2f}", stops) : "black",
                    fraction_text(r.light.clipped), r.white ? white_text(*r.white) : "none");
  }
  return text;
}

std::string white_text_of(const ExposureLook& look) {
  if (look.neutral) {
    const Neutral& n = *look.neutral;
    const std::string fraction =
        n.fraction > 0.0 ? fmt::format(", {} of the picture", fraction_text(n.fraction)) : "";
    return fmt::format(
        "\nWHITE: what was taken to be neutral is {:.4g}, {:.4g}, {:.4g}{}\n  the light is {}: "
        "{:.0f} "
        "mired; gains R {:.4f}, G 1, B {:.4f}\n",
        n.rgb[0], n.rgb[1], n.rgb[2], fraction, white_text(n.white), mired(n.white.temperature),
        look.gains[0], look.gains[2]);
  }
  if (!look.seen_white) return {};
  return fmt::format("\nWHITE: the camera is told {}, the light is {}: a grey card turns {}\n",
                     white_text(look.told), white_text(look.light),
                     cast_in_words(*look.seen_white));
}

Json rgb_json(const Rgb& rgb) { return {rgb[0], rgb[1], rgb[2]}; }

}  // namespace

std::string look_text(const ExposureLook& look, const LoadedShot& loaded) {
  std::string text =
      fmt::format("{}: {} x {}, {}\n", look.file, look.size.width, look.size.height, look.coded);
  text += metered_text(look);
  if (!look.match) text += way_there_text(look, loaded);
  if (look.match) text += match_text(look);
  text += regions_text(look);
  text += white_text_of(look);
  for (const std::string& warning : look.warnings)
    text += wrapped(warning + (warning.ends_with('?') ? "" : "."), "- ", "  ");
  return text;
}

Json look_json(const ExposureLook& look) {
  const Metered& m = look.metered;
  Json j{{"picture", look.file},
         {"transfer", look.coded},
         {"metered",
          {{"way", to_string(look.how.way)},
           {"level", m.level},
           {"target", m.target},
           {"stops", m.stops()},
           {"pixels", m.pixels},
           {"black", m.black},
           {"clipped", m.clipped},
           {"non_finite", m.non_finite}}},
         {"applies", {{"stops", look.stops}, {"gains", rgb_json(look.gains)}}}};
  if (look.colours) {
    for (const auto& row : *look.colours) j["applies"]["colours"].push_back(rgb_json(row));
  }
  if (look.match) {
    j["match"] = {{"plate", look.plate},
                  {"stops", look.match->stops},
                  {"gains", rgb_json(look.match->gains)},
                  {"contradict", look.match->contradict},
                  {"cg_white", white_json(look.cg_white)}};
    if (look.plate_white) j["match"]["plate_white"] = white_json(*look.plate_white);
    for (const RegionLeft& r : look.match->regions) {
      j["match"]["regions"].push_back({{"name", r.name},
                                       {"alone_stops", r.alone_stops},
                                       {"left_stops", r.stops},
                                       {"left_warm_stops", r.warm_stops},
                                       {"apart", r.apart}});
    }
  }
  for (const RegionRead& r : look.read) {
    Json region{{"name", r.name},
                {"rgb", rgb_json(r.light.mean)},
                {"luminance", r.light.luminance},
                {"spread_stops", r.light.spread_stops},
                {"clipped", r.light.clipped}};
    if (r.white) region["white"] = white_json(*r.white);
    j["regions"].push_back(region);
  }
  if (look.neutral) {
    j["white"] = white_json(look.neutral->white);
    j["white"]["rgb"] = rgb_json(look.neutral->rgb);
  }
  if (look.seen_white) {
    j["white"] = {{"told", white_json(look.told)},
                  {"light", white_json(look.light)},
                  {"grey_card", rgb_json(*look.seen_white)}};
  }
  j["warnings"] = look.warnings;
  return j;
}

std::string exposed_table(const std::vector<ExposedFrame>& all, bool applied) {
  std::string text = fmt::format("{:>8}{:>12}{:>10}{:>10}{:>10}{}\n", "frame", "value", "stops",
                                 "black", "clipped", applied ? "   applied" : "");
  for (const ExposedFrame& d : all) {
    const Metered& m = d.look.metered;
    text += fmt::format("{:>8g}{:>12.4g}{:>+10.2f}{:>8.1f} %{:>8.1f} %{}\n", d.frame, m.level,
                        m.stops(), 100.0 * m.black, 100.0 * m.clipped,
                        applied ? fmt::format("{:>+10.2f}", d.stops) : "");
  }
  return text;
}

Json exposed_json(const std::vector<ExposedFrame>& frames) {
  Json list = Json::array();
  for (const ExposedFrame& f : frames) {
    const Metered& m = f.look.metered;
    list.push_back({{"frame", f.frame},
                    {"level", m.level},
                    {"stops", m.stops()},
                    {"black", m.black},
                    {"clipped", m.clipped},
                    {"non_finite", m.non_finite},
                    {"applied_stops", f.stops}});
  }
  return list;
}

}  // namespace jolly_iris::report
