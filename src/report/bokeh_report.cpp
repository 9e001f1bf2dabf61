#include "report/bokeh_report.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "jolly_iris/optics/pupil.hpp"
#include "jolly_iris/optics/sample_count.hpp"
#include "jolly_iris/optics/seen_blur.hpp"
#include "jolly_iris/optics/sharpness.hpp"
#include "report/measured.hpp"
#include "report/text.hpp"

namespace jolly_iris::report {

std::string row_name(const DiscRow& row) {
  const std::string far = row.z.is_infinite() ? std::string("infinity") : metres_text(row.z);
  return row.name == far ? far : row.name + ", " + far;
}

std::string size_text(const BokehDisc& d) {
  return fmt::format("{:.0f} x {:.0f} px", d.width_px, d.height_px);
}

std::string light_text(const BokehDisc& d) {
  return d.light_stops > -0.005 ? std::string("all its light")
                                : fmt::format("{:+.2f} stops", d.light_stops);
}

std::string rim_text(double stops) {
  return std::abs(stops) < 0.05 ? std::string("even") : fmt::format("rim {:+.2f} stops", stops);
}

std::string shape_text(const VirtualCamera& c) {
  const OpeningFigures f = opening_figures(c);
  const std::string blades = !c.iris.outline.empty() ? std::string("a free outline")
                             : c.iris.blades == 0    ? std::string("round")
                                                     : fmt::format("{} blades", c.iris.blades);
  return fmt::format("{}, flattened by {:.1f} %, {:.1f} mm2 open, {:.2f} times as high as wide, {}",
                     blades, 100.0 * f.flattened, f.area_mm2, f.height_over_width,
                     rim_text(f.edge_falloff_stops));
}

std::string gate_text(const VirtualCamera& c) {
  return fmt::format("{:.1f} x {:.1f} mm", c.gate.width.mm(), c.gate.height.mm());
}

std::string opening_text(const VirtualCamera& c) {
  return fmt::format("opening    {}\n\n", shape_text(c));
}

Json opening_json(const VirtualCamera& c) {
  const OpeningFigures figures = opening_figures(c);
  return {{"area_mm2", figures.area_mm2},
          {"height_over_width", figures.height_over_width},
          {"flattened", figures.flattened},
          {"rim_stops", figures.edge_falloff_stops}};
}

namespace {

constexpr std::array told_columns{middle_column, half_way_column, corner_column};

Json disc_json(const DiscRow& row, const DiscColumn& column, const BokehDisc& d) {
  return {{"at", row.name},
          {"distance_m", row.z.is_infinite() ? Json(nullptr) : Json(row.z.m())},
          {"right", column.place.right},
          {"up", column.place.up},
          {"coc_px", d.coc_px},
          {"wide_px", d.width_px},
          {"high_px", d.height_px},
          {"area_px", d.area_px},
          {"light_stops", d.light_stops},
          {"rim_stops", d.edge_falloff_stops}};
}

// A squeeze and what it does to a circle in focus and to a disc.
struct SqueezeShape {
  double squeeze = 1.0;
  double in_focus_width = 1.0;
  double disc_height = 1.0;
};

SqueezeShape squeeze_shape(const Lens& lens, double s) {
  const bool front = lens.squeeze_at == SqueezeAt::front;
  return {s, lens.squeeze / s, (front ? s * s : s) / lens.squeeze};
}

Json shape_json(const SqueezeShape& s) {
  return {
      {"squeeze", s.squeeze}, {"in_focus_wide", s.in_focus_width}, {"disc_high", s.disc_height}};
}

}  // namespace

std::string discs_table(const VirtualCamera& c, const std::vector<DiscRow>& rows,
                        const GlassCamera* glass) {
  std::string text = fmt::format("  {:<28} {:>9}   {:<29} {:<29} {}\n", "a light at", "CoC px",
                                 "in the middle", "half-way to a corner", "in a corner");
  for (const DiscRow& row : rows) {
    std::string line;
    double coc = 0.0;
    for (const std::size_t i : told_columns) {
      const BokehDisc d = bokeh_disc(c, disc_columns[i].place, row.z, 1.0, glass);
      if (i == middle_column) coc = d.coc_px;
      const std::string words = std::abs(d.coc_px) < 0.75 && glass == nullptr
                                    ? fmt::format("a point, {}", light_text(d))
                                    : fmt::format("{}, {}", size_text(d), light_text(d));
      line += padded(words, 30);
    }
    line.erase(line.find_last_not_of(' ') + 1);
    text += fmt::format("  {} {:>+9.1f}   {}\n", padded(row_name(row), 28), coc, line);
  }
  return text;
}

Json discs_json(const VirtualCamera& c, const std::vector<DiscRow>& rows,
                const GlassCamera* glass) {
  Json list = Json::array();
  for (const DiscRow& row : rows) {
    for (const std::size_t i : told_columns) {
      list.push_back(
          disc_json(row, disc_columns[i], bokeh_disc(c, disc_columns[i].place, row.z, 1.0, glass)));
    }
  }
  return list;
}

std::string squeeze_text(const LoadedShot& loaded) {
  const Lens& lens = loaded.now.lens;
  if (lens.squeeze == 1.0) return {};
  const auto line = [&](const std::string& at, double squeeze) {
    const SqueezeShape s = squeeze_shape(lens, squeeze);
    return fmt::format("  {:<14}{:>9}{:>22.3f}{:>24.3f}\n", at, fmt::format("{:.4g} x", squeeze),
                       s.in_focus_width, s.disc_height);
  };
  std::string text = fmt::format("{:<16}{:>9}{:>22}{:>24}\n", "squeeze at mark", "",
                                 "sharp circle, wide", "disc, times as high");
  for (const SqueezePoint& p : lens.squeezes) text += line(metres_text(p.mark), p.squeeze);
  return text + line(lens.squeezes.empty() ? "every one" : "now", loaded.answer.camera.squeeze) +
         "\n";
}

void add_squeeze_json(const LoadedShot& loaded, Json& json) {
  const Lens& lens = loaded.now.lens;
  if (lens.squeeze == 1.0) return;
  json["squeeze"] = Json::array();
  for (const SqueezePoint& p : lens.squeezes) {
    json["squeeze"].push_back(shape_json(squeeze_shape(lens, p.squeeze)));
    json["squeeze"].back()["mark_m"] = metres_json(p.mark);
  }
  json["squeeze_now"] = shape_json(squeeze_shape(lens, loaded.answer.camera.squeeze));
}

std::string lenses_table(const LensTries& tries) {
  std::string text = fmt::format("  {:<18}{:>10}{:>9}   {:<18}{:>9}{:>16}\n", "lens", "focal",
                                 "f-number", "gate framing alike", "opening", "px at infinity");
  for (const LensTry& t : tries.tries) {
    const VirtualCamera& c = t.loaded.answer.camera;
    text += fmt::format("  {}{:>10}{:>9}   {:<18}{:>9}{:>16.1f}\n", padded(t.name, 18),
                        fmt::format("{:.1f} mm", c.focal.mm()), fmt::format("f/{:.3g}", c.f_number),
                        gate_text(c), fmt::format("{:.1f} mm", 2.0 * c.aperture_radius.mm()),
                        to_pixels(circle_of_confusion(c, Length::infinity()), c));
  }
  return text + '\n';
}

Json lenses_json(const LensTries& tries) {
  Json list = Json::array();
  for (const LensTry& t : tries.tries) {
    const VirtualCamera& c = t.loaded.answer.camera;
    list.push_back({{"name", t.name},
                    {"focal_mm", c.focal.mm()},
                    {"f_number", c.f_number},
                    {"gate_width_mm", c.gate.width.mm()},
                    {"gate_height_mm", c.gate.height.mm()},
                    {"aperture_radius_mm", c.aperture_radius.mm()},
                    {"infinity_px", to_pixels(circle_of_confusion(c, Length::infinity()), c)}});
  }
  return list;
}

std::string variants_table(const LensTries& tries) {
  std::string text = fmt::format("  {:<18}{:>9}{:>16}   {}\n", "variant", "f-number",
                                 "px at infinity", "against the shot");
  for (const LensTry& t : tries.tries) {
    const VirtualCamera& c = t.loaded.answer.camera;
    const bool first = &t == &tries.tries.front();
    text += fmt::format(
        "  {}{:>9}{:>16.1f}   {}\n", padded(t.name, 18), fmt::format("f/{:.3g}", c.f_number),
        to_pixels(circle_of_confusion(c, Length::infinity()), c),
        first ? "-" : light_words(light_beside(tries.tries.front().loaded, t.loaded), t.loaded));
  }
  return text + '\n';
}

Json variants_json(const LensTries& tries) {
  Json list = Json::array();
  for (const LensTry& t : tries.tries) {
    const VirtualCamera& c = t.loaded.answer.camera;
    const TryLight light = light_beside(tries.tries.front().loaded, t.loaded);
    list.push_back({{"name", t.name},
                    {"f_number", c.f_number},
                    {"infinity_px", to_pixels(circle_of_confusion(c, Length::infinity()), c)},
                    {"brighter_stops", light.stops ? Json(*light.stops) : Json(nullptr)},
                    {"white_gains", light.white ? Json(*light.white) : Json(nullptr)}});
  }
  return list;
}

std::vector<RaysAnswer> rays_needed(const Answer& answer, const RaysQuestion& question,
                                    const std::vector<DiscRow>& at) {
  NoiseQuestion q{0.0, question.highlight_px, question.contrast, question.noise};
  std::vector<RaysAnswer> out;
  const auto add = [&](const std::string& name, double coc_px) {
    q.coc_px = coc_px;
    out.push_back({name, coc_px, samples_needed(q)});
  };
  if (!at.empty()) {
    const SeenBlur blur(answer.camera);
    for (const DiscRow& row : at) {
      add(row_name(row), to_pixels(blur.of(row.z), answer.camera));
    }
    return out;
  }
  for (const SubjectBlur& s : answer.subjects) {
    if (s.in_picture) add(s.name, s.coc_px);
  }
  add("infinity", answer.infinity.coc_px);
  return out;
}

namespace {

long most_rays(const std::vector<RaysAnswer>& rays) {
  long most = 1;
  for (const RaysAnswer& r : rays) most = std::max(most, r.rays);
  return most;
}

}  // namespace

std::string rays_text(const std::vector<RaysAnswer>& rays, const RaysQuestion& question) {
  std::string text = fmt::format(
      "rays a pixel for {:g} % of noise in highlights of {:g} px, {:g} times as bright as around "
      "them\n",
      100.0 * question.noise, question.highlight_px, question.contrast);
  for (const RaysAnswer& r : rays) {
    text += fmt::format("  {} {:>+8.1f} px {:>9} rays\n", padded(r.name, 24), r.coc_px, r.rays);
  }
  return text + fmt::format("  {} {:>11} {:>9} rays\n\n", padded("the whole frame", 24), "",
                            most_rays(rays));
}

void add_rays_json(const std::vector<RaysAnswer>& rays, Json& json) {
  json["rays"] = Json::array();
  for (const RaysAnswer& r : rays) {
    json["rays"].push_back({{"name", r.name}, {"coc_px", r.coc_px}, {"rays", r.rays}});
  }
  json["rays_for_all"] = most_rays(rays);
}

Json mask_json(const VignettingMask& mask) {
  return {{"distance_mm", mask.distance.mm()},
          {"side_mm", mask.side.mm()},
          {"hole_radius_mm", mask.hole_radius.mm()},
          {"exposure", mask.exposure},
          {"warnings", mask.warnings}};
}

std::string lens_table(const VirtualCamera& c) {
  const LensSampler lens = lens_sampler(c);
  const OpeningTable& o = lens.opening;
  Json nodes = Json::array();
  for (const OpeningTable::Node& n : o.nodes) nodes.push_back({n.x, n.y, n.dx, n.dy});
  Json light = Json::array();
  for (const auto& l : lens.light.light) light.push_back({l[0], l[1], l[2]});
  Json rims = Json::array();
  for (const LensSampler::Rim& r : lens.rims) {
    rims.push_back({{"radius", r.radius}, {"ahead", r.ahead}});
  }
  const char* kind = o.kind == OpeningTable::Kind::round     ? "round"
                     : o.kind == OpeningTable::Kind::sectors ? "sectors"
                                                             : "triangles";
  // Added one by one: the lists are long, and lists in braces would copy them at every level.
  Json opening{{"kind", kind}, {"hole", o.hole}};
  opening.add("nodes", std::move(nodes));
  opening.add("start", o.start);
  opening.add("guide", o.guide);
  opening.add("equal", o.equal);
  Json falloff{{"side", lens.light.side}, {"reach", lens.light.reach}};
  falloff.add("light", std::move(light));
  Json j;
  j.add("opening", std::move(opening));
  j.add("light", std::move(falloff));
  j["radius"] = lens.radius;
  j["aspect"] = lens.aspect;
  j["focal"] = lens.focal;
  j["inverse_focus"] = lens.inverse_focus;
  j["rims"] = std::move(rims);
  j["gain"] = lens.gain;
  j["spherical"] = lens.spherical;
  j["coma"] = lens.coma;
  j["curvature"] = lens.curvature;
  j["focus_shift"] = lens.focus_shift;
  j["magnification"] = lens.magnification;
  return j.dump() + "\n";
}

}  // namespace jolly_iris::report
