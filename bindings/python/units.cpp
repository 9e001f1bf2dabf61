// Lengths and angles that carry their unit.
#include "jolly_iris/optics/units.hpp"

#include <fmt/format.h>
#include <pybind11/operators.h>

#include "convert.hpp"
#include "jolly_iris/optics/quantity.hpp"
#include "parts.hpp"

namespace jolly_iris::python {

namespace {

std::string repr_of(Length l) {
  if (l.is_infinite()) return "Length('infinity')";
  return std::abs(l.mm()) < 1000.0 ? fmt::format("Length('{} mm')", l.mm())
                                   : fmt::format("Length('{} m')", l.m());
}

}  // namespace

void add_units(py::module_& module) {
  using namespace py::literals;
  py::class_<Length>(
      module, "Length", plain_type(),
      "A length with its unit: 58 * ji.mm, Length(\"7' 10\\\"\"). Lengths add, scale, "
      "compare; two divide to a number.")
      .def(py::init([](const std::string& text) { return parse_distance(text); }), "text"_a,
           "\"58 mm\", \"2.4 m\", \"7' 10\\\"\", \"infinity\"")
      .def_property_readonly("mm", &Length::mm, "in millimetres")
      .def_property_readonly("m", &Length::m, "in metres")
      .def_property_readonly("is_finite", &Length::is_finite)
      .def(py::self + py::self)
      .def(py::self - py::self)
      .def(-py::self)
      .def(py::self * double())
      .def(double() * py::self)
      .def(py::self / double())
      .def(
          "__truediv__", [](Length a, Length b) { return a / b; }, py::is_operator())
      .def(
          "__eq__", [](Length a, Length b) { return a == b; }, py::is_operator())
      .def(
          "__lt__", [](Length a, Length b) { return a < b; }, py::is_operator())
      .def(
          "__le__", [](Length a, Length b) { return a <= b; }, py::is_operator())
      .def(
          "__gt__", [](Length a, Length b) { return a > b; }, py::is_operator())
      .def(
          "__ge__", [](Length a, Length b) { return a >= b; }, py::is_operator())
      .def("__hash__", [](Length a) { return py::hash(py::float_(a.mm())); })
      .def("__repr__", &repr_of);
  py::class_<Angle>(module, "Angle", plain_type(), "An angle with its unit: Angle(\"172.8 deg\").")
      .def(py::init([](const std::string& text) { return parse_angle(text); }), "text"_a)
      .def_property_readonly("degrees", &Angle::degrees)
      .def_property_readonly("radians", &Angle::radians)
      .def("__repr__", [](Angle a) { return fmt::format("Angle('{} deg')", a.degrees()); });
  module.attr("mm") = Length::from_mm(1.0);
  module.attr("cm") = Length::from_mm(10.0);
  module.attr("m") = Length::from_m(1.0);
  module.attr("inch") = Length::from_mm(25.4);
  module.attr("foot") = Length::from_mm(304.8);
  module.attr("infinity") = Length::infinity();
}

}  // namespace jolly_iris::python
