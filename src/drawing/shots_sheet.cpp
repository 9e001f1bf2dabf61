// All cameras of a show with their plates, as a sheet.
#include <fmt/format.h>

#include <algorithm>

#include "drawing/result_sheets.hpp"
#include "jolly_iris/picture/warp.hpp"
#include "jolly_iris/picture_files/picture_file.hpp"
#include "jolly_iris/workflow/frame_run.hpp"
#include "jolly_iris/workflow/trace_run.hpp"

namespace jolly_iris {

namespace {

constexpr std::size_t most_cells = 30;  // more would be too small to read
constexpr int thumbnail_px = 320;

std::string figures_of(const ShotList& list, const ShotRow& row) {
  if (row.cells.empty()) return "cannot be read";
  std::string text;
  for (const char* key : {"lens", "take.stop", "focus_m", "infinity_px"}) {
    const auto at = list.column(key);
    if (!at || row.cells[*at].text.empty()) continue;
    const std::string& value = row.cells[*at].text;
    const std::string name(key);
    const char* unit = name == "focus_m" ? " m" : name == "infinity_px" ? " px" : "";
    text += (text.empty() ? "" : " · ") + value + (value == "infinity" ? "" : unit);
  }
  return text;
}

Picture plate_of(const ShotRow& row) {
  const Frame frame = read_picture(row.plate);
  return frame.colour.width() > thumbnail_px ? shrunk(frame.colour, thumbnail_px) : frame.colour;
}

// The scene as the shot's lens sees it, where there is no plate; empty without one.
Picture seen_by(const ShotRow& row) {
  ShotRequest request{.file = row.file};
  if (!row.variant.empty()) request.overrides.push_back({"variant", row.variant, "variant"});
  if (!row.camera.empty()) request.overrides.push_back({"scene.camera", row.camera, "camera"});
  std::vector<std::string> files;
  const LoadedShot loaded = open_shot(request, files);
  if (!loaded.scene) return {};
  TraceRequest wanted;
  wanted.settings.samples = 16;
  const PixelSize full = loaded.answer.camera.pixels;
  wanted.settings.size =
      PixelSize{thumbnail_px, std::max(1, thumbnail_px * full.height / full.width)};
  return trace_frame(wanted, loaded).made.frame.colour;
}

}  // namespace

std::vector<SheetCell> shot_pictures(const ShotList& list, std::vector<std::string>& notes,
                                     const Execution& execution) {
  std::vector<SheetCell> out(list.rows.size());
  std::vector<double> numbers;
  for (std::size_t i = 0; i < list.rows.size(); ++i) {
    out[i].lines = {list.rows[i].name, figures_of(list, list.rows[i])};
    numbers.push_back(static_cast<double>(i));
  }
  const auto failed = for_each_frame(
      numbers, FrameOrder::side_by_side, true,
      [&](std::size_t i, const Execution&) -> std::size_t {
        const ShotRow& row = list.rows[i];
        if (row.cells.empty()) return 0;
        out[i].picture = row.plate.empty() ? seen_by(row) : plate_of(row);
        return out[i].picture.pixels().size();
      },
      execution);
  for (const FrameFailure& f : failed) {
    notes.push_back(fmt::format("{}: its plate is not shown: {}",
                                list.rows[static_cast<std::size_t>(f.frame)].name, f.message));
  }
  return out;
}

LabelledSheet shots_sheet(const ShotList& list, const std::vector<SheetCell>& pictures) {
  std::vector<SheetCell> cells(
      pictures.begin(),
      pictures.begin() + static_cast<std::ptrdiff_t>(std::min(pictures.size(), most_cells)));
  const SheetGrid layout = grid_of(cells.size());
  const SheetRoom room = room_of_cell(layout.down, layout.across, false);
  const int cell_px = std::max(16, static_cast<int>(room.width));
  for (SheetCell& c : cells) {
    if (c.picture.pixels().empty()) {
      c.picture = Picture({cell_px, cell_px / 2}, {0.2F, 0.2F, 0.2F, 1.0F});
    } else if (c.picture.width() > cell_px) {
      c.picture = shrunk(c.picture, cell_px);
    }
  }
  LabelledSheet sheet;
  sheet.title = fmt::format("{} shots", list.rows.size());
  sheet.subtitle = cells.size() < pictures.size()
                       ? fmt::format("the first {} of them", most_cells)
                       : "focal length · stop · focus · blur at infinity";
  sheet.foot =
      "The plate, else the scene as that lens sees it. Stops and focal lengths are those marked on "
      "the lens.";
  lay_out(std::move(cells), layout, sheet);
  return sheet;
}

}  // namespace jolly_iris
