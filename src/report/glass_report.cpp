#include "report/glass_report.hpp"

#include <fmt/format.h>

#include <cmath>

#include "optics/value_text.hpp"
#include "report/text.hpp"

namespace jolly_iris::report {

namespace {

std::string distance_text(Length l) {
  if (!l.is_finite()) return "infinity";
  return l.m() < 1.0 ? fmt::format("{:.3f} m", l.m()) : fmt::format("{:.2f} m", l.m());
}

std::string place_text(Length z) {
  if (!z.is_finite()) return "infinitely far";
  return fmt::format("{:.2f} mm {} the film", std::abs(z.mm()), z.mm() > 0.0 ? "behind" : "before");
}

std::string light_stops(double light) {
  return light > 0.0 ? fmt::format("{:.2f}", std::log2(light)) : std::string("black");
}

std::string micrometres(Length l) {
  return l.is_finite() ? fmt::format("{:.1f}", 1000.0 * l.mm()) : std::string("-");
}

std::string millimetres(Length l) {
  return l.is_finite() ? fmt::format("{:+.3f}", l.mm()) : std::string("-");
}

std::string with_unit(const std::string& number, const char* unit) {
  return number == "-" ? number : fmt::format("{} {}", number, unit);
}

Json number_or_null(double v) { return std::isfinite(v) ? Json(v) : Json(nullptr); }

Json facts_json(const ParaxialFacts& f) {
  return {{"focal_mm", f.focal.mm()},
          {"back_focus_mm", f.back_focus.mm()},
          {"f_number", f.f_number},
          {"front_principal_mm", f.front_principal.mm()},
          {"back_principal_mm", f.back_principal.mm()},
          {"entrance_pupil_mm", number_or_null(f.entrance_pupil.mm())},
          {"entrance_diameter_mm", number_or_null(f.entrance_diameter.mm())},
          {"exit_pupil_mm", number_or_null(f.exit_pupil.mm())},
          {"exit_diameter_mm", number_or_null(f.exit_diameter.mm())}};
}

}  // namespace

std::string glass_text(const GlassLook& look) {
  const Prescription& p = look.prescription;
  const auto row = [](const std::string& name, const std::string& value) {
    return fmt::format("  {:<22}{}\n", name, value);
  };
  std::string out = fmt::format("{}: {} surfaces, {:.1f} mm from the first to the film\n", p.name,
                                p.surfaces.size(), look.length.mm());
  out += row("focal length",
             look.across ? fmt::format("{:.2f} mm up and down, {:.2f} mm across: {:.3f} x",
                                       look.up.focal.mm(), look.across->focal.mm(), look.squeeze)
                         : fmt::format("{:.2f} mm", look.up.focal.mm()));
  out += row("opens to", fmt::format("f/{:.2f}, an entrance pupil of {:.2f} mm", look.widest,
                                     look.up.entrance_diameter.mm()));
  out +=
      row("passes", fmt::format("{:.1f} % of red, {:.1f} % of green, {:.1f} % of blue light: "
                                "T{:.2f} wide open",
                                100.0 * look.passes[0], 100.0 * look.passes[1],
                                100.0 * look.passes[2], look.widest / std::sqrt(look.passes[1])));
  out += row("entrance pupil",
             place_text(look.up.entrance_pupil) + ": where the CG camera's origin belongs");
  out += row("exit pupil", fmt::format("{}, {:.2f} mm wide", place_text(look.up.exit_pupil),
                                       look.up.exit_diameter.mm()));
  out += row("room behind it", fmt::format("{:.2f} mm from the last surface to the film",
                                           p.surfaces.back().gap.mm()));
  out += row("focuses to", fmt::format("{} from the film plane", distance_text(look.nearest)));
  out += row("lights", fmt::format("a circle of {:.1f} mm", 2.0 * look.circle.mm()));
  const bool squeezed = look.across.has_value();
  out += fmt::format("\n  {:>10}{:>12}{:>18}{:>16}{}\n", "focused at", "travel", "frames as",
                     "size", squeezed ? "     squeeze" : "");
  for (const GlassMark& f : look.focus) {
    out += fmt::format(
        "  {:>10}{:>12}{:>18}{:>16}{}\n", distance_text(f.distance),
        fmt::format("{:+.3f} mm", f.travel.mm()), fmt::format("{:.2f} mm", f.focal_scene.mm()),
        f.magnification > 0.0 ? fmt::format("1 : {:.1f}", 1.0 / f.magnification) : "-",
        squeezed ? fmt::format("{:>10.3f} x", f.squeeze) : "");
  }
  out += fmt::format("\n  Over the picture, focused at {}, f/{:.2f}\n",
                     distance_text(look.request.distance),
                     look.request.f_number.value_or(look.widest));
  out += fmt::format("  {:>10}{:>9}{:>13}{:>9}{:>11}{:>14}{:>14}\n", "height", "angle",
                     "distortion", "light", "spot", "sharp up", "sharp across");
  out += fmt::format("  {:>10}{:>9}{:>13}{:>9}{:>11}{:>14}{:>14}\n", "mm", "deg", "%", "stops",
                     "um rms", "mm behind", "mm behind");
  for (const FieldPoint& f : look.field) {
    out += fmt::format("  {:>10.2f}{:>9.2f}{:>13.2f}{:>9}{:>11}{:>14}{:>14}\n", f.height.mm(),
                       f.angle.degrees(), 100.0 * f.distortion, light_stops(f.light),
                       micrometres(f.spot), millimetres(f.tangential), millimetres(f.sagittal));
  }
  return out;
}

Json glass_json(const GlassLook& look) {
  Json out{{"name", look.prescription.name},
           {"file", look.file},
           {"surfaces", look.prescription.surfaces.size()},
           {"length_mm", look.length.mm()},
           {"up", facts_json(look.up)},
           {"squeeze", look.squeeze},
           {"widest", look.widest},
           {"passes", look.passes},
           {"nearest_m", number_or_null(look.nearest.m())},
           {"circle_mm", number_or_null(2.0 * look.circle.mm())},
           {"opening_mm", 2.0 * look.opening.mm()},
           {"travel_mm", look.travel.travel.mm()},
           {"evaluations", look.travel.evaluations}};
  if (look.across) out["across"] = facts_json(*look.across);
  out["focus"] = Json::array();
  for (const GlassMark& f : look.focus) {
    out["focus"].push_back({{"distance_m", number_or_null(f.distance.m())},
                            {"travel_mm", f.travel.mm()},
                            {"frames_as_mm", f.focal_scene.mm()},
                            {"magnification", f.magnification},
                            {"squeeze", f.squeeze}});
  }
  out["field"] = Json::array();
  for (const FieldPoint& f : look.field) {
    out["field"].push_back({{"height_mm", f.height.mm()},
                            {"angle_deg", f.angle.degrees()},
                            {"distortion", f.distortion},
                            {"light", f.light},
                            {"spot_um", number_or_null(1000.0 * f.spot.mm())},
                            {"tangential_mm", number_or_null(f.tangential.mm())},
                            {"sagittal_mm", number_or_null(f.sagittal.mm())}});
  }
  out["notes"] = look.notes;
  return out;
}

std::string glass_comparison_text(const std::vector<GlassLook>& looks) {
  std::string out;
  const auto row = [&](const std::string& name, const auto& value) {
    out += fmt::format("  {:<20}", name);
    for (const GlassLook& look : looks) out += fmt::format("{:>16}", value(look));
    out += '\n';
  };
  const auto at_share = [](const GlassLook& look, double share) {
    const auto last = static_cast<double>(look.field.size() - 1);
    return look.field[static_cast<std::size_t>(std::lround(share * last))];
  };
  row("", [](const GlassLook& l) { return l.prescription.name; });
  row("focal length", [](const GlassLook& l) { return fmt::format("{:.2f} mm", l.up.focal.mm()); });
  row("  across", [](const GlassLook& l) {
    return l.across ? fmt::format("{:.2f} mm", l.across->focal.mm()) : std::string("as well");
  });
  row("opens to", [](const GlassLook& l) { return fmt::format("f/{:.2f}", l.widest); });
  row("  as light",
      [](const GlassLook& l) { return fmt::format("T{:.2f}", l.widest / std::sqrt(l.passes[1])); });
  row("lights a circle",
      [](const GlassLook& l) { return fmt::format("{:.1f} mm", 2.0 * l.circle.mm()); });
  row("focuses to", [](const GlassLook& l) { return distance_text(l.nearest); });
  row("frames there as",
      [](const GlassLook& l) { return fmt::format("{:.2f} mm", l.focus.back().focal_scene.mm()); });
  row("  of infinity", [](const GlassLook& l) {
    return fmt::format("{:+.1f} %",
                       100.0 * (l.focus.back().focal_scene / l.focus.front().focal_scene - 1.0));
  });
  row("pupil before film",
      [](const GlassLook& l) { return fmt::format("{:.2f} mm", -l.up.entrance_pupil.mm()); });
  for (const double share : {0.5, 1.0}) {
    out +=
        share < 1.0 ? "\n  half-way to the corner, as focused and opened\n" : "\n  in the corner\n";
    row("  from the middle", [&](const GlassLook& l) {
      return fmt::format("{:.1f} mm", at_share(l, share).height.mm());
    });
    row("  light", [&](const GlassLook& l) {
      const std::string stops = light_stops(at_share(l, share).light);
      return stops == "black" ? stops : with_unit(stops, "stops");
    });
    row("  distortion", [&](const GlassLook& l) {
      return fmt::format("{:+.2f} %", 100.0 * at_share(l, share).distortion);
    });
    row("  spot",
        [&](const GlassLook& l) { return with_unit(micrometres(at_share(l, share).spot), "um"); });
  }
  return out;
}

std::string twin_text(const GlassLook& look, const GlassTwin& t) {
  const auto row = [](const std::string& name, const std::string& value) {
    return fmt::format("  {:<22}{}\n", name, value);
  };
  std::string out =
      fmt::format("A TWIN, focused at {}, f/{:.2f}\n", distance_text(look.request.distance),
                  look.request.f_number.value_or(look.widest));
  out += row(
      "plain camera",
      fmt::format("{:.3f} mm, f/{:.3f}, origin {:.2f} mm before the film{}", t.focal.mm(),
                  t.f_number, t.film_behind.mm(),
                  t.squeeze > 1.0 ? fmt::format(", squeezed {:.3f} x", t.squeeze) : std::string()));
  out += row("focused from there", t.focus.is_finite() ? fmt::format("at {:.4f} m", t.focus.m())
                                                       : std::string("at infinity"));
  out += row("traced as surfaces", fmt::format("{} refractions each way; the stop open {:.3f} mm",
                                               t.crossings, 2.0 * t.stop_radius.mm()));
  out += row("light", fmt::format("{:.1f} % of green passes; bare surfaces pass {:.1f} %: x {:.3f}",
                                  100.0 * t.passes[1], 100.0 * t.bare, t.passes[1] / t.bare));
  return out;
}

Json twin_json(const GlassLook& look, const GlassTwin& t) {
  const auto metres = [](Length l) { return l.is_finite() ? Json(l.m()) : Json(nullptr); };
  Json surfaces = Json::array();
  for (const TwinSurface& s : t.surfaces) {
    Json one{{"from_pupil_m", s.from_pupil.m()},
             {"radius_m", metres(s.radius)},
             {"clear_m", metres(s.clear)},
             {"index", s.index}};
    if (s.stop) one["stop"] = true;
    if (s.conic != 0.0) one["conic"] = s.conic;
    if (!s.terms.empty()) one["terms_mm"] = s.terms;
    if (s.curved != Curved::round) one["curved"] = to_string(s.curved);
    surfaces.push_back(std::move(one));
  }
  return {{"glass", look.prescription.name},
          {"focus_from_film_m", metres(look.request.distance)},
          {"f_number", look.request.f_number.value_or(look.widest)},
          {"plain_camera",
           {{"focal_mm", t.focal.mm()},
            {"f_number", t.f_number},
            {"pupil_mm", t.pupil.mm()},
            {"focus_m", metres(t.focus)},
            {"squeeze", t.squeeze}}},
          {"film_from_pupil_m", t.film_behind.m()},
          {"stop_radius_m", t.stop_radius.m()},
          {"refractions", t.crossings},
          {"passes", t.passes},
          {"passes_bare", t.bare},
          {"middle_solid_angle_sr", t.solid_angle},
          {"surfaces", surfaces}};
}

std::string nearest_text(const NearestLook& n) {
  const Lens& lens = n.lens;
  const Aberrations& a = lens.aberrations;
  std::string text = fmt::format(
      "NEAREST ORDINARY LENS, f/{:.2f}, focused at {} from the entrance pupil\n", n.f_number,
      n.focus.is_finite() ? fmt::format("{:.3f} m", n.focus.m()) : std::string("infinity"));
  for (const VignettingRim& rim : lens.vignetting) {
    text += fmt::format("  a rim of {:.2f} mm, {:.1f} mm {} the pupil\n", rim.radius.mm(),
                        std::abs(rim.ahead.mm()), rim.ahead.mm() > 0.0 ? "before" : "behind");
  }
  text +=
      fmt::format("  spherical {:+.1f} um, coma {:+.1f} um, curvature {:+.4f} dpt at {:.1f} mm\n",
                  1e3 * a.spherical.mm(), 1e3 * a.coma.mm(), a.curvature.dioptres(), a.height.mm());
  text += fmt::format(
      "  discs overlap by {:.2f} on average, by {:.2f} at worst ({:.0f} % of the way to "
      "the corner,\n  {} away); light off by {:+.2f} stops at worst\n",
      n.mean_overlap, n.worst.overlap, 100.0 * n.worst.share, metres_text(n.worst.z),
      n.worst_light);
  text += "\n  overlap of discs          in the middle";
  double before = -1.0;
  for (const NearestPlace& p : n.places) {
    if (p.share < before || before < 0.0) {
      if (before >= 0.0) break;
    } else {
      text += fmt::format(" {:>8.0f} %", 100.0 * p.share);
    }
    before = p.share;
  }
  text += " of the way to the corner";
  before = 1.0;
  for (const NearestPlace& p : n.places) {
    if (p.share < before) {
      text += fmt::format("\n    {:<22} {:>14.2f}", metres_text(p.z), p.overlap);
    } else {
      text += fmt::format(" {:>10.2f}", p.overlap);
    }
    before = p.share;
  }
  return text + '\n';
}

Json nearest_json(const NearestLook& n) {
  Json places = Json::array();
  for (const NearestPlace& p : n.places) {
    places.push_back({{"share", p.share},
                      {"z_m", p.z.is_finite() ? Json(p.z.m()) : Json(nullptr)},
                      {"overlap", p.overlap},
                      {"light_stops", p.light_stops}});
  }
  Json rims = Json::array();
  for (const VignettingRim& r : n.lens.vignetting) {
    rims.push_back({{"radius_mm", r.radius.mm()}, {"ahead_mm", r.ahead.mm()}});
  }
  const Aberrations& a = n.lens.aberrations;
  return {{"f_number", n.f_number},
          {"barrel", rims},
          {"spherical_mm", a.spherical.mm()},
          {"coma_mm", a.coma.mm()},
          {"curvature_dpt", a.curvature.dioptres()},
          {"height_mm", a.height.mm()},
          {"overlap", n.mean_overlap},
          {"overlap_worst", n.worst.overlap},
          {"light_worst_stops", n.worst_light},
          {"places", places}};
}

std::string fit_text(const GlassFit& f) {
  return fmt::format(
      "COMPACT FORM, order {}, {} weights a colour: rays miss by {:.2f} um rms and {:.1f} um at "
      "worst\n"
      "on the film, where what is in focus belongs; of {:.2f} % it is wrong whether they pass (on\n"
      "fresh rays)\n",
      f.sampler.order, 2 * GlassSampler::terms(f.sampler.order) * f.sampler.ways[1].outputs,
      f.error.rms_um, f.error.worst_um, 100.0 * f.error.wrongly_sorted);
}

Json fit_json(const GlassFit& f) {
  return {{"order", f.sampler.order},
          {"rms_um", f.error.rms_um},
          {"worst_um", f.error.worst_um},
          {"wrongly_sorted", f.error.wrongly_sorted}};
}

std::string fit_table(const GlassLook& look, const GlassFit& f) {
  const GlassSampler& g = f.sampler;
  Json bounds = Json::array();
  for (const GlassSampler::Bound& b : g.bounds) {
    bounds.push_back(Json::array({b.middle, b.along, b.across}));
  }
  Json outline = Json::array();
  for (const auto& p : g.outline) outline.push_back(Json::array({p[0], p[1]}));
  Json ways = Json::array();
  for (const GlassSampler::Way& w : g.ways) {
    ways.push_back(Json{{"outputs", w.outputs}, {"weights", w.weights}});
  }
  const Json table{
      {"glass", look.prescription.name},
      {"f_number", look.request.f_number.value_or(look.widest)},
      {"focus_from_film_m",
       look.request.distance.is_finite() ? Json(look.request.distance.m()) : Json(nullptr)},
      {"error", fit_json(f)},
      {"order", g.order},
      {"reach", g.reach},
      {"pupil", g.pupil},
      {"plane", g.plane},
      {"middle_light", g.middle_light},
      {"bounds", bounds},
      {"outline", outline},
      {"inside_sq", g.inside_sq},
      {"outside_sq", g.outside_sq},
      {"ways", ways}};
  return table.dump() + '\n';
}

}  // namespace jolly_iris::report
