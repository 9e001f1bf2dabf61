// What changes the light of discs by their place: vignetting, and a free colouring.
#pragma once

#include <array>
#include <vector>

#include "disc_table.hpp"
#include "jolly_iris/camera.hpp"

namespace jolly_iris::blur {

/// The optical vignetting all over the frame, between the knots of a grid.
class Vignette {
 public:
  /// @param nearest 1/m of what is nearest in the frame
  Vignette(const DiscMaker& maker, const GateMap& map, PixelSize size, double nearest);
  /// Whether it is 1 everywhere.
  bool none() const { return knots_.empty(); }

  static constexpr int columns = 33;
  static constexpr int rows = 25;
  static constexpr int depths = 3;
  /// One line of the picture, at every column of knots and every depth.
  using Row = std::array<std::array<float, depths>, columns>;
  Row row(double y) const;
  float at(const Row& row, double x, double inverse_z) const;

 private:
  PixelSize size_;
  double nearest_;
  std::vector<float> knots_{};
};

/// The colour of discs all over the frame, between the knots of a grid.
class Colouring {
 public:
  Colouring(const VirtualCamera& camera, const GateMap& map, PixelSize size);
  bool none() const { return knots_.empty(); }
  /// For a disc of so many px.
  std::array<float, 3> at(double x, double y, double coc_px) const;

 private:
  static constexpr int columns = 65;
  static constexpr int rows = 49;
  PixelSize size_;
  std::vector<std::array<float, 3>> knots_{};
};

}  // namespace jolly_iris::blur
