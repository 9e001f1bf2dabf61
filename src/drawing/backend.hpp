// What the module that links cairo offers to the library that loads it on first use.
#pragma once

#include "jolly_iris/exposure_sheet.hpp"
#include "jolly_iris/labelled_sheet.hpp"
#include "jolly_iris/marked_picture.hpp"
#include "jolly_iris/plan.hpp"

namespace jolly_iris::drawing {

PlanLayout layout_of(const Plan& plan);
std::string plan_png(const Plan& plan);
std::string plan_svg(const Plan& plan);
std::string exposure_png(const ExposureSheet& sheet);
std::string exposure_svg(const ExposureSheet& sheet);
std::string labelled_png(const LabelledSheet& sheet);
std::string labelled_svg(const LabelledSheet& sheet);
std::string marked_png(const MarkedPicture& marked);
std::string marked_svg(const MarkedPicture& marked);

struct Backend {
  decltype(&layout_of) layout;
  decltype(&drawing::plan_png) plan_png;
  decltype(&drawing::plan_svg) plan_svg;
  decltype(&drawing::exposure_png) exposure_png;
  decltype(&drawing::exposure_svg) exposure_svg;
  decltype(&drawing::labelled_png) labelled_png;
  decltype(&drawing::labelled_svg) labelled_svg;
  decltype(&drawing::marked_png) marked_png;
  decltype(&drawing::marked_svg) marked_svg;
};

/// Name of the module's only entry, which returns a Backend.
inline constexpr const char* entry_name = "jolly_iris_drawing_backend";

}  // namespace jolly_iris::drawing
