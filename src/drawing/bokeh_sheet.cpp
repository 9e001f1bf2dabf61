// Discs over the frame, and tries of lenses beside each other.
#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "drawing/result_sheets.hpp"
#include "jolly_iris/optics/sharpness.hpp"
#include "jolly_iris/workflow/shot_glass.hpp"
#include "report/bokeh_report.hpp"
#include "report/text.hpp"

namespace jolly_iris {

namespace {

constexpr float sheet_level = 0.45F;  // of an even disc's light on a sheet: rims have room above
constexpr double largest_fraction = 0.9;  // of its room that the largest disc of a sheet takes

Picture toned(Picture p) {
  for (Rgba& v : p.pixels()) {
    for (std::size_t c = 0; c < 3; ++c) v[c] *= sheet_level;
  }
  return p;
}

// px of a sheet for one of the picture, so that the largest disc fits its room.
double sheet_scale(double largest_px, const SheetRoom& room) {
  return largest_fraction * std::min(room.width, room.height) / std::max(largest_px, 1.0);
}

// A row of discs over the frame; drawn twice as fine as the sheet.
std::vector<SheetCell> row_of_discs(const VirtualCamera& c, Length z, double scale,
                                    const GlassCamera* glass) {
  std::vector<SheetCell> cells;
  for (const DiscColumn& column : disc_columns) {
    // Its numbers are those that the text has: of the disc in the picture's own pixels.
    const BokehDisc d = bokeh_disc(c, column.place, z, 1.0, glass);
    const bool point = std::abs(d.coc_px) < 0.75 && glass == nullptr;
    cells.push_back(
        {toned(bokeh_disc(c, column.place, z, 2.0 * scale, glass).picture),
         point ? 2.0 : 0.5,
         {point ? std::string("a point") : report::size_text(d), report::light_text(d)}});
  }
  return cells;
}

std::string title_of(const LensTries& tries) {
  return fmt::format("{}: {}", report::stem_of(tries.shot),
                     tries.whole_lenses() ? "lenses, framed alike" : tries.key);
}

}  // namespace

LabelledSheet discs_sheet(const LoadedShot& loaded, const std::vector<DiscRow>& rows) {
  const VirtualCamera& c = loaded.answer.camera;
  LabelledSheet sheet;
  sheet.title = fmt::format("{}: a small light out of focus", report::stem_of(loaded.shot.file));
  sheet.subtitle = report::shape_text(c);
  if (c.squeeze != 1.0) {
    sheet.subtitle += fmt::format("; squeezed {:.4g} x at this focus", c.squeeze);
  }
  const std::shared_ptr<const GlassCamera> glass = glass_for_discs(loaded);
  const double largest = largest_disc(c, rows, glass.get());
  const SheetRoom room = room_of_cell(rows.size(), disc_columns.size(), true);
  const double scale = sheet_scale(largest, room);
  sheet.foot = fmt::format(
      "All at one scale: {:.1f} px of this sheet are one of the {} x {} picture. Brightness: as "
      "bright "
      "as each disc's light is for its size.",
      scale, c.pixels.width, c.pixels.height);
  for (const DiscColumn& column : disc_columns) sheet.columns.emplace_back(column.name);
  for (const DiscRow& row : rows) {
    const double coc = to_pixels(circle_of_confusion(c, row.z), c);
    sheet.rows.push_back({metres_text(row.z), row.name == metres_text(row.z) ? "" : row.name,
                          fmt::format("CoC {:+.1f} px", coc)});
    sheet.cells.push_back(row_of_discs(c, row.z, scale, glass.get()));
  }
  return sheet;
}

LabelledSheet tries_sheet(const LensTries& tries, const std::vector<DiscRow>& rows) {
  LabelledSheet sheet;
  sheet.title = title_of(tries);
  for (const DiscColumn& column : disc_columns) sheet.columns.emplace_back(column.name);
  const SheetRoom room = room_of_cell(rows.size(), disc_columns.size(), true);
  const std::size_t each = rows.size() / tries.tries.size();
  double largest = 1.0;
  std::vector<std::shared_ptr<const GlassCamera>> glasses;  // one a try
  for (std::size_t i = 0; i < rows.size(); ++i) {
    if (i % each == 0) glasses.push_back(glass_for_discs(tries.tries[i / each].loaded));
    largest = std::max(largest, largest_disc(tries.tries[i / each].loaded.answer.camera, {rows[i]},
                                             glasses.back().get()));
  }
  const double scale = sheet_scale(largest, room);
  sheet.subtitle =
      each == 1 ? "A small light at " + rows.back().name + ", tries from top to bottom."
                : std::string("Small lights at several distances, tries from top to bottom.");
  sheet.foot =
      fmt::format("All at one scale: {:.1f} px of this sheet are one of the picture.", scale);
  for (std::size_t i = 0; i < rows.size(); ++i) {
    const LensTry& one = tries.tries[i / each];
    const VirtualCamera& c = one.loaded.answer.camera;
    const OpeningFigures f = opening_figures(c);
    const std::string name = each == 1 ? one.name : one.name + ", " + rows[i].name;
    if (tries.whole_lenses()) {
      sheet.rows.push_back({name, fmt::format("{:.1f} mm, f/{:.3g}", c.focal.mm(), c.f_number),
                            report::gate_text(c),
                            fmt::format("{:.1f} mm open", 2.0 * c.aperture_radius.mm())});
    } else {
      sheet.rows.push_back({name, fmt::format("{:.0f} mm2 open", f.area_mm2),
                            fmt::format("flat {:.1f} %", 100.0 * f.flattened),
                            report::rim_text(f.edge_falloff_stops)});
    }
    sheet.cells.push_back(row_of_discs(c, rows[i].z, scale, glasses[i / each].get()));
  }
  return sheet;
}

SheetGrid grid_of(std::size_t cells) {
  const auto across = static_cast<std::size_t>(std::ceil(std::sqrt(static_cast<double>(cells))));
  return {across, (cells + across - 1) / across};
}

void lay_out(std::vector<SheetCell> cells, const SheetGrid& grid, LabelledSheet& sheet) {
  cells.resize(grid.across * grid.down);
  sheet.columns.assign(grid.across, "");
  for (std::size_t row = 0; row < grid.down; ++row) {
    const auto first = cells.begin() + static_cast<std::ptrdiff_t>(row * grid.across);
    sheet.cells.emplace_back(first, first + static_cast<std::ptrdiff_t>(grid.across));
  }
}

SheetRoom room_of_try(std::size_t tries) {
  const SheetGrid grid = grid_of(tries);
  return room_of_cell(grid.down, grid.across, false);
}

LabelledSheet tries_sheet(const LensTries& tries, const TriedScenes& scenes) {
  LabelledSheet sheet;
  sheet.title = title_of(tries);
  const SheetGrid grid = grid_of(tries.tries.size());
  sheet.columns.assign(grid.across, "");
  sheet.cells.assign(grid.down, std::vector<SheetCell>(grid.across));
  sheet.subtitle =
      scenes.traced ? "The scene, traced through each lens" : "The scene, defocused by each lens";
  if (tries.variants()) {
    sheet.subtitle = scenes.traced ? "The scene, traced" : "The scene, defocused";
    sheet.subtitle +=
        ", finished, and as bright and as white as each variant exposes it, against "
        "the first.";
  }
  for (std::size_t i = 0; i < tries.tries.size(); ++i) {
    const LensTry& t = tries.tries[i];
    const VirtualCamera& c = t.loaded.answer.camera;
    const std::string blur = fmt::format("{:.1f} px at infinity",
                                         to_pixels(circle_of_confusion(c, Length::infinity()), c));
    const std::string light =
        tries.variants() && i > 0 ? ", " + light_words(scenes.lights[i], t.loaded) : "";
    sheet.cells[i / grid.across][i % grid.across] = {
        scenes.pictures[i],
        0.0,
        {tries.whole_lenses() || (tries.variants() && i == 0) ? t.name : tries.key + " = " + t.name,
         tries.whole_lenses() ? fmt::format("{:.1f} mm, f/{:.3g} on {}; {}", c.focal.mm(),
                                            c.f_number, report::gate_text(c), blur)
                              : blur + light}};
  }
  return sheet;
}

}  // namespace jolly_iris
