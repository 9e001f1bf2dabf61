#include "jolly_iris/drawing/labelled_sheet.hpp"

#include "labelled_room.hpp"
#include "palette.hpp"

namespace jolly_iris {

SheetRoom room_of_cell(std::size_t rows, std::size_t columns, bool row_names) {
  using namespace drawing::labelled;
  const double left = row_names ? names_width : margin;
  return {(drawing::sheet_width - left - margin) / static_cast<double>(columns) - gap,
          (drawing::sheet_height - top - bottom) / static_cast<double>(rows) - gap - words_height};
}

}  // namespace jolly_iris
