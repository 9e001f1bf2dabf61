// What the numbers of a take mean for light, and what changing them costs.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "jolly_iris/export.hpp"
#include "jolly_iris/optics/exposure_hold.hpp"
#include "jolly_iris/optics/white.hpp"
#include "jolly_iris/workflow/load.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

struct TakeRequest {
  std::optional<Partner> pay{};  ///< who holds the exposure for what is tried in the take
  std::string of{};              ///< the subject whose motion blur is told
  std::optional<double> metres_per_second{};  ///< its speed, where the scene does not know it
  std::optional<Rgb> gains{};                 ///< whose white is asked for
};

/// One change, and who pays for it.
struct TradeRow {
  std::string change{};  ///< "f/1.8"
  std::optional<Trade> trade{};
  std::string refused{};  ///< why it cannot be, where it cannot
  Partner pays = Partner::iso;
};

struct TakeExposure {
  std::string of{};
  std::optional<double> px_per_second{};  ///< of that subject
  std::optional<White> white_of_gains{};
  std::optional<TradeRow> paid{};  ///< of what is tried
  Take was{};                      ///< the take without that
  std::vector<TradeRow> usual{};   ///< one stop wider and one narrower, each paid by each
};

/// @param shot as it was opened: its overrides say what is tried
/// @throws UsageError where nothing of the take is tried though somebody shall pay, or a given EV
///         leaves nothing to pay; OpticsError as hold_exposure
TakeExposure take_exposure(const TakeRequest& request, const ShotRequest& shot,
                           const LoadedShot& loaded, std::vector<std::string>& files);

}  // namespace jolly_iris
