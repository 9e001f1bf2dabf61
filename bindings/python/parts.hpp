// What the parts of the Python module share. Each adds its names to the module.
#pragma once

#include <pybind11/pybind11.h>

namespace jolly_iris::python {

void add_errors(pybind11::module_& module);
void add_units(pybind11::module_& module);
void add_camera(pybind11::module_& module);
void add_sampler(pybind11::module_& module);
void add_shot(pybind11::module_& module);
void add_pictures(pybind11::module_& module);
void add_plates(pybind11::module_& module);
void add_glass(pybind11::module_& module);
void add_answers(pybind11::module_& module);
void add_sheets(pybind11::module_& module);

}  // namespace jolly_iris::python
