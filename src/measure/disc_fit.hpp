// One disc fitted to the pixels around it: a rendered opening on a sloping ground, softened,
// clipped, with the light of its neighbours added.
#pragma once

#include <array>
#include <optional>
#include <vector>

#include "blade_shape.hpp"
#include "disc_search.hpp"
#include "jolly_iris/picture.hpp"

namespace jolly_iris::measuring {

/// A disc as it is drawn. Lengths are px of the plate.
struct DrawnDisc {
  double x = 0.0;
  double y = 0.0;
  double high = 20.0;
  double aspect = 1.0;    ///< width / height
  double contrast = 1.0;  ///< of its even part above the ground
  double rim = 0.0;       ///< stops
  double ground = 0.0;
  double ground_x = 0.0;  ///< change of the ground over half the height
  double ground_y = 0.0;
  double soft = 0.5;   ///< deviation of the blur of its edge
  double bell = 0.45;  ///< the part of it that all edges of the plate have
  bool turned = false;
};

/// Where a pixel lies against a disc's outline.
struct Against {
  double inside = 0.0;        ///< px within the edge, along its normal
  double u = 0.0, v = 0.0;    ///< half heights/widths from the middle, y up, as the iris stands
  double fu = 0.0, fv = 0.0;  ///< slope of (radius − outline) there
  double slope = 1.0;         ///< of the same, per px
  double share = 0.0;         ///< radius against the outline's
};
Against against(const DrawnDisc& disc, const BladeShape& shape, double x, double y);

/// The disc's own light at a pixel's middle, without the ground.
double light_at(const DrawnDisc& disc, const BladeShape& shape, double x, double y);

/// How far the edge is off the drawn one, direction by direction.
inline constexpr int profile_bins = 96;
struct EdgeProfile {
  std::array<double, profile_bins>
      radius{};  ///< where the edge is, half heights, as the iris stands
  std::array<double, profile_bins> weight{};  ///< 1 / variance; 0 where nothing tells
};

struct FittedDisc {
  DrawnDisc disc{};
  std::array<double, 3> channels{};  ///< whose sum was fitted
  bool clipped = false;
  bool good = false;
  double noise = 0.0;  ///< deviation of what is left over, robust
  double high_sigma = 0.0;
  double aspect_sigma = 0.0;
  double rim_sigma = 0.0;
  double contrast_sigma = 0.0;
  EdgeProfile profile{};
  std::array<double, 3> light{};      ///< value × area by channel
  std::array<double, 2> fringe_px{};  ///< red and blue against green
  double left_over = 0.0;             ///< deviation near the edge against `noise`
};

struct FitSettings {
  std::optional<double> clipped_at{};
  std::optional<double> aspect{};  ///< held
  double bell = 0.45;              ///< softness that all edges of the plate have, px
  bool rim = false;                ///< whether it is looked for
  bool again = false;              ///< the start is a fit already
  bool quick = false;              ///< then: one round is enough, others follow
  bool lights = false;             ///< then: whether it is looked for how bright a clipped lamp was
};

/// @param others discs whose light is part of the picture, all with this shape
FittedDisc fit_disc(const Picture& plate, const DrawnDisc& start, const BladeShape& shape,
                    const std::vector<const DrawnDisc*>& others,
                    const std::vector<std::array<double, 3>>& others_by_channel,
                    const FitSettings& settings);

}  // namespace jolly_iris::measuring
