#include "bokeh_sheet.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "jolly_iris/errors.hpp"
#include "jolly_iris/sharpness.hpp"
#include "output.hpp"
#include "text.hpp"

namespace jolly_iris::cli {

namespace {

constexpr float sheet_level = 0.45F;   // of an even disc's light on a sheet: rims have room above
constexpr double largest_share = 0.9;  // of its room that the largest disc of a sheet takes

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

Picture toned(Picture p) {
  for (Rgba& v : p.pixels()) {
    for (std::size_t c = 0; c < 3; ++c) v[c] *= sheet_level;
  }
  return p;
}

}  // namespace

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

std::string row_name(const Row& row) {
  const std::string far = row.z.is_infinite() ? std::string("infinity") : metres(row.z);
  return row.name == far ? far : row.name + ", " + far;
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

std::string shape_text(const VirtualCamera& c) {
  const OpeningFigures f = opening_figures(c);
  const std::string blades = !c.iris.outline.empty() ? std::string("a free outline")
                             : c.iris.blades == 0    ? std::string("round")
                                                     : fmt::format("{} blades", c.iris.blades);
  return fmt::format("{}, flattened by {:.1f} %, {:.1f} mm2 open, {:.2f} times as high as wide, {}",
                     blades, 100.0 * f.flattened, f.area_mm2, f.height_over_width,
                     rim_text(f.rim_stops));
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

double sheet_scale(double largest_px, const SheetRoom& room) {
  return largest_share * std::min(room.width, room.height) / std::max(largest_px, 1.0);
}

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

LabelledSheet sheet_over_frame(const LoadedShot& loaded, const std::vector<Row>& rows) {
  const VirtualCamera& c = loaded.answer.camera;
  LabelledSheet sheet;
  sheet.title = fmt::format("{}: a small light out of focus", stem_of(loaded.shot.file));
  sheet.subtitle = shape_text(c);
  if (c.squeeze != 1.0) {
    sheet.subtitle += fmt::format("; squeezed {:.4g} x at this focus", c.squeeze);
  }
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

}  // namespace jolly_iris::cli
