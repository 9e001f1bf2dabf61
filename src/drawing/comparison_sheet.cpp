// The reference and all tries of it, each with what made it and how it differs.
#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "drawing/result_sheets.hpp"
#include "jolly_iris/picture/warp.hpp"
#include "report/text.hpp"

namespace jolly_iris {

LabelledSheet comparison_sheet(const PlateComparison& comparison) {
  std::vector<SheetCell> cells{{comparison.picture, 0.0, {comparison.reference, ""}}};
  for (std::size_t i = 0; i < comparison.tries.size(); ++i) {
    const TriedPicture& t = comparison.tries[i];
    const ImageComparison& like = comparison.likes[i];
    std::string words = report::decibels(like.psnr_db);
    if (like.larger.margin > 0.0) {
      words += fmt::format(", discs {:+.1f} %", 100.0 * like.larger.value);
    }
    if (!t.origin.made_with.empty()) words = fmt::format("{} · {}", t.origin.made_with, words);
    cells.push_back({t.frame.colour, 0.0, {report::file_name(t.file), words}});
  }
  const SheetGrid grid = grid_of(cells.size());
  const SheetRoom room = room_of_cell(grid.down, grid.across, false);
  for (SheetCell& c : cells) {
    c.picture = shrunk(c.picture, std::max(16, static_cast<int>(room.width)));
  }
  LabelledSheet sheet;
  sheet.title = fmt::format("{} tries", comparison.tries.size());
  sheet.subtitle = "against " + comparison.reference;
  sheet.foot = "Each with what made it, as its file says; dB and discs are against " +
               comparison.reference + ".";
  lay_out(std::move(cells), grid, sheet);
  return sheet;
}

}  // namespace jolly_iris
