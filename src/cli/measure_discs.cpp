#include <fmt/format.h>

#include <cmath>
#include <filesystem>
#include <nlohmann/json.hpp>

#include "jolly_iris/discs.hpp"
#include "jolly_iris/disk.hpp"
#include "jolly_iris/errors.hpp"
#include "jolly_iris/marked_picture.hpp"
#include "jolly_iris/picture_file.hpp"
#include "output.hpp"
#include "seen_in_plate.hpp"
#include "text.hpp"
#include "verbs.hpp"

namespace jolly_iris::cli {

namespace {

using Json = nlohmann::ordered_json;

constexpr std::size_t most_rows = 40;  // of the table; all are in the JSON

Json json_of(const Measured& m) { return {{"value", m.value}, {"margin", m.margin}}; }

Json json_of(const PlateDisc& d) {
  Json j{{"at_px", d.at},
         {"high_px", json_of(d.high_px)},
         {"wide_px", json_of(d.wide_px)},
         {"light", d.light},
         {"contrast", d.contrast},
         {"clipped", d.clipped},
         {"soft_px", d.soft_px},
         {"rim_stops", d.rim_stops},
         {"facing", to_string(d.facing)},
         {"fringe_px", d.fringe_px},
         {"cut", d.cut},
         {"off", d.off},
         {"outlier", d.outlier}};
  if (!d.name.empty()) j["name"] = d.name;
  if (d.outlier) j["why"] = d.why;
  return j;
}

std::string blades_words(const PlateIris& iris) {
  if (!iris.known) return "too few or too small discs to tell its blades";
  const auto said = [](int n) { return n == 0 ? std::string("round") : fmt::format("{}", n); };
  if (iris.sure()) {
    return iris.blades == 0 ? "round" : fmt::format("{} blades", iris.blades);
  }
  std::string text = "cannot tell: ";
  for (std::size_t i = 0; i < iris.could_be.size(); ++i) {
    text += (i == 0 ? "" : " or ") + said(iris.could_be[i]);
  }
  return text + " blades";
}

std::string bend_words(const PlateIris& iris) {
  const double c = iris.curvature.value;
  if (std::abs(c) <= iris.curvature.margin) return "straight edges";
  return fmt::format("blade radius {:.2f} x the opening's ({:.3f} ± {:.3f} of it as curvature)",
                     1.0 / c, c, iris.curvature.margin);
}

std::string barrel_text(const PlateBarrel& barrel, const BarrelRim& rim) {
  if (!barrel.known) return "";
  const double share = barrel.shift.margin / std::abs(barrel.shift.value);
  return fmt::format(
      "  barrel         cuts {} discs: a rim of {:.1f} ± {:.1f} mm radius, {:.0f} ± {:.0f} mm "
      "{} the pupil\n",
      barrel.discs, rim.radius.mm(), rim.radius.mm() * barrel.radius.margin / barrel.radius.value,
      std::abs(rim.ahead.mm()), std::abs(rim.ahead.mm()) * share,
      rim.ahead.mm() > 0.0 ? "ahead of" : "behind");
}

std::string text_of(const FoundDiscs& found, const BarrelRim& rim, const LoadedShot& loaded) {
  const PlateIris& iris = found.iris;
  std::string text =
      fmt::format("{} disc{} in {}\n", found.discs.size(), found.discs.size() == 1 ? "" : "s",
                  std::filesystem::path(loaded.now.plate->file).filename().string());
  text += fmt::format("  iris           {}\n", blades_words(iris));
  if (iris.known && iris.blades > 0) {
    text += fmt::format("  edges          {}\n", bend_words(iris));
    text += fmt::format("  rotation       {:+.1f} ± {:.1f} deg\n", iris.rotation_deg.value,
                        iris.rotation_deg.margin);
  }
  text += fmt::format("  height/width   {:.3f} ± {:.3f}\n", iris.high_over_wide.value,
                      iris.high_over_wide.margin);
  if (iris.rim_stops.margin > 0.0) {
    text += fmt::format("  rim            {:+.2f} ± {:.2f} stops\n", iris.rim_stops.value,
                        iris.rim_stops.margin);
  }
  text += barrel_text(found.barrel, rim);
  if (found.clipped_at) text += fmt::format("  clipped at     {:.3g}\n", *found.clipped_at);
  text += "\n   no       place px        high px        wide px  soft px       light\n";
  for (std::size_t i = 0; i < std::min(found.discs.size(), most_rows); ++i) {
    const PlateDisc& d = found.discs[i];
    std::string words;
    if (d.facing == Facing::turned) words += "  turned: in front of the focus";
    if (d.clipped) words += "  clipped";
    if (d.cut > 0.1) words += fmt::format("  {:.0f} % hidden", 100.0 * d.cut);
    if (d.outlier) words += "  " + d.why;
    if (!d.name.empty()) words = "  " + d.name + words;
    text += fmt::format(
        "  {:>3}{:>8.1f},{:>7.1f}{:>8.2f} ±{:>5.2f}{:>8.2f} ±{:>5.2f}{:>9.2f}{:>9.3g}{:>3}{}\n",
        i + 1, d.at[0], d.at[1], d.high_px.value, d.high_px.margin, d.wide_px.value,
        d.wide_px.margin, d.soft_px, (d.light[0] + d.light[1] + d.light[2]) / 3.0,
        d.clipped ? "+" : "", words);
  }
  if (found.discs.size() > most_rows) {
    text +=
        fmt::format("  and {} smaller ones (all are in --json)\n", found.discs.size() - most_rows);
  }
  return text;
}

// What a shot file takes over.
std::string toml_of(const FoundDiscs& found, const BarrelRim& rim) {
  std::string text;
  if (found.barrel.known) {
    text = fmt::format("[[lens.barrel]]\nradius = \"{:.4g} mm\"\nahead  = \"{:.4g} mm\"\n\n",
                       rim.radius.mm(), rim.ahead.mm());
  }
  const PlateIris& iris = found.iris;
  if (!iris.known) return text;
  text += "[lens.iris]\n";
  if (iris.blades == 0) return text + "blades = 0                 # round, as the plate shows it\n";
  text += fmt::format("blades       = {}{}\n", iris.blades,
                      iris.sure() ? "" : "          # " + blades_words(iris));
  const double c = iris.curvature.value;
  text += std::abs(c) <= iris.curvature.margin
              ? "blade_radius = \"straight\"\n"
              : fmt::format("blade_radius = \"{:.3g} x\"\n", 1.0 / c);
  text += fmt::format("rotation     = \"{:.2f} deg\"\n", iris.rotation_deg.value);
  return text;
}

MarkedPicture overlay_of(const FoundDiscs& found, const Frame& plate, const LoadedShot& loaded) {
  MarkedPicture out;
  out.picture = plate.colour;
  out.title = fmt::format("{}: {} discs, iris: {}",
                          std::filesystem::path(loaded.now.plate->file).filename().string(),
                          found.discs.size(), blades_words(found.iris));
  out.subtitle =
      fmt::format("{} x {} px; numbers are those of the table, diameters in px of height",
                  plate.colour.width(), plate.colour.height());
  out.foot =
      "drawn through: found;  dashed: does not go with the others;  dotted: looked like a disc, "
      "refused";
  for (std::size_t i = 0; i < found.discs.size(); ++i) {
    const PlateDisc& d = found.discs[i];
    out.marks.push_back({outline_of(d, found.iris),
                         i < most_rows ? fmt::format("{}: {:.1f}", i + 1, d.high_px.value) : "",
                         d.outlier ? PictureMark::Kind::doubted : PictureMark::Kind::found});
  }
  for (const RefusedDisc& r : found.refused) {
    PlateDisc d;
    d.at = r.at;
    d.high_px.value = d.wide_px.value = r.diameter_px;
    out.marks.push_back({outline_of(d, {}), "", PictureMark::Kind::refused});
  }
  return out;
}

}  // namespace

void measure_discs(const MeasureOptions& options, const LoadedShot& loaded, const Streams& io,
                   std::vector<std::string>& files) {
  const PlateEntry& plate = *loaded.now.plate;
  if (!options.overlay.empty()) is_svg(options.overlay);
  files.push_back(plate.file);
  const Frame frame = read_plate(plate);
  DiscHints hints;
  hints.lamps = plate.marks.lamps;
  hints.boxes = boxes_in_plate(options.boxes, loaded, frame.colour.size());
  const FoundDiscs found = discs_in_plate(frame.colour, hints, {options.least_px, 0.0, {}, 0});
  Json json{{"plate", plate.file}, {"discs", Json::array()}, {"refused", Json::array()}};
  for (const PlateDisc& d : found.discs) json["discs"].push_back(json_of(d));
  for (const RefusedDisc& r : found.refused) {
    json["refused"].push_back({{"at_px", r.at}, {"diameter_px", r.diameter_px}, {"why", r.why}});
  }
  const PlateIris& iris = found.iris;
  json["iris"] = {{"known", iris.known},
                  {"blades", iris.blades},
                  {"could_be", iris.could_be},
                  {"sure", iris.sure()},
                  {"rotation_deg", json_of(iris.rotation_deg)},
                  {"curvature", json_of(iris.curvature)},
                  {"rim_stops", json_of(iris.rim_stops)},
                  {"high_over_wide", json_of(iris.high_over_wide)}};
  const BarrelRim rim = rim_of(found.barrel, loaded.answer.camera, frame.colour.height());
  if (found.barrel.known) {
    json["barrel"] = {{"radius_mm", rim.radius.mm()},
                      {"ahead_mm", rim.ahead.mm()},
                      {"radius", json_of(found.barrel.radius)},
                      {"shift", json_of(found.barrel.shift)},
                      {"discs", found.barrel.discs}};
  }
  json["noise"] = found.noise;
  if (found.clipped_at) json["clipped_at"] = *found.clipped_at;
  std::string text = tried_line(loaded.shot);
  const std::string paste = found.discs.empty() ? "" : toml_of(found, rim);
  json["toml"] = paste;
  if (found.discs.empty()) {
    text += wrapped(
        fmt::format(
            "No discs in {}: nothing in it is an even patch of light of {:.0f} px or more with "
            "one edge all around. If there is one, draw it on the shot's page "
            "([[plate.lamp]] at = [x, y], diameter = px), or ask for smaller ones "
            "with --least.",
            std::filesystem::path(plate.file).filename().string(), options.least_px),
        "", "  ");
  } else {
    text += text_of(found, rim, loaded);
  }
  if (!paste.empty()) text += "\nTo paste into the shot or lens file:\n\n" + paste;
  if (!options.overlay.empty()) {
    const MarkedPicture marked = overlay_of(found, frame, loaded);
    write_whole_file(options.overlay,
                     is_svg(options.overlay) ? marked_svg(marked) : marked_png(marked));
    text += fmt::format("\n{:<28} 1280 x 800, the plate with what was found\n", options.overlay);
    json["written"] = {options.overlay};
  }
  say(options.shot.form, io, json.dump(2) + "\n", text);
}

}  // namespace jolly_iris::cli
