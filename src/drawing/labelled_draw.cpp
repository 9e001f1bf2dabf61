#include "jolly_iris/drawing/labelled_sheet.hpp"

#include <algorithm>
#include <cmath>

#include "jolly_iris/optics/errors.hpp"
#include "labelled_room.hpp"
#include "palette.hpp"
#include "shown.hpp"

namespace jolly_iris {

using namespace drawing;

namespace {

using namespace labelled;

std::vector<Spot> box(double x, double y, double w, double h) {
  return {{x, y}, {x + w, y}, {x + w, y + h}, {x, y + h}};
}

void cell(Canvas& canvas, const SheetCell& c, double x, double y, const SheetRoom& room) {
  if (c.picture.empty()) return;  // a sheet's last row may have fewer
  canvas.fill(box(x, y, room.width, room.height), night);
  const double fits = std::min(room.width / c.picture.width(), room.height / c.picture.height());
  const double scale = c.scale > 0.0 ? c.scale : fits;
  const double w = scale * c.picture.width();
  const double h = scale * c.picture.height();
  canvas.only_within(x, y, room.width, room.height);
  canvas.picture(raster_of(c.picture), {x + 0.5 * (room.width - w), y + 0.5 * (room.height - h)},
                 w);
  canvas.whole();
  double line = y + room.height + 13.0;
  for (const std::string& words : c.lines) {
    canvas.text({x + 0.5 * room.width, line}, words, 11.5, ink, false, 0.5);
    line += 14.0;
  }
}

void check(const LabelledSheet& sheet) {
  bool good = !sheet.cells.empty() && !sheet.columns.empty() &&
              (sheet.rows.empty() || sheet.rows.size() == sheet.cells.size());
  for (const auto& row : sheet.cells) good = good && row.size() == sheet.columns.size();
  if (!good) throw UsageError("a sheet has as many pictures as names, and at least one");
}

std::string draw(const LabelledSheet& sheet, Canvas::Kind kind) {
  check(sheet);
  Canvas canvas(kind, static_cast<int>(sheet_width), static_cast<int>(sheet_height));
  canvas.fill(box(0, 0, sheet_width, sheet_height), paper);
  canvas.text({margin, 28}, sheet.title, 17, ink, true);
  canvas.text({margin, 49}, sheet.subtitle, 13, soft);
  canvas.text({margin, sheet_height - 10}, sheet.foot, 12, soft);
  const bool names = !sheet.rows.empty();
  const SheetRoom room = room_of_cell(sheet.cells.size(), sheet.columns.size(), names);
  const double left = names ? names_width : margin;
  for (std::size_t i = 0; i < sheet.columns.size(); ++i) {
    const double x = left + static_cast<double>(i) * (room.width + gap);
    canvas.text({x + 0.5 * room.width, top - 8}, sheet.columns[i], 12.5, ink, true, 0.5);
  }
  for (std::size_t j = 0; j < sheet.cells.size(); ++j) {
    const double y = top + static_cast<double>(j) * (room.height + gap + words_height);
    if (names) {
      double line = y + 18.0;
      for (std::size_t k = 0; k < sheet.rows[j].size(); ++k) {
        canvas.text({margin, line}, sheet.rows[j][k], k == 0 ? 13.0 : 11.5, k == 0 ? ink : soft,
                    k == 0);
        line += 16.0;
      }
    }
    for (std::size_t i = 0; i < sheet.cells[j].size(); ++i) {
      cell(canvas, sheet.cells[j][i], left + static_cast<double>(i) * (room.width + gap), y, room);
    }
  }
  return canvas.bytes();
}

}  // namespace

std::string labelled_png(const LabelledSheet& sheet) { return draw(sheet, Canvas::Kind::png); }
std::string labelled_svg(const LabelledSheet& sheet) { return draw(sheet, Canvas::Kind::svg); }

}  // namespace jolly_iris
