// All discs of a plate fitted side by side, each with its neighbours' light.
#pragma once

#include <string>
#include <vector>

#include "disc_fit.hpp"

namespace jolly_iris::measuring {

/// A disc on its way from being seen to being fitted.
struct DiscItem {
  DrawnDisc seen{};  ///< as the search saw it
  DrawnDisc start{};
  FittedDisc fit{};
  std::string name{};  ///< of a hint
};

struct FitOrder {
  bool with_others = true;  ///< neighbours' light as known so far is part of the picture
  bool afresh = false;      ///< what has neighbours begins where it was seen
  bool alone_stay = false;  ///< what has none is left as it is
};

/// @param seen the plate as `settings.look` sees it
void fit_together(const Picture& plate, const GreyImage& seen, std::vector<DiscItem>& items,
                  const BladeShape& shape, const FitSettings& settings, const FitOrder& order);

/// Two starts can lead to one disc, or to parts of one: only the better one stays. Where two really
/// lie over each other, the plate is as bright as both; where the clip hides that, what lies within
/// another is the other.
void merge_duplicates(const Picture& plate, const LumaModel& look, std::vector<DiscItem>& items);

}  // namespace jolly_iris::measuring
