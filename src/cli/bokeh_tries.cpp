// bokeh --vary and --lenses: tries side by side.
#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <filesystem>
#include <optional>

#include "bokeh_sheet.hpp"
#include "jolly_iris/defocus.hpp"
#include "jolly_iris/errors.hpp"
#include "jolly_iris/picture_file.hpp"
#include "jolly_iris/sharpness.hpp"
#include "jolly_iris/trace.hpp"
#include "output.hpp"
#include "progress.hpp"
#include "text.hpp"

namespace jolly_iris::cli {

namespace {

// "lens.look = swirl" for a file's name, else as it was typed.
std::string value_text(const std::string& value) {
  std::string name = stem_of(value);
  for (const std::string_view kind : {".look", ".lens"}) {
    if (name.ends_with(kind)) name.resize(name.size() - kind.size());
  }
  return value.ends_with(".toml") ? name : value;
}

// How much of the world the picture shows across, at a distance of one.
double view_of(const LoadedShot& loaded) {
  return loaded.answer.camera.picture.width / loaded.answer.camera.focal;
}

LoadedShot with_tried(const BokehOptions& o, const std::vector<Tried>& tried,
                      std::vector<std::string>& files) {
  ShotOptions one = o.shot;
  one.tried.insert(one.tried.end(), tried.begin(), tried.end());
  return load(one, files);
}

// Another lens on a body whose gate is so much larger or smaller that the picture shows the same.
LensTry on_matched_gate(const BokehOptions& o, const LoadedShot& own, const std::string& lens,
                        std::vector<std::string>& files) {
  const std::string file = std::filesystem::absolute(lens).string();
  const Tried chosen{"lens", file};
  const LoadedShot plain = with_tried(o, {chosen}, files);
  const double times = view_of(own) / view_of(plain);
  const Extent& gate = plain.now.body.gate;
  const Tried matched{"body.gate", fmt::format("{:.9g} x {:.9g} mm", times * gate.width.mm(),
                                               times * gate.height.mm())};
  LensTry t{value_text(lens), with_tried(o, {chosen, matched}, files)};
  if (std::abs(view_of(t.loaded) / view_of(own) - 1.0) > 1e-3) {
    throw UsageError(fmt::format(
        "--lenses: the breathing of {} was measured as fields of view on one gate, so another gate "
        "cannot give it the framing of {}; give its breathing as focal lengths",
        lens, o.shot.shot));
  }
  return t;
}

std::string blades_text(const VirtualCamera& c) {
  const OpeningFigures f = opening_figures(c);
  return fmt::format("flat {:.1f} %", 100.0 * f.flattened);
}

std::string gate_text(const VirtualCamera& c) {
  return fmt::format("{:.1f} x {:.1f} mm", c.gate.width.mm(), c.gate.height.mm());
}

LabelledSheet discs(const BokehOptions& o, const std::vector<LensTry>& tries) {
  LabelledSheet sheet;
  for (const Column& column : columns) sheet.columns.emplace_back(column.name);
  const SheetRoom room = room_of_cell(tries.size(), columns.size(), true);
  double largest = 1.0;
  std::string at;
  std::vector<Length> distances;
  for (const LensTry& t : tries) {
    const std::vector<Row> rows =
        o.at.empty() ? std::vector<Row>{{"infinity", Length::infinity()}} : rows_of(o, t.loaded);
    distances.push_back(rows.front().z);
    at = rows.front().name;
    largest = std::max(largest, largest_of(t.loaded.answer.camera, {rows.front()}));
  }
  const double scale = sheet_scale(largest, room);
  sheet.subtitle = "A small light at " + at + ", tries from top to bottom.";
  sheet.foot =
      fmt::format("All at one scale: {:.1f} px of this sheet are one of the picture.", scale);
  for (std::size_t i = 0; i < tries.size(); ++i) {
    const VirtualCamera& c = tries[i].loaded.answer.camera;
    const OpeningFigures f = opening_figures(c);
    if (o.lenses.empty()) {
      sheet.rows.push_back({tries[i].name, fmt::format("{:.0f} mm2 open", f.area_mm2),
                            blades_text(c), rim_text(f.rim_stops)});
    } else {
      sheet.rows.push_back(
          {tries[i].name, fmt::format("{:.1f} mm, f/{:.3g}", c.focal.mm(), c.f_number),
           gate_text(c), fmt::format("{:.1f} mm open", 2.0 * c.aperture_radius.mm())});
    }
    sheet.cells.push_back(row_of_discs(c, distances[i], scale));
  }
  return sheet;
}

// The scene once for every try; as wide as fits the sheet.
LabelledSheet scenes(const BokehOptions& o, const std::vector<LensTry>& tries, const Streams& io,
                     std::vector<std::string>& files) {
  LabelledSheet sheet;
  const std::size_t n = tries.size();
  const auto across = static_cast<std::size_t>(std::ceil(std::sqrt(static_cast<double>(n))));
  const std::size_t down = (n + across - 1) / across;
  const SheetRoom room = room_of_cell(down, across, false);
  sheet.columns.assign(across, "");
  sheet.cells.resize(down);
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
    const LoadedShot& loaded = tries[i].loaded;
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
    const std::string blur = fmt::format("{:.1f} px at infinity",
                                         to_pixels(circle_of_confusion(c, Length::infinity()), c));
    sheet.cells[i / across].push_back(
        {picture,
         0.0,
         {o.lenses.empty() ? o.vary.key + " = " + tries[i].name : tries[i].name,
          o.lenses.empty() ? blur
                           : fmt::format("{:.1f} mm, f/{:.3g} on {}; {}", c.focal.mm(), c.f_number,
                                         gate_text(c), blur)}});
  }
  return sheet;
}

}  // namespace

std::vector<LensTry> tries_of(const BokehOptions& o, std::vector<std::string>& files) {
  std::vector<LensTry> tries;
  for (const std::string& value : o.vary.values) {
    tries.push_back({value_text(value), with_tried(o, {{o.vary.key, value}}, files)});
  }
  if (o.lenses.empty()) return tries;
  tries.push_back({"as in the shot", load(o.shot, files)});
  for (const std::string& lens : o.lenses) {
    tries.push_back(on_matched_gate(o, tries.front().loaded, lens, files));
  }
  return tries;
}

std::string table_of_lenses(const std::vector<LensTry>& tries) {
  std::string text = fmt::format("  {:<18}{:>10}{:>9}   {:<18}{:>9}{:>16}\n", "lens", "focal",
                                 "f-number", "gate framing alike", "opening", "px at infinity");
  for (const LensTry& t : tries) {
    const VirtualCamera& c = t.loaded.answer.camera;
    text += fmt::format("  {}{:>10}{:>9}   {:<18}{:>9}{:>16.1f}\n", padded(t.name, 18),
                        fmt::format("{:.1f} mm", c.focal.mm()), fmt::format("f/{:.3g}", c.f_number),
                        gate_text(c), fmt::format("{:.1f} mm", 2.0 * c.aperture_radius.mm()),
                        to_pixels(circle_of_confusion(c, Length::infinity()), c));
  }
  return text + '\n';
}

LabelledSheet sheet_of_tries(const BokehOptions& o, const std::vector<LensTry>& tries,
                             const Streams& io, std::vector<std::string>& files) {
  LabelledSheet sheet =
      o.as == BokehOptions::As::discs ? discs(o, tries) : scenes(o, tries, io, files);
  sheet.title = fmt::format("{}: {}", stem_of(o.shot.shot),
                            o.lenses.empty() ? o.vary.key : "lenses, framed alike");
  return sheet;
}

}  // namespace jolly_iris::cli
