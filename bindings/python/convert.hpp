// Values across the border: lengths, JSON, pictures as NumPy arrays.
#pragma once

#include <pybind11/numpy.h>
#include <pybind11/pybind11.h>
#include <pybind11/stl.h>
#include <pybind11/stl/filesystem.h>

#include <string>
#include <vector>

#include "disk/json.hpp"
#include "jolly_iris/optics/units.hpp"
#include "jolly_iris/picture/picture.hpp"

namespace jolly_iris::python {

namespace py = pybind11;

/// The metaclass of classes without anything static: Python's own, as type checkers expect.
inline py::metaclass plain_type() {
  return py::metaclass(reinterpret_cast<PyObject*>(&PyType_Type));  // NOLINT: as CPython has it
}

/// As the command line says it, as dict, list, number, text.
py::object to_python(const Json& json);

/// A Length, or text with its unit ("58 mm").
/// @param what for the message
/// @throws TypeError for a bare number, which says why
Length length_from(const py::handle& value, const char* what);
/// The same, or "infinity".
Length distance_from(const py::handle& value, const char* what);

/// A number that has to be one: bool is none.
using Floats = py::array_t<float, py::array::c_style>;
using Doubles = py::array_t<double, py::array::c_style | py::array::forcecast>;

/// H × W × 3 or 4, float32, linear light; three channels get an alpha of 1.
/// @throws TypeError for another type, ValueError for another shape
Picture picture_from(const py::array& array);
/// H × W, float32, metres. @throws likewise
std::vector<float> depth_from(const py::array& array, PixelSize size);

/// A picture's own memory as an array, H × W × 4, or its first three channels: nothing is copied.
py::array array_of(Picture picture, py::ssize_t channels = 4);
/// H × W of a depth or a map.
py::array array_of(std::vector<float> values, PixelSize size);

}  // namespace jolly_iris::python
