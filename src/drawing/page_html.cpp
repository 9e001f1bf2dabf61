#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <filesystem>
#include <limits>

#include "blur_strength.hpp"
#include "disk/base64.hpp"
#include "disk/json.hpp"
#include "drawing/page_parts.hpp"
#include "jolly_iris/drawing/page.hpp"
#include "jolly_iris/optics/undistort.hpp"
#include "optics/value_text.hpp"

namespace jolly_iris {

namespace {

Json finite(double v) { return std::isfinite(v) ? Json(v) : Json(nullptr); }

Json camera_of(const Answer& a) {
  const VirtualCamera& c = a.camera;
  Json rows = Json::array();
  const auto row = [&](const char* name, const std::string& value, const std::string& more) {
    rows.push_back({name, value, more});
  };
  row("focal length", fmt::format("{:.3f} mm", c.focal.mm()),
      fmt::format("{:.3f} mm at infinity", c.lens_focal.mm()));
  row("f-number", fmt::format("f/{:.4f}", c.f_number),
      fmt::format("f/{:.4g}, T{:.4g} at infinity", c.lens_f_number, c.lens_t_number));
  row("focus distance", short_metres_text(c.focus),
      c.focus.is_infinite()
          ? a.focus_description
          : fmt::format("{:.6g} of the scene's units; {}", c.focus / a.unit, a.focus_description));
  row("gate", fmt::format("{:.3f} x {:.3f} mm", c.picture.width.mm(), c.picture.height.mm()),
      fmt::format("{} x {} px", c.pixels.width, c.pixels.height));
  row("field of view",
      fmt::format("{:.3f} x {:.3f} deg", c.horizontal_picture_view().degrees(),
                  c.vertical_picture_view().degrees()),
      "wide x high");
  row("aperture radius", fmt::format("{:.3f} mm", c.aperture_radius.mm()),
      fmt::format("{:.6g} of the scene's units", c.aperture_radius / a.unit));
  row("iris", c.iris.blades == 0 ? "round" : fmt::format("{} blades", c.iris.blades),
      c.squeeze != 1.0 ? fmt::format("squeeze {:.4g} x", c.squeeze) : "");
  if (c.shift_up != Length{} || c.shift_right != Length{}) {
    row("shift", fmt::format("{:+.3f} mm up, {:+.3f} right", c.shift_up.mm(), c.shift_right.mm()),
        "");
  }
  if (c.distortion.any()) {
    const DistortionFigures f = figures_of_distortion(c);
    row("distortion", f.kind, fmt::format("{:.1f} % at the corner", std::abs(f.corner_percent)));
  }
  return rows;
}

Json subjects_of_page(const Answer& a) {
  Json list = Json::array();
  const double limit_px = a.coc_limit / a.camera.pixel_pitch();
  const auto add = [&](const SubjectBlur& s) {
    list.push_back(
        {{"name", s.name},
         {"axial_m", finite(s.axial.m())},
         {"front", s.coc_front_px && s.front != s.back ? Json(*s.coc_front_px) : Json(nullptr)},
         {"middle", s.coc_px},
         {"back", s.front != s.back ? Json(s.coc_back_px) : Json(nullptr)},
         {"sharp", s.sharp},
         {"strength", drawing::blur_strength(s.coc_px, limit_px)},
         {"said", s.partly_sharp     ? "partly sharp"
                  : s.sharp          ? "sharp"
                  : s.coc.mm() > 0.0 ? "behind"
                                     : "in front"}});
  };
  for (const SubjectBlur& s : a.subjects) {
    if (s.in_picture) add(s);
  }
  add(a.infinity);
  return list;
}

// Depth as the logarithm, so that near and far are equally fine: 0 nothing, 1 … 65535.
Json survey_of(const Survey& survey) {
  float near = std::numeric_limits<float>::max();
  float far = 0.0F;
  for (const float z : survey.depth) {
    if (!std::isfinite(z) || !(z > 0.0F)) continue;
    near = std::min(near, z);
    far = std::max(far, z);
  }
  if (!(far > 0.0F)) near = far = 1.0F;
  far = std::max(far, near * 1.001F);
  std::string depth;
  std::string thing;
  for (std::size_t i = 0; i < survey.depth.size(); ++i) {
    const float z = survey.depth[i];
    unsigned int code = 0;
    if (std::isfinite(z) && z > 0.0F) {
      code = 1U + static_cast<unsigned int>(
                      std::lround(65534.0 * std::log(static_cast<double>(z / near)) /
                                  std::log(static_cast<double>(far / near))));
    }
    depth += static_cast<char>(code >> 8U);
    depth += static_cast<char>(code & 255U);
    // More than 254 names do not fit a byte; the last ones stay nameless.
    const int t = survey.thing.empty() ? -1 : survey.thing[i];
    thing += static_cast<char>(t >= 0 && t < 255 ? t + 1 : 0);
  }
  return {{"width", survey.size.width},
          {"height", survey.size.height},
          {"near", near},
          {"far", far},
          {"names", survey.names},
          {"depth", base64(depth)},
          {"thing", base64(thing)}};
}

Json marks_of(const PlateMarks& marks) {
  Json list = Json::array();
  const auto add = [&](const char* kind, const std::string& name, const Json& points,
                       const char* runs = "anyhow") {
    list.push_back({{"kind", kind}, {"name", name}, {"points", points}, {"runs", runs}});
  };
  for (const DrawnLine& l : marks.lines) {
    add("line", l.name, l.points, std::string(to_string(l.runs)).c_str());
  }
  for (const DrawnCircle& c : marks.circles) add("circle", c.name, c.points);
  for (const DrawnLamp& l : marks.lamps) {
    const double r = 0.5 * l.diameter.value_or(0.0);
    add("lamp", l.name, {{l.at[0], l.at[1]}, {l.at[0] + r, l.at[1]}});
  }
  for (const DrawnBox& b : marks.boxes) {
    add(b.kind == DrawnBox::Kind::grey ? "grey" : "box", b.name,
        {{b.box[0], b.box[1]}, {b.box[0] + b.box[2], b.box[1] + b.box[3]}});
  }
  return list;
}

Json distortion_of(const VirtualCamera& c) {
  if (!c.distortion.any()) return nullptr;
  const Distortion& d = c.distortion;
  return {{"k", d.k},
          {"wide", d.width.value_or(d.k)},
          {"p", d.p},
          {"axis",
           {0.5 * c.pixels.width - c.shift_right / c.pixel_pitch_x(),
            0.5 * c.pixels.height + c.shift_up / c.pixel_pitch()}},
          {"radius", {*d.radius / c.pixel_pitch_x(), *d.radius / c.pixel_pitch()}}};
}

// A tenth of a stop a step about 128; 0 is black, 255 no number.
Json stops_of(const PageStops& s) {
  std::string codes;
  for (const float v : s.stops) {
    const double step = std::clamp(128.0 + 10.0 * static_cast<double>(v), 1.0, 254.0);
    codes += static_cast<char>(std::isnan(v)               ? 255
                               : std::isinf(v) && v < 0.0F ? 0
                                                           : static_cast<int>(std::lround(step)));
  }
  return {{"width", s.size.width},
          {"height", s.size.height},
          {"clips_at", s.clips_at},
          {"codes", base64(codes)}};
}

Json picture_of(const PagePicture& p) {
  return {{"label", p.label}, {"data", data_uri("image/jpeg", p.jpeg)}};
}

Json data_of(const Shot& now, const Answer& a, const Page& page) {
  const VirtualCamera& c = a.camera;
  const std::string file = std::filesystem::path(now.file).filename().string();
  Json j;
  j["file"] = file;
  j["title"] = a.frame ? fmt::format("{}, frame {:g}", file, *a.frame) : file;
  j["subtitle"] = fmt::format("{:.2f} mm, f/{:.3g}, focus {} ({})", c.focal.mm(), c.f_number,
                              short_metres_text(c.focus), a.focus_description);
  j["pixels"] = {c.pixels.width, c.pixels.height};
  j["focus_dioptres"] = c.focus.is_infinite() ? 0.0 : 1.0 / c.focus.m();
  j["blur_px_dioptres"] =
      2.0 * c.aperture_radius.mm() * c.focal.mm() / 1000.0 / c.pixel_pitch().mm();
  j["limit_px"] = a.coc_limit / c.pixel_pitch();
  j["sharp_words"] =
      a.nothing_sharp
          ? fmt::format(
                "Nothing is sharp: the lens's faults alone blur by {:.1f} px, and {:.3g} px is the "
                "limit.",
                a.least_blur_px, a.coc_limit / c.pixel_pitch())
          : fmt::format(
                "Sharp from {} to {}: blurred by up to {:.3g} px. Blur is the width of the disc "
                "that a point becomes, + behind the focus, - in front of it.",
                short_metres_text(a.sharp.near), short_metres_text(a.sharp.far),
                a.coc_limit / c.pixel_pitch());
  j["camera"] = camera_of(a);
  j["subjects"] = subjects_of_page(a);
  j["notes"] = a.notes;
  j["distortion"] = distortion_of(c);
  j["has_depth_file"] = now.depth && !now.depth->file.empty();
  j["pull_frame"] = now.pulls.empty() || !a.frame ? Json(nullptr) : Json(*a.frame);
  j["marks"] = now.plate ? marks_of(now.plate->marks) : Json::array();
  j["plate"] = page.plate ? picture_of(*page.plate) : Json(nullptr);
  j["survey"] = page.survey ? survey_of(*page.survey) : Json(nullptr);
  j["stops"] = page.stops ? stops_of(*page.stops) : Json(nullptr);
  j["exposure"] = page.exposure;
  j["exposure_words"] = page.exposure_words;
  j["exposure_sheet"] =
      page.exposure_png.empty() ? Json(nullptr) : Json(data_uri("image/png", page.exposure_png));
  j["match"] = nullptr;
  if (page.match) j["match"] = {{"words", page.match->words}, {"found", page.match->found}};
  j["compare"] = nullptr;
  if (page.compare) {
    j["compare"] = {{"plate", data_uri("image/jpeg", page.compare->plate_jpeg)},
                    {"cg", data_uri("image/jpeg", page.compare->cg_jpeg)},
                    {"label", page.compare->label},
                    {"differs", page.compare->differs},
                    {"moves", page.compare->moves},
                    {"places", page.compare->places},
                    {"verdict", page.compare->verdict}};
  }
  j["bokeh_words"] = page.bokeh_words;
  j["bokeh_sheet"] =
      page.bokeh_png.empty() ? Json(nullptr) : Json(data_uri("image/png", page.bokeh_png));
  j["pictures"] = Json::array();
  for (const PagePicture& p : page.pictures) j["pictures"].push_back(picture_of(p));
  j["step_key"] = page.step_key;
  j["step_now"] = page.step_now;
  j["steps"] = Json::array();
  for (const PageStep& s : page.steps) {
    j["steps"].push_back(
        {{"value", s.value}, {"words", s.words}, {"data", data_uri("image/jpeg", s.jpeg)}});
  }
  j["plan_above"] = data_uri("image/svg+xml", page.plan_above_svg);
  j["plan_side"] = data_uri("image/svg+xml", page.plan_side_svg);
  return j;
}

}  // namespace

std::string page_html(const Shot& now, const Answer& answer, const Page& page) {
  const Json data_json = data_of(now, answer, page);
  return drawing::assembled("page", *data_json.find("title")->text(), data_json);
}

}  // namespace jolly_iris
