#include "jolly_iris/bokeh.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <nlohmann/json.hpp>
#include <optional>

#include "bokeh_sheet.hpp"
#include "jolly_iris/barrel_mask.hpp"
#include "jolly_iris/disk.hpp"
#include "jolly_iris/errors.hpp"
#include "jolly_iris/labelled_sheet.hpp"
#include "jolly_iris/picture_file.hpp"
#include "jolly_iris/pupil.hpp"
#include "jolly_iris/sample_count.hpp"
#include "jolly_iris/sharpness.hpp"
#include "lens_table.hpp"
#include "output.hpp"
#include "text.hpp"
#include "verbs.hpp"

namespace jolly_iris::cli {

namespace {

using Json = nlohmann::ordered_json;

Json disc_json(const Row& row, const Column& column, const BokehDisc& d) {
  return {{"at", row.name},
          {"distance_m", row.z.is_infinite() ? Json(nullptr) : Json(row.z.m())},
          {"right", column.place.right},
          {"up", column.place.up},
          {"coc_px", d.coc_px},
          {"wide_px", d.wide_px},
          {"high_px", d.high_px},
          {"area_px", d.area_px},
          {"light_stops", d.light_stops},
          {"rim_stops", d.rim_stops}};
}

Json json_of_lenses(const std::vector<LensTry>& tries) {
  Json list = Json::array();
  for (const LensTry& t : tries) {
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

// How the squeeze goes with the focus, where it was measured; and what that does to shapes.
void say_squeeze(const LoadedShot& loaded, Json& json, std::string& text) {
  const Lens& lens = loaded.now.lens;
  if (lens.squeeze == 1.0) return;
  const bool front = lens.squeeze_at == SqueezeAt::front;
  const auto shapes = [&](double s) {
    const double disc = (front ? s * s : s) / lens.squeeze;
    return Json{{"squeeze", s}, {"in_focus_wide", lens.squeeze / s}, {"disc_high", disc}};
  };
  const auto line = [&](const std::string& at, double s) {
    const Json j = shapes(s);
    return fmt::format("  {:<14}{:>9}{:>22.3f}{:>24.3f}\n", at, fmt::format("{:.4g} x", s),
                       j["in_focus_wide"].get<double>(), j["disc_high"].get<double>());
  };
  text += fmt::format("{:<16}{:>9}{:>22}{:>24}\n", "squeeze at mark", "", "sharp circle, wide",
                      "disc, times as high");
  json["squeeze"] = Json::array();
  for (const SqueezePoint& p : lens.squeezes) {
    text += line(p.mark.is_infinite() ? "infinity" : metres(p.mark), p.squeeze);
    json["squeeze"].push_back(shapes(p.squeeze));
    json["squeeze"].back()["mark_m"] = p.mark.is_infinite() ? Json(nullptr) : Json(p.mark.m());
  }
  text += line(lens.squeezes.empty() ? "every one" : "now", loaded.answer.camera.squeeze) + "\n";
  json["squeeze_now"] = shapes(loaded.answer.camera.squeeze);
}

struct Written {
  std::vector<std::string> names{};
  std::string text{};
};

void write_sheet(const std::vector<std::string>& names, const LabelledSheet& sheet,
                 const std::string& what, Written& written) {
  for (const std::string& name : names) {
    write_whole_file(name, is_svg(name) ? labelled_svg(sheet) : labelled_png(sheet));
    written.names.push_back(name);
    written.text += fmt::format("{:<28} 1280 x 800, {}\n", name, what);
  }
}

void table_of_discs(const LoadedShot& loaded, const std::vector<Row>& rows, Json& json,
                    std::string& text) {
  const VirtualCamera& c = loaded.answer.camera;
  text += fmt::format("opening    {}\n\n", shape_text(c));
  text += fmt::format("  {:<28} {:>9}   {:<29} {:<29} {}\n", "a light at", "CoC px",
                      "in the middle", "half-way to a corner", "in a corner");
  json["discs"] = Json::array();
  for (const Row& row : rows) {
    std::string line;
    double coc = 0.0;
    for (const std::size_t i : {middle, half_way, corner}) {
      const BokehDisc d = bokeh_disc(c, columns[i].place, row.z);
      json["discs"].push_back(disc_json(row, columns[i], d));
      if (i == middle) coc = d.coc_px;
      const std::string words = std::abs(d.coc_px) < 0.75
                                    ? fmt::format("a point, {}", light_text(d))
                                    : fmt::format("{}, {}", size_text(d), light_text(d));
      line += padded(words, 30);
    }
    line.erase(line.find_last_not_of(' ') + 1);
    text += fmt::format("  {} {:>+9.1f}   {}\n", padded(row_name(row), 28), coc, line);
  }
}

// ---- the iris alone -----------------------------------------------------------------------------

FramePlace place_of(const BokehOptions& o, const VirtualCamera& c) {
  if (!o.pixel) return {};
  const auto [x, y] = *o.pixel;
  if (x < 0.0 || y < 0.0 || x > c.pixels.width || y > c.pixels.height) {
    throw UsageError(fmt::format("--pixel: {:g},{:g} is not within the picture of {} x {}", x, y,
                                 c.pixels.width, c.pixels.height));
  }
  return {2.0 * x / c.pixels.width - 1.0, 1.0 - 2.0 * y / c.pixels.height};
}

void write_kernel(const BokehOptions& o, const LoadedShot& loaded, Written& written) {
  const VirtualCamera& c = loaded.answer.camera;
  const std::vector<Row> rows =
      o.at.empty() ? std::vector<Row>{{"infinity", Length::infinity()}} : rows_of(o, loaded);
  Frame frame{kernel_picture(c, place_of(o, c), rows.front().z, o.kernel_px), {}};
  const bool shown = !o.kernel.ends_with(".exr");
  float peak = 0.0F;
  for (const Rgba& p : frame.colour.pixels()) peak = std::max({peak, p[0], p[1], p[2]});
  if (shown) {  // formats for viewing hold 0 … 1: the brightest place is 1 then
    for (Rgba& p : frame.colour.pixels()) {
      for (std::size_t k = 0; k < 3; ++k) p[k] /= peak;
    }
  }
  write_picture(o.kernel, frame, header_of(loaded));
  written.names.push_back(o.kernel);
  written.text += fmt::format("{:<28} {} x {}, the iris as seen from {}, {}\n", o.kernel,
                              o.kernel_px, o.kernel_px, row_name(rows.front()),
                              shown ? "its brightest place 1" : "adding up to 1");
}

// ---- what a renderer needs ----------------------------------------------------------------------

void write_mask(const BokehOptions& o, const LoadedShot& loaded, Json& json, Written& written) {
  const BarrelMask mask = barrel_mask(loaded.answer.camera);
  const OpeningPicture drawn = mask_picture(mask, 1024);
  Frame frame{Picture({drawn.width, drawn.height}), {}};
  for (std::size_t i = 0; i < drawn.light.size(); ++i) {
    const auto& l = drawn.light[i];
    frame.colour.pixels()[i] = {l[0], l[1], l[2], 1.0F};
  }
  write_picture(o.mask, frame);
  written.names.push_back(o.mask);
  written.text += fmt::format(
      "{:<28} the barrel as a card: {:.1f} mm square, {:.1f} mm before the camera, its hole {:.1f} "
      "mm "
      "wide; multiply the render by {:.3f}\n",
      o.mask, mask.side.mm(), mask.distance.mm(), 2.0 * mask.hole_radius.mm(), mask.exposure);
  for (const std::string& w : mask.warnings) written.text += "  warning: " + w + '\n';
  json["mask"] = {{"distance_mm", mask.distance.mm()},
                  {"side_mm", mask.side.mm()},
                  {"hole_radius_mm", mask.hole_radius.mm()},
                  {"exposure", mask.exposure},
                  {"warnings", mask.warnings}};
}

void say_rays(const BokehOptions& o, const LoadedShot& loaded, Json& json, std::string& text) {
  NoiseQuestion q{0.0, o.highlight_px, o.contrast, *o.noise};
  text += fmt::format(
      "rays a pixel for {:g} % of noise in highlights of {:g} px, {:g} times as bright as around "
      "them\n",
      100.0 * *o.noise, o.highlight_px, o.contrast);
  json["rays"] = Json::array();
  long most = 1;
  const auto add = [&](const std::string& name, double coc_px) {
    q.coc_px = coc_px;
    const long rays = samples_needed(q);
    most = std::max(most, rays);
    text += fmt::format("  {} {:>+8.1f} px {:>9} rays\n", padded(name, 24), coc_px, rays);
    json["rays"].push_back({{"name", name}, {"coc_px", coc_px}, {"rays", rays}});
  };
  for (const SubjectBlur& s : loaded.answer.subjects) {
    if (s.in_picture) add(s.name, s.coc_px);
  }
  add("infinity", loaded.answer.infinity.coc_px);
  text += fmt::format("  {} {:>11} {:>9} rays\n\n", padded("the whole frame", 24), "", most);
  json["rays_for_all"] = most;
}

}  // namespace

void bokeh(const BokehOptions& options, const Streams& io, std::vector<std::string>& files) {
  const bool only_parts =
      options.out.empty() &&
      (!options.kernel.empty() || !options.table.empty() || !options.mask.empty() || options.noise);
  const std::vector<std::string> names =
      !options.out.empty() ? options.out
      : only_parts         ? std::vector<std::string>{}
                           : std::vector{stem_of(options.shot.shot) + ".bokeh.png"};
  for (const std::string& name : names) (void)is_svg(name);
  if (!options.kernel.empty()) check_picture_name(options.kernel);
  if (!options.mask.empty()) check_picture_name(options.mask);
  Written written;
  Json json;
  const LoadedShot loaded = load(options.shot, files);
  const VirtualCamera& c = loaded.answer.camera;
  std::string text = tried_line(loaded.shot);
  const OpeningFigures figures = opening_figures(c);
  json["opening"] = {{"area_mm2", figures.area_mm2},
                     {"height_over_width", figures.height_over_width},
                     {"flattened", figures.flattened},
                     {"rim_stops", figures.rim_stops}};
  if (!options.vary.values.empty() || !options.lenses.empty()) {
    const std::vector<LensTry> tries = tries_of(options, files);
    const bool lenses = !options.lenses.empty();
    if (lenses) {
      text += table_of_lenses(tries);
      json["lenses"] = json_of_lenses(tries);
    }
    write_sheet(names, sheet_of_tries(options, tries, io, files),
                lenses ? fmt::format("{} lenses, framed alike", tries.size())
                       : fmt::format("{} tries of {}", tries.size(), options.vary.key),
                written);
  } else if (!only_parts) {
    const std::vector<Row> rows = rows_of(options, loaded);
    table_of_discs(loaded, rows, json, text);
    text += '\n';
    say_squeeze(loaded, json, text);
    write_sheet(names, sheet_over_frame(loaded, rows), "discs over the frame", written);
  }
  if (options.noise) say_rays(options, loaded, json, text);
  if (!options.mask.empty()) write_mask(options, loaded, json, written);
  if (!options.kernel.empty()) write_kernel(options, loaded, written);
  if (!options.table.empty()) {
    write_whole_file(options.table, lens_table(lens_sampler(c)));
    written.names.push_back(options.table);
    written.text += fmt::format("{:<28} the lens for lens_sampler.hpp\n", options.table);
  }
  json["written"] = written.names;
  for (const auto& [key, origin] : loaded.shot.origins) {
    if (origin.source == Origin::Source::tried) json["tried"][key] = origin.text;
  }
  say(options.shot.form, io, json.dump(2, ' ', false, Json::error_handler_t::replace) + "\n",
      text + written.text);
}

}  // namespace jolly_iris::cli
