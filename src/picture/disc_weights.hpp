// Discs as pixel weights.
#pragma once

#include <array>
#include <vector>

namespace jolly_iris::blur {

/// A disc around a pixel's centre, its weights together 1.
///
/// Where light is the same all over the opening, a row is told by where its weight *changes*: few
/// numbers, and a run of pixels with the same disc adds up as differences. Otherwise every weight
/// is told.
struct Disc {
  struct Row {
    int first = 0;  ///< index of its first tap
    int count = 0;
  };
  struct Tap {
    int x = 0;          ///< relative to the centre
    float step = 0.0F;  ///< change of the weight against the pixel to its left; or the weight
  };
  int top = 0;  ///< first row, relative to the centre
  std::vector<Row> rows{};
  std::vector<Tap> taps{};
  bool changes = true;  ///< whether taps are changes
  /// Red, green and blue of each tap, where the opening colours the light (mean 1 of the three).
  std::vector<std::array<float, 3>> tint{};

  int bottom() const { return top + static_cast<int>(rows.size()); }
  /// How far it reaches to a side or up, px.
  int reach() const;
};

/// Weights of a row from its first pixel on, whichever way they are told.
/// @return x of the first pixel
int weights_of_row(const Disc& disc, std::size_t row, std::vector<float>& weights);

/// A disc of all weights of a box around the centre's pixel, (2 reach_x + 1) × (2 reach_y + 1) of
/// them from the upper left; red, green and blue.
Disc disc_of(int reach_x, int reach_y, const std::vector<std::array<double, 3>>& light);
/// All in one pixel.
Disc point_disc(bool changes);

}  // namespace jolly_iris::blur
