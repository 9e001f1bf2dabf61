// All discs and the iris, in turns: each round knows the other's last answer.
#pragma once

#include <optional>
#include <vector>

#include "disc_size.hpp"
#include "fit_together.hpp"
#include "jolly_iris/measure/discs.hpp"
#include "jolly_iris/optics/execution.hpp"
#include "plate_iris.hpp"
#include "plate_look.hpp"
#include "plate_vignetting.hpp"

namespace jolly_iris::measuring {

struct Fitted {
  std::vector<DiscItem> items{};
  std::vector<PooledDisc> pooled{};  ///< of each
  PlateIris iris{};
  BladeShape shape{};
  FoundVignetting vignetting{};
  SizeDoubt doubt{};
  std::vector<LikelyKernel> kernels{};  ///< of the plate, as far as its discs tell it
};

/// @param items where discs were seen
/// @param known of another frame; none: it is looked for
/// @param rejected those that turned out to be none are added, with the reason
Fitted fit_in_turns(const Picture& plate, std::vector<DiscItem> items,
                    std::optional<double> clipped_at, std::vector<RejectedDisc>& rejected,
                    const PlateLook* known, const Execution& execution);

}  // namespace jolly_iris::measuring
