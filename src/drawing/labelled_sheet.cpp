#include "jolly_iris/labelled_sheet.hpp"

#include "backend.hpp"
#include "cairo_module.hpp"
#include "jolly_iris/errors.hpp"
#include "labelled_room.hpp"

namespace jolly_iris {

namespace {
void check(const LabelledSheet& sheet) {
  bool good = !sheet.cells.empty() && !sheet.columns.empty() &&
              (sheet.rows.empty() || sheet.rows.size() == sheet.cells.size());
  for (const auto& row : sheet.cells) good = good && row.size() == sheet.columns.size();
  if (!good) throw UsageError("a sheet has as many pictures as names, and at least one");
}
}  // namespace

SheetRoom room_of_cell(std::size_t rows, std::size_t columns, bool row_names) {
  using namespace drawing::labelled;
  const double left = row_names ? names_wide : margin;
  return {(wide - left - margin) / static_cast<double>(columns) - gap,
          (high - top - bottom) / static_cast<double>(rows) - gap - words_high};
}

std::string labelled_png(const LabelledSheet& sheet) {
  check(sheet);
  return drawing::cairo_module().labelled_png(sheet);
}

std::string labelled_svg(const LabelledSheet& sheet) {
  check(sheet);
  return drawing::cairo_module().labelled_svg(sheet);
}

}  // namespace jolly_iris
