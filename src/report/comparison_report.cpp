#include "report/comparison_report.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "jolly_iris/measure/edge_blur.hpp"
#include "jolly_iris/optics/sharpness.hpp"
#include "optics/quantile.hpp"
#include "report/measured.hpp"
#include "report/text.hpp"

namespace jolly_iris::report {

namespace {

std::string percent(const Measured& m) {
  return fmt::format("{} ± {:.1f} %", signed_text(100.0 * m.value, 1), 100.0 * m.margin);
}

struct Group {
  const char* name;
  std::vector<double> plate{};
  std::vector<double> cg{};
};

// Edges by where they lie against the focus; without a depth, by how sharp CG has them.
std::vector<Group> edge_groups(const ImageComparison& like, const LoadedShot& loaded) {
  const bool known = std::any_of(like.edges.begin(), like.edges.end(),
                                 [](const EdgePair& e) { return e.distance.has_value(); });
  std::vector<Group> groups =
      known ? std::vector<Group>{{"before the focus"}, {"in focus"}, {"behind it"}}
            : std::vector<Group>{{"sharp in CG"}, {"a little soft"}, {"blurred"}};
  const VirtualCamera& c = loaded.answer.camera;
  for (const EdgePair& e : like.edges) {
    std::size_t g = 0;
    if (known) {
      if (!e.distance) continue;
      const double coc =
          to_pixels(circle_of_confusion(c, *e.distance), c) * like.size.height / c.pixels.height;
      g = coc < -2.0 ? 0 : coc > 2.0 ? 2 : 1;
    } else {
      g = e.cg_px < 1.2 ? 0 : e.cg_px < 3.0 ? 1 : 2;
    }
    groups[g].plate.push_back(e.plate_px);
    groups[g].cg.push_back(e.cg_px);
  }
  return groups;
}

bool light_told(const ImageComparison& l) {
  return !l.light.regions.empty() && !l.light.contradict;
}

std::string iris_text(const PlateIris& iris) {
  if (!iris.known) return "cannot tell";
  if (!iris.sure()) return fmt::format("{}?", iris.blades);
  return blades_text(iris.blades);
}

// One row a number; of channels, green stands for all.
void add_finish_rows(const FinishComparison& f, std::vector<std::array<std::string, 3>>& rows) {
  for (const FinishDifference& d : f.numbers) {
    const bool other_channel =
        d.name.find(" of red") != std::string::npos || d.name.find(" of blue") != std::string::npos;
    if (other_channel) continue;
    const std::string unit = d.unit.empty() ? "" : " " + d.unit;
    if (d.part == FinishPart::corners) {
      rows.push_back({"corners",
                      fmt::format("{} ± {:.2f} stops", signed_text(d.off.value, 2), d.off.margin),
                      "darker than the plate's"});
      continue;
    }
    rows.push_back({d.name, fmt::format("{:.3g}{}", d.cg, unit),
                    fmt::format("the plate: {:.3g}{}; off by {} ± {:.2g}", d.plate, unit,
                                signed_text(d.off.value, 2), d.off.margin)});
  }
  for (const FinishMissing& m : f.missing) {
    rows.push_back({to_string(m.part), m.in_cg ? m.words : "none is seen",
                    m.in_cg ? "the plate: none is seen" : "the plate: " + m.words});
  }
  if (!f.grain_bands.empty()) {
    const auto most = std::max_element(f.grain_bands.begin(), f.grain_bands.end(),
                                       [](const GrainBand& a, const GrainBand& b) {
                                         return std::abs(a.db.value) < std::abs(b.db.value);
                                       });
    rows.push_back({"fineness of grain",
                    fmt::format("{} ± {:.1f} dB", signed_text(most->db.value, 1), most->db.margin),
                    fmt::format("at most, against the plate: at {:.2f} to {:.2f} cycles a px",
                                most->from, most->to)});
  }
}

Json finish_json(const FinishComparison& f) {
  Json j{{"numbers", Json::array()},
         {"missing", Json::array()},
         {"grain_bands", Json::array()},
         {"chi2", f.chi2}};
  for (const FinishDifference& d : f.numbers) {
    j["numbers"].push_back({{"part", to_string(d.part)},
                            {"name", d.name},
                            {"unit", d.unit},
                            {"plate", d.plate},
                            {"cg", d.cg},
                            {"off", json_of(d.off)}});
  }
  for (const FinishMissing& m : f.missing) {
    j["missing"].push_back(
        {{"part", to_string(m.part)}, {"in", m.in_cg ? "cg" : "plate"}, {"said", m.words}});
  }
  for (const GrainBand& b : f.grain_bands) {
    j["grain_bands"].push_back({{"from", b.from}, {"to", b.to}, {"db", json_of(b.db)}});
  }
  return j;
}

}  // namespace

std::vector<std::array<std::string, 3>> comparison_rows(const PlateComparison& comparison,
                                                        std::size_t of) {
  const ImageComparison& l = comparison.likes.at(of);
  std::vector<std::array<std::string, 3>> rows;
  if (l.light.contradict) {
    double least = 1e9;
    double most = -1e9;
    for (const RegionLeft& r : l.light.regions) {
      least = std::min(least, -r.alone_stops);
      most = std::max(most, -r.alone_stops);
    }
    rows.push_back(
        {"exposure", "cannot tell",
         fmt::format("{} regions contradict each other: CG is {} to {} stops off",
                     l.light.regions.size(), signed_text(least, 1), signed_text(most, 1))});
  } else if (l.light.regions.empty()) {
    rows.push_back({"exposure", "cannot tell", "no region has light in both"});
  } else {
    rows.push_back({"exposure", fmt::format("{} stops", signed_text(-l.light.stops, 2)),
                    fmt::format("CG against the plate, {} regions", l.light.regions.size())});
    rows.push_back({"white",
                    fmt::format("red {}, blue {}", signed_text(-std::log2(l.light.gains[0]), 2),
                                signed_text(-std::log2(l.light.gains[2]), 2)),
                    "stops of CG against the plate, green alike"});
  }
  std::size_t apart = 0;
  for (const RegionLeft& r : l.light.regions) apart += r.apart ? 1U : 0U;
  if (apart > 0 && !l.light.contradict) {
    std::string names;
    for (const RegionLeft& r : l.light.regions) {
      if (r.apart && names.size() < 60) {
        names += fmt::format("{}{} ({:+.1f})", names.empty() ? "" : "; ", r.name, -r.stops);
      }
    }
    rows.push_back({"regions lit otherwise", fmt::format("{}", apart), names});
  }
  if (l.larger.margin > 0.0) {
    rows.push_back({"size of discs", percent(l.larger),
                    fmt::format("{} pairs; ± are 95 % margins", l.discs.size())});
    rows.push_back({"height/width of discs", percent(l.higher), ""});
  } else {
    rows.push_back({"discs",
                    fmt::format("{} and {}", l.plate_discs.discs.size(), l.cg_discs.discs.size()),
                    "in the plate and in CG, too few at the same places"});
  }
  const PlateIris& p = l.plate_discs.iris;
  const PlateIris& c = l.cg_discs.iris;
  if (p.known || c.known) {
    rows.push_back({"iris", iris_text(c), fmt::format("the plate: {}", iris_text(p))});
    if (l.turned_deg.margin > 0.0) {
      rows.push_back(
          {"blades turned by",
           fmt::format("{} ± {:.1f} deg", signed_text(l.turned_deg.value, 1), l.turned_deg.margin),
           ""});
    }
  }
  if (l.edge_falloff_stops.margin > 0.0) {
    rows.push_back({"rim",
                    fmt::format("{:+.2f} ± {:.2f} stops", l.edge_falloff_stops.value,
                                l.edge_falloff_stops.margin),
                    ""});
    rows.push_back({"fringe",
                    fmt::format("red {:+.2f}, blue {:+.2f} px", l.red_px.value, l.blue_px.value),
                    "of the discs' diameter, against the plate's"});
  }
  rows.push_back(
      {"left over", fmt::format("{:.1f} of 255", 255.0 * l.left.off),
       l.left.places.empty()
           ? fmt::format("noise: it has {:.1f} of 255 a pixel", 255.0 * l.left.noise)
           : fmt::format("with CG's light as the plate's; {:.1f} % of the picture differs by more "
                         "than noise ({:.1f})",
                         100.0 * l.left.fraction, 255.0 * l.left.noise)});
  if (comparison.finish) {
    add_finish_rows(*comparison.finish, rows);
    return rows;
  }
  rows.push_back({"grain", fmt::format("{:.2f} %", 100.0 * l.cg_grain),
                  fmt::format("of the light; the plate has {:.2f} %", 100.0 * l.plate_grain)});
  return rows;
}

namespace {

// Why, and which command does it where none is in the shot.
std::string reason_text(const Suggestion& m) {
  switch (m.in) {
    case Suggestion::In::shot:
      break;
    case Suggestion::In::exposure:
      return m.message + fmt::format(" (expose --stops {:.2f}, or its lights)", m.stops);
    case Suggestion::In::white:
      return m.message + " (expose --as-plate does it)";
  }
  return m.message;
}

}  // namespace

std::string suggestion_text(const Suggestion& m) {
  std::string line;
  if (!m.key.empty()) {
    line += m.key;
    if (!m.to.empty()) line += " = " + m.to;
    if (!m.now.empty()) line += fmt::format(" (now {})", m.now);
    line += ": ";
  }
  return line + reason_text(m) + ".";
}

namespace {

std::string another_view_sentence(const ImageComparison& l) {
  return fmt::format(
      "These do not show the same view: {:.0f} dB, their detail {} alike, {}. Nothing "
      "can be advised; is it this plate, this frame, this camera of the scene?",
      l.psnr_lit_db,
      l.view_likeness ? fmt::format("{:.0f} %", 100.0 * std::max(0.0, *l.view_likeness))
                      : std::string("not"),
      l.discs.empty() ? std::string("no pairs of discs")
                      : counted(l.discs.size(), "pair") + " of discs");
}

std::string verdict_text(const PlateComparison& comparison) {
  const ImageComparison& l = comparison.likes.front();
  const std::vector<Suggestion> moves = advice(comparison, 0);
  std::string text;
  if (!moves.empty()) text += "\nWhat to change next:\n";
  int number = 0;
  for (const Suggestion& m : moves) {
    text += wrapped(fmt::format("{}. {}", ++number, suggestion_text(m)), "  ", "     ");
  }
  const std::string verdict = verdict_sentence(l, !moves.empty());
  if (!verdict.empty()) text += "\n" + wrapped(verdict, "", "  ");
  for (const DifferingPlace& p : l.left.places) text += wrapped(place_text(p), "  ", "    ");
  return text;
}

Json made_json(const TriedPicture& t) {
  Json j{{"told", t.made.told}};
  j["stop"] = stop_text(t.made.shot.take.stop);
  if (!t.origin.shot.empty()) j["shot"] = t.origin.shot;
  return j;
}

std::string one_text(const PlateComparison& comparison, const LoadedShot& loaded) {
  const ImageComparison& l = comparison.likes.front();
  const TriedPicture& cg = comparison.tries.front();
  const std::string lit =
      std::isinf(l.psnr_lit_db) ? std::string("equal") : fmt::format("{:.1f}", l.psnr_lit_db);
  std::string text = fmt::format(
      "{} against {}, at {} x {} px: {}\n", file_name(cg.file), comparison.reference, l.size.width,
      l.size.height,
      std::isinf(l.psnr_db) ? std::string("every pixel alike")
                            : fmt::format("{} ({} with its light)", decibels(l.psnr_db), lit));
  if (!cg.origin.made_with.empty()) {
    text += wrapped("made with " + cg.origin.made_with +
                        (cg.origin.stop ? ": " + stop_text(*cg.origin.stop) + " on the lens" : ""),
                    "  ", "    ");
  }
  if (!cg.made.told) {
    text +=
        wrapped("its header says nothing of its lens: it is taken to be made as the shot is now",
                "  ", "    ");
  }
  text += '\n';
  if (!l.same_view) return text + wrapped(another_view_sentence(l), "", "  ");
  for (const auto& [what, value, words] : comparison_rows(comparison)) {
    text += fmt::format("  {}{}{}\n", padded(what, 24), padded(value, 26), words);
  }
  auto groups = edge_groups(l, loaded);
  bool first = true;
  for (Group& g : groups) {
    if (g.plate.size() < 3) continue;
    if (first)
      text += fmt::format("\n  {}{:>10}{:>10}{:>8}\n", padded("blur of edges", 24), "plate", "CG",
                          "edges");
    first = false;
    text += fmt::format("  {}{:>7.2f} px{:>7.2f} px{:>8}\n", padded(g.name, 24),
                        upper_median(g.plate), upper_median(g.cg), g.plate.size());
  }
  if (!comparison.no_finish.empty()) text += "\n" + wrapped(comparison.no_finish, "  ", "    ");
  return text + verdict_text(comparison);
}

Json one_json(const PlateComparison& comparison, std::size_t of) {
  const ImageComparison& l = comparison.likes[of];
  const TriedPicture& tried = comparison.tries[of];
  Json j{{"width", l.size.width},
         {"height", l.size.height},
         {"psnr_db", finite(l.psnr_db)},
         {"psnr_lit_db", finite(l.psnr_lit_db)},
         {"light", {{"regions", Json::array()}}},
         {"discs",
          {{"pairs", Json::array()},
           {"larger", json_of(l.larger)},
           {"higher", json_of(l.higher)},
           {"rim_stops", json_of(l.edge_falloff_stops)},
           {"red_px", json_of(l.red_px)},
           {"blue_px", json_of(l.blue_px)}}},
         {"edges", Json::array()},
         {"grain", {{"plate", l.plate_grain}, {"cg", l.cg_grain}}},
         {"same_view", l.same_view},
         {"left",
          {{"off", l.left.off},
           {"noise", l.left.noise},
           {"fraction", l.left.fraction},
           {"places", Json::array()}}},
         {"made", made_json(tried)},
         {"moves", Json::array()}};
  if (l.view_likeness) j["view_likeness"] = *l.view_likeness;
  if (l.turned_deg.margin > 0.0) j["discs"]["turned_deg"] = json_of(l.turned_deg);
  j["light"]["contradict"] = l.light.contradict;
  // What no region tells is not there.
  if (light_told(l)) {
    j["light"]["stops"] = l.light.stops;
    j["light"]["gains"] = l.light.gains;
  }
  for (const DifferingPlace& p : l.left.places) {
    j["left"]["places"].push_back({{"box_px", {p.box.x, p.box.y, p.box.width, p.box.height}},
                                   {"off", p.off},
                                   {"stops", p.stops},
                                   {"discs", p.discs}});
  }
  for (const RegionLeft& r : l.light.regions) {
    j["light"]["regions"].push_back(
        {{"name", r.name}, {"stops", r.stops}, {"warm_stops", r.warm_stops}, {"apart", r.apart}});
  }
  for (const DiscPair& p : l.discs) {
    j["discs"]["pairs"].push_back({{"at_px", p.plate.at},
                                   {"plate_px", p.plate.height_px.value},
                                   {"cg_px", p.cg.height_px.value},
                                   {"larger", p.larger},
                                   {"sigma", p.sigma}});
  }
  for (const EdgePair& e : l.edges) {
    j["edges"].push_back({{"at_px", e.at}, {"plate_px", e.plate_px}, {"cg_px", e.cg_px}});
    if (e.distance) j["edges"].back()["distance_m"] = e.distance->m();
  }
  if (comparison.finish) j["finish"] = finish_json(*comparison.finish);
  for (const Suggestion& m : advice(comparison, of)) {
    j["moves"].push_back({{"key", m.key}, {"now", m.now}, {"to", m.to}, {"said", reason_text(m)}});
  }
  return j;
}

std::string tries_text(const PlateComparison& comparison) {
  const auto& likes = comparison.likes;
  std::size_t best = 0;
  std::size_t width = 8;
  for (std::size_t i = 0; i < likes.size(); ++i) {
    if (likes[i].psnr_db > likes[best].psnr_db) best = i;
    width = std::max(width, width_of(file_name(comparison.tries[i].file)));
  }
  std::string text = fmt::format(
      "{} tries against {}; number {} is {}\n\n", likes.size(), comparison.reference, best + 1,
      std::isinf(likes[best].psnr_db) ? "the same, pixel by pixel"
                                      : "nearest by " + decibels(likes[best].psnr_db));
  text += fmt::format("  {}       alike      light        discs   made with\n",
                      padded("picture", width));
  for (std::size_t i = 0; i < likes.size(); ++i) {
    const ImageComparison& l = likes[i];
    text +=
        fmt::format("  {}{:>12}{:>11}{:>13}  {}\n",
                    padded(file_name(comparison.tries[i].file), width), decibels(l.psnr_db),
                    light_told(l) ? fmt::format("{:+.2f}", -l.light.stops) : std::string("none"),
                    l.larger.margin > 0.0 ? fmt::format("{:+.1f} %", 100.0 * l.larger.value)
                                          : std::string("none"),
                    comparison.tries[i].origin.made_with);
  }
  return text;
}

}  // namespace

std::string place_text(const DifferingPlace& p) {
  std::string text =
      fmt::format("at {}, {}: {} x {} px differ by {:.1f} of 255 (noise: {:.1f})", p.box.x, p.box.y,
                  p.box.width, p.box.height, 255.0 * p.off, 255.0 * p.noise);
  constexpr double black = 20.0;  // stops: more than any picture holds
  if (std::abs(p.stops) > black) {
    text += fmt::format(", {} has no light there", p.stops > 0.0 ? "the plate" : "CG");
  } else if (std::abs(p.stops) >= 0.05) {
    text +=
        fmt::format(", CG {} {} there", stops_text(p.stops), p.stops > 0.0 ? "brighter" : "darker");
  }
  if (p.discs > 0)
    text += fmt::format(", {}", counted(static_cast<std::size_t>(p.discs), "paired disc"));
  return text;
}

std::string verdict_sentence(const ImageComparison& l, bool any_advice) {
  if (!l.same_view) return another_view_sentence(l);
  if (l.left.places.empty()) {
    return any_advice ? "" : "Nothing differs: what is left over is noise.";
  }
  if (!any_advice && !l.view_likeness && l.discs.empty()) {
    return "Plate or CG shows hardly any detail, so nothing tells whether both are one view. Is it "
           "the right picture and frame? They differ at these places:";
  }
  return any_advice ? "Where they differ most, with CG's light as the plate's:"
                    : "Nothing that we measure differs, but the pictures do; look at these places:";
}

std::string comparison_text(const PlateComparison& comparison, const LoadedShot& loaded) {
  return comparison.likes.size() == 1 ? one_text(comparison, loaded) : tries_text(comparison);
}

Json comparison_json(const PlateComparison& comparison) {
  if (comparison.likes.size() == 1) {
    return one_json(comparison, 0);
  }
  Json json{{"tries", Json::array()}};
  for (std::size_t i = 0; i < comparison.likes.size(); ++i) {
    Json one = one_json(comparison, i);
    one["file"] = comparison.tries[i].file;
    one["made_with"] = comparison.tries[i].origin.made_with;
    json["tries"].push_back(std::move(one));
  }
  return json;
}

}  // namespace jolly_iris::report
