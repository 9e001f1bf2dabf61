// Pictures side by side in rows and columns, each with its words: discs over the frame and at
// several distances, or tries of one value.
#pragma once

#include <string>
#include <vector>

#include "jolly_iris/export.hpp"
#include "jolly_iris/picture/picture.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

struct SheetCell {
  Picture picture{};                 ///< linear light; drawn at `scale` px a pixel, centred
  double scale = 0.0;                ///< 0: as large as fits
  std::vector<std::string> lines{};  ///< up to two, under it
};

struct LabelledSheet {
  std::string title{};
  std::string subtitle{};
  std::string foot{};
  std::vector<std::string> columns{};
  std::vector<std::vector<std::string>> rows{};  ///< each row's words, line by line
  std::vector<std::vector<SheetCell>> cells{};   ///< by row, then column; as many as are named
};

/// Room of one cell's picture on the sheet, px.
struct SheetRoom {
  double width = 0.0;
  double height = 0.0;
};
SheetRoom room_of_cell(std::size_t rows, std::size_t columns, bool row_names);

/// The drawing, 1280 × 800. @return the file's bytes
/// @throws UsageError for a sheet without cells, or with another number of them than names
std::string labelled_png(const LabelledSheet& sheet);
std::string labelled_svg(const LabelledSheet& sheet);

}  // namespace jolly_iris
