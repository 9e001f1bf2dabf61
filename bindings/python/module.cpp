// The module jolly_iris._core.
#include "jolly_iris/version.hpp"
#include "parts.hpp"

PYBIND11_MODULE(_core, module) {
  using namespace jolly_iris::python;
  module.doc() = "What jolly_iris is made of; import jolly_iris instead.";
  add_errors(module);
  add_units(module);
  add_camera(module);
  add_sampler(module);
  add_shot(module);
  add_pictures(module);
  add_plates(module);
  add_glass(module);
  add_answers(module);
  add_sheets(module);
  module.attr("__version__") = JOLLY_IRIS_VERSION;
}
