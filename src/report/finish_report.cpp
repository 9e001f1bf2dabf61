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

std::string direction_text(const Measured& m) {
  return fmt::format("{:.1f} ± {:.1f} deg", m.value, m.margin);
}

std::string spikes_text(const FinishMeasurement& measured) {
  const RaysFinding& finding = measured.found.rays;
  if (!finding.spikes) {
    std::string text = wrapped("SPIKES: not seen; " + finding.no_spikes + ".", "", "  ");
    if (finding.times_at_most) {
      text += fmt::format("  at most {:.2g} times what diffraction at this iris gives\n",
                          *finding.times_at_most);
    }
    return text;
  }
  const PlateSpikes& s = *finding.spikes;
  std::string blades;
  for (const int n : s.blades) blades += fmt::format("{}{}", blades.empty() ? "" : " or ", n);
  std::string text =
      fmt::format("SPIKES: {} rays, spread evenly, as {} blades make them\n", s.rays, blades);
  text += fmt::format("  the first at            {}, counter-clockwise from the right\n",
                      direction_text(s.first_deg));
  if (measured.spikes_turned_deg) {
    text += fmt::format("  against the shot's iris  {:+.1f} deg\n", *measured.spikes_turned_deg);
  }
  text += fmt::format("  seen as far as          {:.0f} px from a lamp\n", s.seen_to_px);
  if (s.times.margin > 0.0) {
    text += fmt::format(
        "  light                   {:.2g} ± {:.2g} times what diffraction at this iris gives\n",
        s.times.value, s.times.margin);
  } else {
    text += "  how much light they have is not known: every such lamp is clipped\n";
  }
  return text;
}

std::string streak_text(const RaysFinding& finding) {
  if (!finding.streak) {
    std::string text = wrapped("STREAK: not seen; " + finding.no_streak + ".", "", "  ");
    if (finding.streak_at_most) {
      text += fmt::format("  at most {:.2g} % of the light, if it reaches {:.2g} px\n",
                          100.0 * *finding.streak_at_most, finding.usual_reach_px);
    }
    return text;
  }
  const PlateStreak& s = *finding.streak;
  std::string text = fmt::format("STREAK: a line at {}, seen as far as {:.0f} px\n",
                                 direction_text(s.direction_deg), s.seen_to_px);
  if (s.reach_px.margin > 0.0) {
    text += "                           red               green             blue\n";
    text += row("share, % of the light", s.fraction);
    text += fmt::format("  reach                  {:.2f} ± {:.2f} px of the plate\n",
                        s.reach_px.value, s.reach_px.margin);
    text +=
        fmt::format("  falling power          {:.2f} ± {:.2f}\n", s.power.value, s.power.margin);
  } else {
    text += "  its share of the light is not known: it takes two lamps that are not clipped\n";
  }
  return text;
}

std::string smear_text(const FinishMeasurement& measured) {
  const SmearFinding& finding = measured.found.smear;
  const auto used = std::count_if(finding.lamps.begin(), finding.lamps.end(),
                                  [](const SmearedLamp& l) { return l.used; });
  if (!finding.smear) {
    std::string text = wrapped("SMEAR: not seen; " + finding.no_smear + ".", "", "  ");
    if (finding.at_most_px) text += fmt::format("  at most {:.2f} px\n", *finding.at_most_px);
    constexpr int most_rows = 8;
    int rows = 0;
    for (const SmearedLamp& l : finding.lamps) {
      if (!l.drawn) continue;
      if (++rows > most_rows) break;
      text += fmt::format("  at {:.0f}, {:.0f}: {:.1f} ± {:.1f} px, {}\n", l.at[0], l.at[1],
                          l.way.length_px.value, l.way.length_px.margin,
                          direction_text(l.way.direction_deg));
    }
    return text;
  }
  const SmearWay& w = *finding.smear;
  std::string text = fmt::format("SMEAR: {:.2f} ± {:.2f} px at {}\n", w.length_px.value,
                                 w.length_px.margin, direction_text(w.direction_deg));
  const auto same = std::count_if(finding.lamps.begin(), finding.lamps.end(),
                                  [](const SmearedLamp& l) { return l.of_all; });
  text += fmt::format(
      "  by {} of {} lamps that tell, which say the same; lamps that are so long by\n"
      "  themselves would look so too\n",
      same, used);
  if (measured.shutter) {
    const ShutterByPlate& s = *measured.shutter;
    text += fmt::format(
        "  the shot's camera and shutter make {:.2f} px: the plate's was open for {:.4g} ± "
        "{:.2g} s, noted are {:.4g} s\n",
        s.expected_px, s.s.value, s.s.margin, s.noted_s);
  }
  return text;
}

