// What changes the light of discs by their place: vignetting, and a free colouring.
#pragma once

#include <algorithm>
#include <array>
#include <vector>

#include "disc_table.hpp"
#include "jolly_iris/optics/camera.hpp"

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
  float at(const Row& row, float x, float inverse_z) const {
    const float kx = std::clamp(x * columns_a_px_, 0.0F, columns - 1.001F);
    const float kz = std::clamp(inverse_z * depths_a_dioptre_, 0.0F, depths - 1.001F);
    const auto i = static_cast<std::size_t>(kx);
    const auto d = static_cast<std::size_t>(kz);
    const float fx = kx - static_cast<float>(i);
    const float fz = kz - static_cast<float>(d);
    const float* a = row[i].data() + d;
    const float* b = row[i + 1].data() + d;
    const float near = a[0] + fx * (b[0] - a[0]);
    const float far = a[1] + fx * (b[1] - a[1]);
    return near + fz * (far - near);
  }

 private:
  PixelSize size_;
  double nearest_;
  float columns_a_px_;
  float depths_a_dioptre_;
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
