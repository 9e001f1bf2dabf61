// Lenses by their surfaces.
#include "convert.hpp"
#include "jolly_iris/optics/quantity.hpp"
#include "jolly_iris/workflow/glass_look.hpp"
#include "jolly_iris/workflow/glass_twin.hpp"
#include "parts.hpp"
#include "report/glass_report.hpp"

namespace jolly_iris::python {

void add_glass(py::module_& module) {
  using namespace py::literals;
  py::class_<GlassLook>(module, "Glass", plain_type(),
                        "A lens by its surfaces, focused and opened.")
      .def_property_readonly("name", [](const GlassLook& g) { return g.prescription.name; })
      .def_property_readonly("focal", [](const GlassLook& g) { return g.up.focal; })
      .def_readonly("widest", &GlassLook::widest)
      .def_property_readonly("nearest", [](const GlassLook& g) { return g.nearest; })
      .def_property_readonly(
          "circle", [](const GlassLook& g) { return g.circle * 2.0; }, "diameter that it lights")
      .def_readonly("notes", &GlassLook::notes)
      .def(
          "to_dict", [](const GlassLook& g) { return to_python(report::glass_json(g)); },
          "What `jolly-iris glass --json` says, but for the files that it writes.")
      .def(
          "twin", [](const GlassLook& g) { return to_python(report::twin_json(g, twin_of(g))); },
          "Surfaces in metres and the plain camera that frames alike, as `glass --twin` writes "
          "it.");
  module.def(
      "load_glass",
      [](const std::filesystem::path& file, const py::object& at, const py::object& stop,
         const py::object& gate) {
        GlassRequest request;
        request.file = file.string();
        if (!at.is_none()) request.distance = distance_from(at, "at");
        if (!stop.is_none()) request.f_number = stop.cast<double>();
        if (!gate.is_none()) request.gate = parse_gate(gate.cast<std::string>());
        std::vector<std::string> files;
        const py::gil_scoped_release unlocked;
        return look_at_glass(request, files);
      },
      "file"_a, py::kw_only(), "at"_a = py::none(), "stop"_a = py::none(), "gate"_a = py::none(),
      "A prescription, focused `at` a distance from the film plane, with an f-number, over a "
      "gate.");
}

}  // namespace jolly_iris::python
