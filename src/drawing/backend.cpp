#include "backend.hpp"

extern "C" __attribute__((visibility("default"))) const void* jolly_iris_drawing_backend() {
  using namespace jolly_iris;
  static const drawing::Backend backend{
      drawing::layout_of,    drawing::plan_png,     drawing::plan_svg,
      drawing::exposure_png, drawing::exposure_svg, drawing::labelled_png,
      drawing::labelled_svg, drawing::marked_png,   drawing::marked_svg};
  return &backend;
}
