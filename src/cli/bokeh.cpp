#include "jolly_iris/bokeh.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <nlohmann/json.hpp>
#include <optional>

#include "jolly_iris/barrel_mask.hpp"
#include "jolly_iris/defocus.hpp"
#include "jolly_iris/disk.hpp"
#include "jolly_iris/errors.hpp"
#include "jolly_iris/labelled_sheet.hpp"
#include "jolly_iris/picture_file.hpp"
#include "jolly_iris/pupil.hpp"
#include "jolly_iris/sample_count.hpp"
#include "jolly_iris/sharpness.hpp"
#include "jolly_iris/trace.hpp"
#include "lens_table.hpp"
#include "output.hpp"
#include "progress.hpp"
#include "text.hpp"
#include "verbs.hpp"

namespace jolly_iris::cli {

namespace {

using Json = nlohmann::ordered_json;

constexpr float sheet_level = 0.45F;   // of an even disc's light on a sheet: rims have room above
constexpr double largest_share = 0.9;  // of its room that the largest disc of a sheet takes

struct Column {
  const char* name;
  FramePlace place;
};
constexpr std::size_t corner = 0;
constexpr std::size_t half_way = 1;
constexpr std::size_t middle = 2;
constexpr std::array columns{Column{"upper left corner", {-0.97, 0.97}},
                             Column{"half-way there", {-0.5, 0.5}}, Column{"middle", {0.0, 0.0}},
                             Column{"right edge", {0.97, 0.0}},
                             Column{"upper right corner", {0.97, 0.97}}};

struct Row {
  std::string name{};
  Length z{};
};

// Without a wish: as much blur in front as infinity has, half of it, the focus, and likewise
// behind.
std::vector<Row> usual_rows(const VirtualCamera& c) {
  const double focus = 1.0 / c.focus.m();
  std::vector<Row> rows;
  if (focus <= 0.0) {  // focused at infinity: everything is in front
    for (const double z : {1.0, 3.0, 10.0}) rows.push_back({"in front", Length::from_m(z)});
    rows.push_back({"in focus", Length::infinity()});
    return rows;
  }
  rows.push_back({"in front", Length::from_m(1.0 / (2.0 * focus))});
  rows.push_back({"in front", Length::from_m(1.0 / (1.5 * focus))});
  rows.push_back({"in focus", c.focus});
  rows.push_back({"behind", Length::from_m(2.0 / focus)});
  rows.push_back({"behind", Length::infinity()});
  return rows;
}

std::vector<Row> rows_of(const BokehOptions& o, const LoadedShot& loaded) {
  if (o.at.empty()) return usual_rows(loaded.answer.camera);
  std::vector<Row> rows;
  for (const std::string& text : o.at) {
    const Length z = distance_named(loaded, text, "--at");
    if (!(z.mm() > 0.0)) throw UsageError("--at: " + text + " is not in front of the camera");
    const auto& subjects = loaded.answer.subjects;
    const bool named = std::any_of(subjects.begin(), subjects.end(),
                                   [&](const SubjectBlur& s) { return s.name == text; });
    rows.push_back({named ? text : z.is_infinite() ? std::string("infinity") : metres(z), z});
  }
  return rows;
}

std::string size_text(const BokehDisc& d) {
  return fmt::format("{:.0f} x {:.0f} px", d.wide_px, d.high_px);
}

std::string light_text(const BokehDisc& d) {
  return d.light_stops > -0.005 ? std::string("all its light")
                                : fmt::format("{:+.2f} stops", d.light_stops);
}

std::string rim_text(double stops) {
  return std::abs(stops) < 0.05 ? std::string("even") : fmt::format("rim {:+.2f} stops", stops);
}

Picture toned(Picture p) {
  for (Rgba& v : p.pixels()) {
    for (std::size_t c = 0; c < 3; ++c) v[c] *= sheet_level;
  }
  return p;
}

// px of a sheet for one of the picture, so that the largest disc fits its room.
double sheet_scale(double largest_px, const SheetRoom& room) {
  return largest_share * std::min(room.width, room.height) / std::max(largest_px, 1.0);
}

double largest_of(const VirtualCamera& c, const std::vector<Row>& rows) {
  double largest = 1.0;
  for (const Row& r : rows) {
    for (const Column& column : columns) {
      const BokehDisc d = bokeh_disc(c, column.place, r.z);
      largest = std::max({largest, d.wide_px, d.high_px});
    }
  }
  return largest;
}

// A row of discs over the frame; drawn twice as fine as the sheet.
std::vector<SheetCell> row_of_discs(const VirtualCamera& c, Length z, double scale) {
  std::vector<SheetCell> cells;
  for (const Column& column : columns) {
    const BokehDisc d = bokeh_disc(c, column.place, z, 2.0 * scale);
    const bool point = std::abs(d.coc_px) < 0.75;
    cells.push_back({toned(d.picture),
                     point ? 2.0 : 0.5,
                     {point ? std::string("a point") : size_text(d), light_text(d)}});
  }
  return cells;
}

// "8 blades, blade radius 1.6 x; area 661 mm2, 1.00 times as high as wide, even"
std::string shape_text(const VirtualCamera& c) {
  const OpeningFigures f = opening_figures(c);
  const std::string blades = !c.iris.outline.empty() ? std::string("a free outline")
                             : c.iris.blades == 0    ? std::string("round")
                                                     : fmt::format("{} blades", c.iris.blades);
  return fmt::format("{}, flattened by {:.1f} %, {:.1f} mm2 open, {:.2f} times as high as wide, {}",
                     blades, 100.0 * f.flattened, f.area_mm2, f.height_over_width,
                     rim_text(f.rim_stops));
}

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

std::string row_name(const Row& row) {
  const std::string far = row.z.is_infinite() ? std::string("infinity") : metres(row.z);
  return row.name == far ? far : row.name + ", " + far;
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

LabelledSheet sheet_over_frame(const LoadedShot& loaded, const std::vector<Row>& rows) {
  const VirtualCamera& c = loaded.answer.camera;
  LabelledSheet sheet;
  sheet.title = fmt::format("{}: a small light out of focus", stem_of(loaded.shot.file));
  sheet.subtitle = shape_text(c);
  const double largest = largest_of(c, rows);
  const SheetRoom room = room_of_cell(rows.size(), columns.size(), true);
  const double scale = sheet_scale(largest, room);
  sheet.foot = fmt::format(
      "All at one scale: {:.1f} px of this sheet are one of the {} x {} picture. Brightness: as "
      "bright "
      "as each disc's light is for its size.",
      scale, c.pixels.width, c.pixels.height);
  for (const Column& column : columns) sheet.columns.emplace_back(column.name);
  for (const Row& row : rows) {
    const double coc = to_pixels(circle_of_confusion(c, row.z), c);
    sheet.rows.push_back({row.z.is_infinite() ? "infinity" : metres(row.z),
                          row.name == metres(row.z) ? "" : row.name,
                          fmt::format("CoC {:+.1f} px", coc)});
    sheet.cells.push_back(row_of_discs(c, row.z, scale));
  }
  return sheet;
}

void table_of_discs(const LoadedShot& loaded, const std::vector<Row>& rows, Json& json,
                    std::string& text) {
  const VirtualCamera& c = loaded.answer.camera;
  text += fmt::format("opening    {}\n\n", shape_text(c));
  text += fmt::format("  {:<28} {:>9}   {:<26} {:<26} {}\n", "a light at", "CoC px",
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
      line += padded(words, 27);
    }
    line.erase(line.find_last_not_of(' ') + 1);
    text += fmt::format("  {} {:>+9.1f}   {}\n", padded(row_name(row), 28), coc, line);
  }
}

// ---- tries of one value -------------------------------------------------------------------------

// "lens.look = swirl" for a file's name, else as it was typed.
std::string value_text(const std::string& value) {
  std::string name = stem_of(value);
  if (name.ends_with(".look")) name.resize(name.size() - 5);
  return value.ends_with(".toml") ? name : value;
}

LoadedShot try_one(const BokehOptions& o, const std::string& value,
                   std::vector<std::string>& files) {
  ShotOptions one = o.shot;
  one.tried.push_back({o.vary.key, value});
  return load(one, files);
}

LabelledSheet sheet_of_tries(const BokehOptions& o, std::vector<std::string>& files) {
  LabelledSheet sheet;
  sheet.title = fmt::format("{}: {}", stem_of(o.shot.shot), o.vary.key);
  for (const Column& column : columns) sheet.columns.emplace_back(column.name);
  const SheetRoom room = room_of_cell(o.vary.values.size(), columns.size(), true);
  std::vector<LoadedShot> tries;
  double largest = 1.0;
  std::string at;
  std::vector<Length> distances;
  for (const std::string& value : o.vary.values) {
    tries.push_back(try_one(o, value, files));
    const std::vector<Row> rows = o.at.empty() ? std::vector<Row>{{"infinity", Length::infinity()}}
                                               : rows_of(o, tries.back());
    distances.push_back(rows.front().z);
    at = rows.front().name;
    largest = std::max(largest, largest_of(tries.back().answer.camera, {rows.front()}));
  }
  const double scale = sheet_scale(largest, room);
  sheet.subtitle = "A small light at " + at + ", tries from top to bottom.";
  sheet.foot =
      fmt::format("All at one scale: {:.1f} px of this sheet are one of the picture.", scale);
  for (std::size_t i = 0; i < tries.size(); ++i) {
    const VirtualCamera& c = tries[i].answer.camera;
    const OpeningFigures f = opening_figures(c);
    sheet.rows.push_back({value_text(o.vary.values[i]), fmt::format("{:.0f} mm2 open", f.area_mm2),
                          fmt::format("flat {:.1f} %", 100.0 * f.flattened),
                          rim_text(f.rim_stops)});
    sheet.cells.push_back(row_of_discs(c, distances[i], scale));
  }
  return sheet;
}

// The scene once for every value; as wide as fits the sheet.
LabelledSheet sheet_of_scenes(const BokehOptions& o, const Streams& io,
                              std::vector<std::string>& files) {
  LabelledSheet sheet;
  const std::size_t n = o.vary.values.size();
  const auto across = static_cast<std::size_t>(std::ceil(std::sqrt(static_cast<double>(n))));
  const std::size_t down = (n + across - 1) / across;
  const SheetRoom room = room_of_cell(down, across, false);
  sheet.title = fmt::format("{}: {}", stem_of(o.shot.shot), o.vary.key);
  sheet.columns.assign(across, "");
  sheet.cells.assign(down, std::vector<SheetCell>(across));
  std::optional<Frame> sharp;
  if (o.as == BokehOptions::As::defocus && !o.sharp.empty()) {
    files.push_back(o.sharp);
    sharp = read_picture(o.sharp);
  }
  sheet.subtitle = o.as == BokehOptions::As::trace ? "The scene, traced through each lens"
                                                   : "The scene, defocused by each lens";
  Progress progress(io.err, o.as == BokehOptions::As::trace ? "tracing" : "defocusing");
  const auto report = progress.callback();
  for (std::size_t i = 0; i < n; ++i) {
    const LoadedShot loaded = try_one(o, o.vary.values[i], files);
    const VirtualCamera& c = loaded.answer.camera;
    TraceSettings settings;
    const double wide = std::min(room.width, room.height * c.pixels.width / c.pixels.height);
    settings.size =
        PixelSize{std::max(16, static_cast<int>(wide)),
                  std::max(9, static_cast<int>(wide * c.pixels.height / c.pixels.width))};
    settings.samples = 64;
    if (report) {
      settings.progress = [&](double share) {
        report((static_cast<double>(i) + share) / static_cast<double>(n));
      };
    }
    if (!sharp && !loaded.scene) {
      throw UsageError(loaded.shot.file +
                       ": has no scene; give the picture to blur: --as defocus --sharp FILE");
    }
    Picture picture;
    if (o.as == BokehOptions::As::trace) {
      picture = jolly_iris::trace(*loaded.scene, c, loaded.answer.place, settings).colour;
    } else if (sharp) {
      picture = jolly_iris::defocus(*sharp, c);
    } else {
      settings.pinhole = true;
      settings.size = PixelSize{2 * settings.size->width, 2 * settings.size->height};
      settings.samples = 16;
      picture = jolly_iris::defocus(
          jolly_iris::trace(*loaded.scene, c, loaded.answer.place, settings), c);
    }
    sheet.cells[i / across][i % across] = {
        picture,
        0.0,
        {fmt::format("{} = {}", o.vary.key, value_text(o.vary.values[i])),
         fmt::format("{:.1f} px at infinity",
                     to_pixels(circle_of_confusion(c, Length::infinity()), c))}};
  }
  for (std::size_t i = n; i < across * down; ++i) {
    sheet.cells[i / across][i % across].picture = Picture({1, 1}, {0, 0, 0, 1});
  }
  return sheet;
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
  if (!options.vary.values.empty()) {
    write_sheet(names,
                options.as == BokehOptions::As::discs ? sheet_of_tries(options, files)
                                                      : sheet_of_scenes(options, io, files),
                fmt::format("{} tries of {}", options.vary.values.size(), options.vary.key),
                written);
  } else if (!only_parts) {
    const std::vector<Row> rows = rows_of(options, loaded);
    table_of_discs(loaded, rows, json, text);
    write_sheet(names, sheet_over_frame(loaded, rows), "discs over the frame", written);
    text += '\n';
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
