// All discs and the iris, in turns: each round knows the other's last answer.
#pragma once

#include <optional>
#include <vector>

#include "disc_size.hpp"
#include "fit_together.hpp"
#include "jolly_iris/measure/discs.hpp"
#include "jolly_iris/optics/execution.hpp"
#include "plate_iris.hpp"
#include "plate_vignetting.hpp"

namespace jolly_iris::measuring {

struct Fitted {
  std::vector<DiscItem> items{};
  std::vector<PooledDisc> pooled{};  ///< of each
  PlateIris iris{};
  BladeShape shape{};
  FoundVignetting vignetting{};
  SizeDoubt doubt{};
};

/// @param items where discs were seen
/// @param rejected those that turned out to be none are added, with the reason
Fitted fit_in_turns(const Picture& plate, std::vector<DiscItem> items,
                    std::optional<double> clipped_at, std::vector<RejectedDisc>& rejected,
                    const Execution& execution);

}  // namespace jolly_iris::measuring
