#include "report/finish_report.hpp"

#include <fmt/format.h>

#include "jolly_iris/optics/exposure.hpp"
#include "report/measured.hpp"
#include "report/text.hpp"

namespace jolly_iris::report {

namespace {

std::string sigma_text(const Measured& m) {
  return fmt::format("{:>7.3g} ±{:<7.2g}", 100.0 * m.value, 100.0 * m.margin);
}

std::string row(const std::string& name, const std::array<Measured, 3>& of) {
  return fmt::format("  {:<22}{:<18}{:<18}{}\n", name, sigma_text(of[0]), sigma_text(of[1]),
                     sigma_text(of[2]));
}

std::string grain_text(const GrainFinding& finding) {
  if (!finding.grain) {
    std::string text = wrapped("GRAIN: cannot be told; " + finding.no_grain + ".", "", "  ");
    if (finding.at_most) {
      text +=
          fmt::format("  at most {:.2g} % of white in red, {:.2g} % in green, {:.2g} % in blue\n",
                      100.0 * (*finding.at_most)[0], 100.0 * (*finding.at_most)[1],
                      100.0 * (*finding.at_most)[2]);
    }
    return text;
  }
  const GrainInPlate& g = *finding.grain;
  std::string text =
      fmt::format("GRAIN, % of white         red               green             blue\n");
  text += row("where there is no light", g.black);
  text += row("at mid-grey, 0.18", g.grey);
  text +=
      row(fmt::format("at {:.2g}, {:.2g}, {:.2g}", g.level[0], g.level[1], g.level[2]), g.at_level);
  text += g.size_px.value > 0.0
              ? fmt::format("  softened over          {:.2f} ± {:.2f} px\n", g.size_px.value,
                            g.size_px.margin)
              : fmt::format("  softened over          nothing: less than {:.2f} px\n",
                            g.size_px.margin);
  text += fmt::format("  channels alike         {:.2f} ± {:.2f}\n", g.alike.value, g.alike.margin);
  text += fmt::format("  by {} of {} squares, the flat ones, lit {:.2g} to {:.2g} (green)\n",
                      g.places.size(), g.squares, g.darkest[1], g.brightest[1]);
  if (g.darkest[1] > 0.5 * grey_value || g.brightest[1] < grey_value) {
    text += "  beyond that light it is taken to go on straight\n";
  }
  return text;
}

Json grain_json(const GrainFinding& finding) {
  Json j;
  if (!finding.grain) {
    j["not_seen"] = finding.no_grain;
    if (finding.at_most) j["at_most"] = *finding.at_most;
    return j;
  }
  const GrainInPlate& g = *finding.grain;
  const auto three = [](const std::array<Measured, 3>& v) {
    return Json::array({json_of(v[0]), json_of(v[1]), json_of(v[2])});
  };
  j = {{"black", three(g.black)}, {"grey", three(g.grey)},         {"at_level", three(g.at_level)},
       {"level", g.level},        {"size_px", json_of(g.size_px)}, {"alike", json_of(g.alike)},
       {"darkest", g.darkest},    {"brightest", g.brightest},      {"squares", g.places.size()},
       {"squares_of", g.squares}};
  return j;
}

}  // namespace

Solved say(const FinishMeasurement& found) {
  Solved out;
  out.notes = found.notes;
  out.text = grain_text(found.grain);
  out.json["grain"] = grain_json(found.grain);
  const std::string toml = finish_toml(found);
  if (!toml.empty()) out.text += "\nfor the shot file:\n\n" + toml;
  out.json["toml"] = toml;
  return out;
}

}  // namespace jolly_iris::report
