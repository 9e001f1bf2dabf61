// Which fitted discs are none after all: eyes of letters, leaves, tiles, patches of light.
#pragma once

#include <optional>
#include <string_view>
#include <vector>

#include "fit_together.hpp"
#include "plate_iris.hpp"
#include "population.hpp"

namespace jolly_iris::measuring {

/// Judges a plate's discs against each other. Those that somebody named are only asked whether
/// they fit.
class Rejection {
 public:
  /// @param pooled of each item, in the same order
  /// What is refused for an outline of its own.
  static constexpr std::string_view other_outline = "its outline is not that of the plate's discs";
  /// The same where the plate's discs are hardly discs themselves.
  static constexpr std::string_view hardly_fits =
      "it hardly fits a disc, and no others of the plate vouch for it";

  /// @param kernel_px of the plate's edges
  Rejection(const Picture& plate, std::optional<double> clipped_at,
            const std::vector<DiscItem>& items, const std::vector<PooledDisc>& pooled,
            double kernel_px);

  /// A sentence; empty: it is a disc.
  std::string_view why(std::size_t item) const;

 private:
  bool fits_well(std::size_t item) const;
  bool found_better(std::size_t item) const;

  const Picture& plate_;
  std::optional<double> clipped_at_;
  const std::vector<DiscItem>& items_;
  const std::vector<PooledDisc>& pooled_;
  double kernel_px_;
  UsualDisc usual_{};
  bool vouched_ = false;
};

}  // namespace jolly_iris::measuring
