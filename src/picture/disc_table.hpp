// All discs a picture needs, made once each.
#pragma once

#include <cstdint>
#include <vector>

#include "disc.hpp"
#include "disc_store.hpp"
#include "jolly_iris/optics/sharpness.hpp"
#include "jolly_iris/optics/units.hpp"

namespace jolly_iris::blur {

/// Where the pixels of a frame are on the gate.
struct GateMap {
  double pixel_width = 0.0;  ///< m
  double pixel_height = 0.0;
  double axis_x = 0.0;  ///< px: where the picture shows the axis
  double axis_y = 0.0;
  DiscPlace place(double x, double y, double coc) const {
    return {(x - axis_x) * pixel_width, (axis_y - y) * pixel_height, coc, 1};
  }
};

/// A picture of any size: its width shows what the camera's picture shows, and its pixels have the
/// camera's proportions.
/// @param margin px that it has beyond what the camera's picture shows
GateMap gate_map(const VirtualCamera& camera, PixelSize size, const Margin& margin = {});

/// Discs by their step of CoC and, where the barrel cuts them, by their place: the frame is divided
/// into square cells, and each cell's middle stands for it. Lamps do not use it: each of them gets
/// a disc of its own, at its own place and size. Traced discs are dear: they stand for larger parts
/// of the frame, and for two steps each.
class DiscTable {
 public:
  static constexpr int cell_px = 64;

  /// @param step of every pixel, row by row
  /// @param store discs made before, and place for those made now; may be null
  DiscTable(const DiscMaker& maker, const GateMap& map, PixelSize size,
            const std::vector<std::int16_t>& step, std::size_t colour, DiscStore* store = nullptr);

  const std::vector<Disc>& discs() const { return discs_; }
  int reach() const { return reach_; }
  /// Index of the disc for a pixel. Columns of cells end at multiples of cell_px.
  int index(int x, int y, int step) const {
    return index_[slot(static_cast<std::size_t>(cell_of(x, y)), step)];
  }

 private:
  int cell_of(int x, int y) const { return cell_[at(x / cell_px, y / cell_px)]; }
  std::size_t at(int column, int row) const {
    return static_cast<std::size_t>(row) * static_cast<std::size_t>(columns_) +
           static_cast<std::size_t>(column);
  }
  std::size_t slot(std::size_t cell, int step) const {
    return cell * static_cast<std::size_t>(steps_) + static_cast<std::size_t>(step - first_);
  }

  int columns_ = 1;
  int first_ = 0;
  int steps_ = 1;
  std::vector<int> cell_{};   // 0: uncut, else 1 + number of a cut cell
  std::vector<int> index_{};  // by cell and step
  std::vector<Disc> discs_{};
  int reach_ = 0;
};

}  // namespace jolly_iris::blur
