// Discs: the iris's outline at the size of a circle of confusion, as pixel weights.
#pragma once

#include <memory>
#include <vector>

#include "jolly_iris/opening.hpp"

namespace jolly_iris::blur {

/// A disc around a pixel's centre: per row a run of weights, all weights together 1. Each weight is
/// the exact area of the outline within that pixel.
struct Disc {
  struct Row {
    int x = 0;      ///< first pixel, relative to the centre
    int first = 0;  ///< index of its weight
    int count = 0;
  };
  int top = 0;  ///< first row, relative to the centre
  std::vector<Row> rows{};
  std::vector<float> weights{};

  int bottom() const { return top + static_cast<int>(rows.size()); }
};

/// @param coc_px signed diameter: negative turns the shape by 180°
/// @param aspect width of the pupil against its height
Disc make_disc(const Opening& opening, double coc_px, double aspect);

/// Discs of all sizes a picture needs, in steps too fine to see: 0.8 % of the diameter for large
/// discs, 0.016 px for small ones.
class DiscSet {
 public:
  DiscSet(const Opening& opening, double aspect) : opening_(opening), aspect_(aspect) {}

  /// Number of the step a CoC falls on; the same number, the same disc.
  static int step(double coc_px);
  static double coc_of(int step);

  /// Makes the discs of these steps (in parallel); steps may repeat.
  void prepare(const std::vector<int>& steps);
  const Disc& at(int step) const { return *discs_[static_cast<std::size_t>(step - first_)]; }
  /// How far the largest prepared disc reaches from its centre, in px.
  int reach() const { return reach_; }

 private:
  Opening opening_;
  double aspect_;
  int first_ = 0;
  int reach_ = 0;
  std::vector<std::unique_ptr<Disc>> discs_;
};

}  // namespace jolly_iris::blur
