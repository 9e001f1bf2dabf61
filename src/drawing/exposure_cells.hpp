// A picture as cells of like brightness: the terraces of the map of stops.
#pragma once

#include <cstdint>
#include <vector>

#include "canvas.hpp"
#include "jolly_iris/drawing/exposure_sheet.hpp"

namespace jolly_iris::drawing {

/// Terraces, in stops from mid-grey; what lies beyond counts to the last.
inline constexpr int lowest_band = -6;
inline constexpr int highest_band = 4;

/// A terrace's colour: rising lightness, ink below plain grey below cream.
Colour colour_of_band(int band);

/// What a cell shows.
enum class CellKind : std::uint8_t { stop, black, clipped, no_number };
struct Cell {
  CellKind kind = CellKind::stop;
  int band = 0;
  Rgb mean{};
};

struct Cells {
  int width = 0;
  int height = 0;
  std::vector<Cell> all{};
  const Cell& at(int x, int y) const {
    return all[static_cast<std::size_t>(y) * static_cast<std::size_t>(width) +
               static_cast<std::size_t>(x)];
  }
};

/// As many columns as that, but no more than the picture has, and at least one.
Cells cells_of(const ExposureSheet& sheet, int columns);

/// The colour of a px of the map, 0xRRGGBB. Patterns stand for themselves where colours cannot be
/// told apart: clipped is hatched, black dotted, what is no number chequered.
std::uint32_t painted(CellKind kind, int band, int x, int y);

/// The map, `width` px across; and the picture as sRGB shows it, a px a cell.
Raster map_of(const Cells& cells, int width);
Raster view_of(const Cells& cells);

}  // namespace jolly_iris::drawing