std::string corners_text(const FinishMeasurement& measured) {
  const CornersFinding& finding = measured.found.corners;
  if (!finding.stops)
    return wrapped("CORNERS: cannot be told; " + finding.no_corners + ".", "", "  ");
  const auto used = std::count_if(finding.surfaces.begin(), finding.surfaces.end(),
                                  [](const EvenSurface& s) { return s.used; });
  std::string text =
      fmt::format("CORNERS: {:.2f} ± {:.2f} stops darker, by {} even surface{}\n",
                  finding.stops->value, finding.stops->margin, used, used == 1 ? "" : "s");
  if (finding.power) {
    text += fmt::format("  falling by a power of {:.1f} ± {:.1f} of the distance from the middle\n",
                        finding.power->value, finding.power->margin);
  }
  return text + fmt::format("  the shot's lens takes {:.2f} of it\n", measured.lens_corner_stops);
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

Json rays_json(const FinishMeasurement& measured) {
  const RaysFinding& f = measured.found.rays;
  Json j{{"rays", Json::array()}};
  for (const PlateRay& r : f.rays) {
    j["rays"].push_back({{"direction_deg", json_of(r.direction_deg)},
                         {"sureness", r.sureness},
                         {"seen_to_px", r.seen_to_px}});
  }
  if (f.spikes) {
    Json& s = j["spikes"];
    s = {{"rays", f.spikes->rays},
         {"first_deg", json_of(f.spikes->first_deg)},
         {"blades", f.spikes->blades},
         {"seen_to_px", f.spikes->seen_to_px}};
    if (f.spikes->times.margin > 0.0) s["times"] = json_of(f.spikes->times);
    if (measured.spikes_turned_deg) s["against_iris_deg"] = *measured.spikes_turned_deg;
  } else {
    j["spikes"] = {{"not_seen", f.no_spikes}};
    if (f.times_at_most) j["spikes"]["times_at_most"] = *f.times_at_most;
  }
  if (f.streak) {
    Json& s = j["streak"];
    s = {{"direction_deg", json_of(f.streak->direction_deg)}, {"seen_to_px", f.streak->seen_to_px}};
    if (f.streak->reach_px.margin > 0.0) {
      s["share"] = Json::array({json_of(f.streak->fraction[0]), json_of(f.streak->fraction[1]),
                                json_of(f.streak->fraction[2])});
      s["reach_px"] = json_of(f.streak->reach_px);
      s["power"] = json_of(f.streak->power);
    }
  } else {
    j["streak"] = {{"not_seen", f.no_streak}};
    if (f.streak_at_most) {
      j["streak"]["at_most"] = *f.streak_at_most;
      j["streak"]["at_most_reach_px"] = f.usual_reach_px;
    }
  }
  return j;
}

Json smear_json(const FinishMeasurement& measured) {
  const SmearFinding& f = measured.found.smear;
  Json j;
  if (f.smear) {
    j = {{"length_px", json_of(f.smear->length_px)},
         {"direction_deg", json_of(f.smear->direction_deg)}};
  } else {
    j["not_seen"] = f.no_smear;
    if (f.at_most_px) j["at_most_px"] = *f.at_most_px;
  }
  if (measured.shutter) {
    j["expected_px"] = measured.shutter->expected_px;
    j["shutter_s"] = json_of(measured.shutter->s);
    j["noted_shutter_s"] = measured.shutter->noted_s;
  }
  j["lamps"] = Json::array();
  for (const SmearedLamp& l : f.lamps) {
    Json lamp{{"at_px", l.at},
              {"clipped", l.clipped},
              {"used", l.used},
              {"drawn", l.drawn},
              {"of_all", l.of_all}};
    if (l.used) {
      lamp["length_px"] = json_of(l.way.length_px);
      lamp["direction_deg"] = json_of(l.way.direction_deg);
    } else {
      lamp["why"] = l.why;
    }
    j["lamps"].push_back(std::move(lamp));
  }
  return j;
}

Json corners_json(const FinishMeasurement& measured) {
  const CornersFinding& f = measured.found.corners;
  Json j;
  if (f.stops) {
    j = {{"stops", json_of(*f.stops)}, {"lens_stops", measured.lens_corner_stops}};
    if (f.power) j["power"] = json_of(*f.power);
  } else {
    j["not_seen"] = f.no_corners;
  }
  j["surfaces"] = Json::array();
  for (const EvenSurface& s : f.surfaces) {
    j["surfaces"].push_back({{"box_px", {s.box.x, s.box.y, s.box.width, s.box.height}},
                             {"stops", json_of(s.stops)},
                             {"used", s.used}});
  }
  return j;
}

}  // namespace

Solved say(const FinishMeasurement& measured) {
  const FinishInPlate& found = measured.found;
  Solved out;
  out.notes = measured.notes;
  out.text = halo_text(found.halo) + "\n" + spikes_text(measured) + "\n" + streak_text(found.rays) +
             "\n" + smear_text(measured) + "\n" + corners_text(measured) + "\n" +
             grain_text(found.grain);
  out.json = rays_json(measured);
  out.json["halo"] = halo_json(found.halo);
  out.json["smear"] = smear_json(measured);
  out.json["corners"] = corners_json(measured);
  out.json["grain"] = grain_json(found.grain);
  const std::string toml = finish_toml(measured);
  if (!toml.empty()) out.text += "\nfor the shot file:\n\n" + toml;
  out.json["toml"] = toml;
  return out;
}

}  // namespace jolly_iris::report
