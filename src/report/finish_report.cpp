#include "report/finish_report.hpp"

#include <fmt/format.h>

#include <algorithm>

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

std::string halo_text(const HaloFinding& finding) {
  const auto used = std::count_if(finding.lamps.begin(), finding.lamps.end(),
                                  [](const HaloLamp& l) { return l.used; });
  if (!finding.halo) {
    std::string text = wrapped("HALO: not seen; " + finding.no_halo + ".", "", "  ");
    if (finding.at_most) {
      text += fmt::format(
          "  at most {:.2g} % of the light in red, {:.2g} % in green, {:.2g} % in blue, if it "
          "reaches "
          "{:.2g} to {:.2g} px\n",
          100.0 * (*finding.at_most)[0], 100.0 * (*finding.at_most)[1],
          100.0 * (*finding.at_most)[2], finding.usual_reach_px, 4.0 * finding.usual_reach_px);
    }
    return text;
  }
  const HaloInPlate& h = *finding.halo;
  std::string text =
      fmt::format("HALO, % of the light      red               green             blue\n");
  text += row("share", h.fraction);
  text += fmt::format("  reach                  {:.2f} ± {:.2f} px of the plate\n",
                      h.reach_px.value, h.reach_px.margin);
  text += fmt::format("  falling power          {:.2f} ± {:.2f}\n", h.power.value, h.power.margin);
  text += fmt::format("  by {} of {} bright things, those that stand by themselves\n", used,
                      finding.lamps.size());
  return text;
}

Json halo_json(const HaloFinding& finding) {
  Json j;
  Json lamps = Json::array();
  for (const HaloLamp& l : finding.lamps) {
    Json lamp{
        {"at_px", l.at}, {"radius_px", l.radius_px}, {"clipped", l.clipped}, {"used", l.used}};
    if (!l.why.empty()) lamp["why"] = l.why;
    lamps.push_back(lamp);
  }
  if (!finding.halo) {
    j["not_seen"] = finding.no_halo;
    if (finding.at_most) {
      j["at_most"] = *finding.at_most;
      j["at_most_from_reach_px"] = finding.usual_reach_px;
      j["at_most_to_reach_px"] = 4.0 * finding.usual_reach_px;
    }
    j["lamps"] = lamps;
    return j;
  }
  const HaloInPlate& h = *finding.halo;
  j["share"] =
      Json::array({json_of(h.fraction[0]), json_of(h.fraction[1]), json_of(h.fraction[2])});
  j["reach_px"] = json_of(h.reach_px);
  j["power"] = json_of(h.power);
  j["lamps"] = lamps;
  return j;
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
  out.text = halo_text(found.halo) + "\n" + grain_text(found.grain);
  out.json["halo"] = halo_json(found.halo);
  out.json["grain"] = grain_json(found.grain);
  const std::string toml = finish_toml(found);
  if (!toml.empty()) out.text += "\nfor the shot file:\n\n" + toml;
  out.json["toml"] = toml;
  return out;
}

}  // namespace jolly_iris::report
