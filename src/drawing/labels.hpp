// Words beside places, so that none covers another.
#pragma once

#include <vector>

#include "canvas.hpp"
#include "jolly_iris/drawing/plan.hpp"

namespace jolly_iris::drawing {

/// Words looking for room.
struct Wish {
  Spot anchor{};
  double width = 0.0;
  double height = 0.0;
};

/// Where each comes to lie: nearest to its anchor first, in the order of the wishes; none (a box of
/// no width) where there is no room within the panel, and for wishes beyond the first 300.
/// @param marks places that words should rather not cover
std::vector<PlanBox> placed(const std::vector<Wish>& wishes, const PlanBox& panel,
                            std::vector<Spot> marks, const std::vector<PlanBox>& taken);

/// The point of a box that is nearest to a place: where its leader ends.
Spot nearest_of(const PlanBox& box, const Spot& to);

}  // namespace jolly_iris::drawing
