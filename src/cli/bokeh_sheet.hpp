// The rows and columns of a bokeh sheet, and what is said of its discs.
#pragma once

#include <array>
#include <string>
#include <vector>

#include "jolly_iris/bokeh.hpp"
#include "jolly_iris/labelled_sheet.hpp"
#include "verbs.hpp"

namespace jolly_iris::cli {

struct Column {
  const char* name;
  FramePlace place;
};
inline constexpr std::size_t corner = 0;
inline constexpr std::size_t half_way = 1;
inline constexpr std::size_t middle = 2;
inline constexpr std::array columns{Column{"upper left corner", {-0.97, 0.97}},
                                    Column{"half-way there", {-0.5, 0.5}},
                                    Column{"middle", {0.0, 0.0}}, Column{"right edge", {0.97, 0.0}},
                                    Column{"upper right corner", {0.97, 0.97}}};

/// Lights at one distance.
struct Row {
  std::string name{};
  Length z{};
};

/// What --at asks for; without it as much blur in front as infinity has, half of it, the focus, and
/// likewise behind. @throws UsageError for what is not in front of the camera
std::vector<Row> rows_of(const BokehOptions& o, const LoadedShot& loaded);
/// "boat, 2.35 m", or the distance alone.
std::string row_name(const Row& row);

/// "84 x 84 px", "-0.31 stops", "rim +0.50 stops".
std::string size_text(const BokehDisc& d);
std::string light_text(const BokehDisc& d);
std::string rim_text(double stops);
/// "7 blades, flattened by 1.2 %, 661.0 mm2 open, 1.00 times as high as wide, even".
std::string shape_text(const VirtualCamera& c);

/// Width or height of the largest disc of these rows, px of the picture.
double largest_of(const VirtualCamera& c, const std::vector<Row>& rows);
/// px of a sheet for one of the picture, so that the largest disc fits its room.
double sheet_scale(double largest_px, const SheetRoom& room);
/// A row of discs over the frame; drawn twice as fine as the sheet.
std::vector<SheetCell> row_of_discs(const VirtualCamera& c, Length z, double scale);

/// Discs over the frame, a row for each distance.
LabelledSheet sheet_over_frame(const LoadedShot& loaded, const std::vector<Row>& rows);

/// One of several lenses to compare.
struct LensTry {
  std::string name{};
  LoadedShot loaded;
};
/// Values of one key; or the shot's own lens and others, each on a gate that frames alike.
/// @throws UsageError for a lens that no gate can give the shot's framing
std::vector<LensTry> tries_of(const BokehOptions& o, std::vector<std::string>& files);
/// Focal length, gate and blur of each.
std::string table_of_lenses(const std::vector<LensTry>& tries);
/// All of them side by side: as discs, or as the scene.
LabelledSheet sheet_of_tries(const BokehOptions& o, const std::vector<LensTry>& tries,
                             const Streams& io, std::vector<std::string>& files);

}  // namespace jolly_iris::cli
