#include "report/discs_report.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "report/measured.hpp"
#include "report/text.hpp"

namespace jolly_iris::report {

std::string blades_words(const PlateIris& iris) {
  if (!iris.known) return "cannot tell: " + iris.why;
  if (iris.sure()) return blades_text(iris.blades);
  std::string numbers;
  bool round = false;
  for (const int n : iris.could_be) {
    round = round || n == 0;
    if (n != 0) numbers += fmt::format("{}{}", numbers.empty() ? "" : " or ", n);
  }
  return fmt::format("cannot tell: {}{} blades", round ? "round, or of " : "", numbers);
}

namespace {

Json disc_json(const PlateDisc& d) {
  Json j{{"at_px", d.at},
         {"high_px", json_of(d.height_px)},
         {"wide_px", json_of(d.width_px)},
         {"light", d.light},
         {"contrast", d.contrast},
         {"clipped", d.clipped},
         {"soft_px", d.edge_sigma_px},
         {"rim_stops", d.edge_falloff_stops},
         {"facing", to_string(d.facing)},
         {"fringe_px", d.fringe_px},
         {"cut", d.cut},
         {"off", d.residual},
         {"outlier", d.outlier}};
  if (!d.name.empty()) j["name"] = d.name;
  if (d.outlier) j["why"] = d.why;
  return j;
}

// What is told of nothing is not there.
Json iris_json(const PlateIris& iris) {
  Json json{{"known", iris.known}, {"sure", iris.sure()}};
  if (iris.known) {
    json["blades"] = iris.blades;
    json["could_be"] = iris.could_be;
    json["rotation_deg"] = json_of(iris.rotation_deg);
    json["curvature"] = json_of(iris.curvature);
  } else {
    json["why"] = iris.why;
  }
  if (iris.edge_falloff_stops.margin > 0.0) json["rim_stops"] = json_of(iris.edge_falloff_stops);
  if (iris.height_over_width.value > 0.0) {
    json["high_over_wide"] = json_of(iris.height_over_width);
  }
  return json;
}

std::string bend_words(const PlateIris& iris) {
  const double c = iris.curvature.value;
  if (std::abs(c) <= iris.curvature.margin) return "straight edges";
  return fmt::format("blade radius {:.2f} x the opening's ({:.3f} ± {:.3f} of it as curvature)",
                     1.0 / c, c, iris.curvature.margin);
}

std::string vignetting_text(const PlateVignetting& vignetting, const VignettingRim& rim) {
  if (vignetting.unexplained) {
    return fmt::format("  barrel         cuts {} as no single rim does: cannot tell\n",
                       counted(static_cast<std::size_t>(vignetting.discs), "disc"));
  }
  if (!vignetting.known) return "";
  const double fraction = vignetting.shift.margin / std::abs(vignetting.shift.value);
  return fmt::format(
      "  barrel         cuts {} discs: a rim of {:.1f} ± {:.1f} mm radius, {:.0f} ± {:.0f} mm "
      "{} the pupil\n",
      vignetting.discs, rim.radius.mm(),
      rim.radius.mm() * vignetting.radius.margin / vignetting.radius.value,
      std::abs(rim.ahead.mm()), std::abs(rim.ahead.mm()) * fraction,
      rim.ahead.mm() > 0.0 ? "ahead of" : "behind");
}

std::string text_of(const FoundDiscs& found, const VignettingRim& rim, const LoadedShot& loaded) {
  const PlateIris& iris = found.iris;
  std::string text =
      fmt::format("{} disc{} in {} (± are 95 % margins)\n", found.discs.size(),
                  found.discs.size() == 1 ? "" : "s", file_name(loaded.now.plate->file));
  const std::string by =
      iris.sure() ? fmt::format(", by {}", counted(static_cast<std::size_t>(iris.discs), "disc"))
                  : "";
  text += wrapped(blades_words(iris) + by, "  iris           ", "                 ");
  if (iris.known && iris.blades > 0) {
    const std::string only = iris.sure() ? "" : fmt::format(", if it has {}", iris.blades);
    text += fmt::format("  edges          {}{}\n", bend_words(iris), only);
    text += fmt::format("  rotation       {:+.1f} ± {:.1f} deg{}\n", iris.rotation_deg.value,
                        iris.rotation_deg.margin, only);
  }
  if (iris.height_over_width.value > 0.0) {
    text += fmt::format("  height/width   {:.3f} ± {:.3f}\n", iris.height_over_width.value,
                        iris.height_over_width.margin);
  }
  if (iris.edge_falloff_stops.margin > 0.0) {
    text += fmt::format("  rim            {:+.2f} ± {:.2f} stops\n", iris.edge_falloff_stops.value,
                        iris.edge_falloff_stops.margin);
  }
  text += vignetting_text(found.vignetting, rim);
  if (found.clipped_at) text += fmt::format("  clipped at     {:.3g}\n", *found.clipped_at);
  text += "\n   no       place px        high px        wide px  soft px       light\n";
  for (std::size_t i = 0; i < std::min(found.discs.size(), max_rows); ++i) {
    const PlateDisc& d = found.discs[i];
    std::string words;
    if (d.facing == Facing::turned) {
      words += d.side_known ? "  turned: in front of the focus"
                            : "  turned: on the other side of the focus than most";
    }
    if (d.clipped) words += "  clipped";
    // A corner that a small disc rounds off is not hidden; the barrel's cut is, where it is known.
    if (d.cut > (found.vignetting.known || found.vignetting.unexplained ? 0.1 : 0.2))
      words += fmt::format("  {:.0f} % hidden", 100.0 * d.cut);
    if (d.outlier) words += "  " + d.why;
    if (!d.name.empty()) words = fmt::format("  {}{}", d.name, words);
    text += fmt::format(
        "  {:>3}{:>8.1f},{:>7.1f}{:>8.2f} ±{:>5.2f}{:>8.2f} ±{:>5.2f}{:>9.2f}{:>9.3g}{:>3}{}\n",
        i + 1, d.at[0], d.at[1], d.height_px.value, d.height_px.margin, d.width_px.value,
        d.width_px.margin, d.edge_sigma_px, (d.light[0] + d.light[1] + d.light[2]) / 3.0,
        d.clipped ? "+" : "", words);
  }
  if (found.discs.size() > max_rows) {
    text +=
        fmt::format("  and {} smaller ones (all are in --json)\n", found.discs.size() - max_rows);
  }
  return text;
}

// What a shot file takes over.
std::string toml_of(const FoundDiscs& found, const VignettingRim& rim) {
  std::string text;
  if (found.vignetting.known) {
    text = fmt::format("[[lens.barrel]]\nradius = \"{:.4g} mm\"\nahead  = \"{:.4g} mm\"\n\n",
                       rim.radius.mm(), rim.ahead.mm());
  }
  const PlateIris& iris = found.iris;
  if (!iris.sure()) return text;
  text += "[lens.iris]\n";
  if (iris.blades == 0) return text + "blades = 0                 # round, as the plate shows it\n";
  text += fmt::format("blades       = {}\n", iris.blades);
  const double c = iris.curvature.value;
  text += std::abs(c) <= iris.curvature.margin
              ? "blade_radius = \"straight\"\n"
              : fmt::format("blade_radius = \"{:.3g} x\"\n", 1.0 / c);
  text += fmt::format("rotation     = \"{:.2f} deg\"\n", iris.rotation_deg.value);
  return text;
}

std::string paste_of(const DiscMeasurement& discs) {
  return discs.found.discs.empty() ? std::string() : toml_of(discs.found, discs.rim);
}

}  // namespace

std::string discs_text(const DiscMeasurement& discs, const LoadedShot& loaded) {
  std::string text = text_of(discs.found, discs.rim, loaded);
  const std::string paste = paste_of(discs);
  if (!paste.empty()) text += "\nTo paste into the shot or lens file:\n\n" + paste;
  return text;
}

Json discs_json(const DiscMeasurement& discs, const LoadedShot& loaded) {
  const FoundDiscs& found = discs.found;
  Json json{
      {"plate", loaded.now.plate->file}, {"discs", Json::array()}, {"refused", Json::array()}};
  for (const PlateDisc& d : found.discs) json["discs"].push_back(disc_json(d));
  for (const RejectedDisc& r : found.rejected) {
    json["refused"].push_back({{"at_px", r.at}, {"diameter_px", r.diameter_px}, {"why", r.why}});
  }
  const PlateIris& iris = found.iris;
  json["iris"] = iris_json(iris);
  if (found.vignetting.known) {
    json["barrel"] = {{"known", true},
                      {"radius_mm", discs.rim.radius.mm()},
                      {"ahead_mm", discs.rim.ahead.mm()},
                      {"radius", json_of(found.vignetting.radius)},
                      {"shift", json_of(found.vignetting.shift)},
                      {"discs", found.vignetting.discs}};
  }
  if (found.vignetting.unexplained) {
    json["barrel"] = {{"known", false}, {"discs", found.vignetting.discs}};
  }
  json["noise"] = found.noise;
  if (found.clipped_at) json["clipped_at"] = *found.clipped_at;
  json["toml"] = paste_of(discs);
  return json;
}

}  // namespace jolly_iris::report
