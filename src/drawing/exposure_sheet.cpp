#include "jolly_iris/exposure_sheet.hpp"

#include "backend.hpp"
#include "cairo_module.hpp"

namespace jolly_iris {

std::string exposure_png(const ExposureSheet& sheet) {
  return drawing::cairo_module().exposure_png(sheet);
}

std::string exposure_svg(const ExposureSheet& sheet) {
  return drawing::cairo_module().exposure_svg(sheet);
}

}  // namespace jolly_iris
