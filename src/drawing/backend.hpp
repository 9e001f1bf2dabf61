// What the module that links cairo offers to the library that loads it on first use.
#pragma once

#include "jolly_iris/plan.hpp"

namespace jolly_iris::drawing {

PlanLayout layout_of(const Plan& plan);
std::string plan_png(const Plan& plan);
std::string plan_svg(const Plan& plan);

struct Backend {
  decltype(&layout_of) layout;
  decltype(&plan_png) png;
  decltype(&plan_svg) svg;
};

/// Name of the module's only entry, which returns a Backend.
inline constexpr const char* entry_name = "jolly_iris_drawing_backend";

}  // namespace jolly_iris::drawing
