// One disc fitted to the pixels around it: a rendered opening on a sloping ground, softened,
// clipped, with the light of its neighbours added.
#pragma once

#include <array>
#include <optional>
#include <stop_token>
#include <vector>

#include "disc_search.hpp"
#include "drawn_disc.hpp"
#include "edge_line.hpp"
#include "edge_posterior.hpp"
#include "jolly_iris/picture/picture.hpp"
#include "luma_model.hpp"

namespace jolly_iris::measuring {

/// How far the edge is off the drawn one, direction by direction.
inline constexpr int profile_bins = 96;
struct EdgeProfile {
  std::array<double, profile_bins>
      radius{};  ///< where the edge is, half heights, as the iris stands
  std::array<double, profile_bins> weight{};  ///< 1 / variance; 0 where nothing tells
};

struct FittedDisc {
  DrawnDisc disc{};
  std::array<bool, 3> cut{};  ///< which channels of it are clipped
  bool clipped() const { return cut[0] || cut[1] || cut[2]; }
  bool good = false;
  double noise = 0.0;  ///< deviation of what is left over, robust
  double height_sigma = 0.0;
  double aspect_sigma = 0.0;
  /// Of its height, where it is clipped: what its lamp's brightness and size leave open, and what
  /// the plate's kernel does, of all discs alike.
  double lamp_sigma_px = 0.0;
  double kernel_sigma_px = 0.0;
  double edge_falloff_sigma = 0.0;
  double contrast_sigma = 0.0;
  EdgeProfile profile{};
  std::array<double, 3> light{};      ///< value × area by channel
  std::array<double, 3> shares{};     ///< of its light by channel, against the contrast
  std::array<double, 2> fringe_px{};  ///< red and blue against green
  double left_over = 0.0;             ///< deviation near the edge against `noise`
  /// How many times more what is left over varies from one part of the edge to the next than
  /// independent noise would, as a variance.
  double scatter = 1.0;
  EdgeLine line{};  ///< across its edge
};

/// A kernel that the plate may have, and how likely that is against the others.
struct LikelyKernel {
  const EdgeTable* edges = &usual_kernel();
  double weight = 1.0;
  double doubt = 1.0;  ///< the same for margins, which unlikelier ones widen
};

struct FitSettings {
  LumaModel look{};                       ///< at the plate's pixels
  std::optional<double> aspect{};         ///< width / height: held
  std::vector<LikelyKernel> kernels{{}};  ///< of the plate, the likeliest first; not empty
  std::optional<LampSize> lamp{};         ///< where the plate's other lamps tell it
  double codec = 0.0;      ///< how far off it leaves values all along an edge, deviation
  bool rim = false;        ///< whether it is looked for
  bool again = false;      ///< the start is a fit already
  bool quick = false;      ///< then: one round is enough, others follow
  std::stop_token stop{};  ///< asked before each disc
  bool lights = false;     ///< then: whether it is looked for how bright a clipped lamp was

  const EdgeTable& edges() const { return *kernels.front().edges; }
};

/// @param seen the plate as `settings.look` sees it
/// @param others discs whose light is part of the picture, all with this shape
FittedDisc fit_disc(const Picture& plate, const GreyImage& seen, const DrawnDisc& start,
                    const BladeShape& shape, const std::vector<const DrawnDisc*>& others,
                    const std::vector<std::array<double, 3>>& others_by_channel,
                    const FitSettings& settings);

}  // namespace jolly_iris::measuring
