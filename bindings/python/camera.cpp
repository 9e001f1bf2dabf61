// Bodies, lenses, takes and the virtual camera that they make.
#include "jolly_iris/optics/camera.hpp"

#include <fmt/format.h>

#include "convert.hpp"
#include "jolly_iris/optics/quantity.hpp"
#include "jolly_iris/optics/sharpness.hpp"
#include "parts.hpp"

namespace jolly_iris::python {

namespace {

Body body_from(const std::string& gate, std::pair<int, int> pixels, const std::string& name) {
  Body body;
  body.name = name;
  body.gate = parse_gate(gate);
  body.pixels = {pixels.first, pixels.second};
  return body;
}

Lens lens_from(const py::object& focal, double adapter, double squeeze, bool rear, int blades,
               const py::object& blade_radius, const std::string& name) {
  Lens lens;
  lens.name = name;
  lens.focal = length_from(focal, "focal");
  lens.adapter = adapter;
  lens.squeeze = squeeze;
  lens.squeeze_at = rear ? SqueezeAt::rear : SqueezeAt::front;
  lens.iris.blades = blades;
  if (!blade_radius.is_none()) {
    lens.iris.blade_radius = parse_blade_radius(blade_radius.cast<std::string>());
  }
  return lens;
}

Take take_from(const std::string& stop, const py::object& mark, const py::object& iso) {
  Take take;
  take.stop = parse_stop(stop);
  if (!mark.is_none()) take.mark = distance_from(mark, "mark");
  if (!iso.is_none()) take.iso = iso.cast<double>();
  return take;
}

}  // namespace

void add_camera(py::module_& module) {
  using namespace py::literals;
  py::class_<Body>(module, "Body", plain_type(),
                   "The real camera: its gate and the picture that it delivers.")
      .def(py::init(&body_from), "gate"_a, "pixels"_a, "name"_a = "",
           "gate: \"25.9 x 14.6 mm\", or a trade format's name; pixels: (width, height)")
      .def_readonly("name", &Body::name)
      .def_property_readonly("gate",
                             [](const Body& b) { return std::pair(b.gate.width, b.gate.height); })
      .def_property_readonly(
          "pixels", [](const Body& b) { return std::pair(b.pixels.width, b.pixels.height); });
  py::class_<Lens>(module, "Lens", plain_type(),
                   "The lens: marked focal length, adapter, squeeze, iris.")
      .def(py::init(&lens_from), "focal"_a, py::kw_only(), "adapter"_a = 1.0, "squeeze"_a = 1.0,
           "squeeze_rear"_a = false, "blades"_a = 0, "blade_radius"_a = py::none(), "name"_a = "",
           "focal: a Length or text; blade_radius: \"1.5 x\", \"13.7 mm\", \"straight\"")
      .def_readonly("name", &Lens::name)
      .def_readonly("focal", &Lens::focal)
      .def_readonly("adapter", &Lens::adapter)
      .def_readonly("squeeze", &Lens::squeeze)
      .def_property_readonly("blades", [](const Lens& l) { return l.iris.blades; });
  py::class_<Take>(module, "Take", plain_type(),
                   "What was set on the day: stop, barrel's mark, ISO.")
      .def(py::init(&take_from), "stop"_a, "mark"_a = py::none(), "iso"_a = py::none(),
           "stop: \"f/2.8\" or \"T2.9\"; mark: from the sensor plane")
      .def_property_readonly("stop", [](const Take& t) { return t.stop.value; })
      .def_readonly("mark", &Take::mark);
  py::class_<VirtualCamera>(module, "VirtualCamera", plain_type(),
                            "What to type into a virtual camera. focal and f_number are a pair, "
                            "lens_focal and lens_f_number another.")
      .def_readonly("focal", &VirtualCamera::focal, "pinhole focal length, breathing included")
      .def_readonly("f_number", &VirtualCamera::f_number, "focal / entrance pupil")
      .def_readonly("aperture_radius", &VirtualCamera::aperture_radius)
      .def_readonly("focus", &VirtualCamera::focus, "axial, from the entrance pupil")
      .def_readonly("lens_focal", &VirtualCamera::lens_focal, "at infinity")
      .def_readonly("lens_f_number", &VirtualCamera::lens_f_number, "at infinity")
      .def_readonly("lens_t_number", &VirtualCamera::lens_t_number, "at infinity")
      .def_readonly("squeeze", &VirtualCamera::squeeze, "at this focus")
      .def_readonly("pupil_to_sensor", &VirtualCamera::pupil_to_sensor)
      .def_property_readonly(
          "gate", [](const VirtualCamera& c) { return std::pair(c.gate.width, c.gate.height); },
          "recorded, desqueezed: width, height")
      .def_property_readonly(
          "pixels",
          [](const VirtualCamera& c) { return std::pair(c.pixels.width, c.pixels.height); })
      .def_property_readonly(
          "fields_of_view",
          [](const VirtualCamera& c) {
            return std::pair(c.horizontal_field_of_view(), c.vertical_field_of_view());
          },
          "of the gate: wide, high")
      .def(
          "coc",
          [](const VirtualCamera& c, const py::object& z) {
            return circle_of_confusion(c, distance_from(z, "z"));
          },
          "z"_a, "Signed diameter of the blur disc on the gate of what is so far away (axial).")
      .def(
          "coc_px",
          [](const VirtualCamera& c, const py::object& z) {
            if (py::isinstance<py::array>(z)) {
              const Doubles metres = Doubles::ensure(z);
              py::array_t<double> out(metres.request().shape);
              for (py::ssize_t i = 0; i < metres.size(); ++i) {
                out.mutable_data()[i] =
                    to_pixels(circle_of_confusion(c, Length::from_m(metres.data()[i])), c);
              }
              return py::object(out);
            }
            return py::object(
                py::float_(to_pixels(circle_of_confusion(c, distance_from(z, "z")), c)));
          },
          "z"_a, "The same in pixels; of a whole array of distances in metres at once, too.")
      .def(
          "sharp_range",
          [](const VirtualCamera& c, double pixels) {
            const SharpRange r = sharp_range(c, c.pixel_pitch() * pixels);
            return std::pair(r.near, r.far);
          },
          "pixels"_a = 2.0, "Nearest and farthest that is blurred by no more than that.")
      .def(
          "hyperfocal",
          [](const VirtualCamera& c, double pixels) {
            return hyperfocal(c, c.pixel_pitch() * pixels);
          },
          "pixels"_a = 2.0)
      .def("__repr__", [](const VirtualCamera& c) {
        return fmt::format(
            "<VirtualCamera {:.3f} mm, f/{:.4g}, focus {}>", c.focal.mm(), c.f_number,
            c.focus.is_finite() ? fmt::format("{:.4g} m", c.focus.m()) : std::string("infinity"));
      });
  module.def(
      "resolve",
      [](const Body& body, const Lens& lens, const Take& take, const py::object& focus) {
        return focus.is_none() ? resolve(body, lens, take)
                               : resolve(body, lens, take, distance_from(focus, "focus"));
      },
      "body"_a, "lens"_a, "take"_a, "focus"_a = py::none(),
      "The virtual camera that equals the real one. focus: axial, from the entrance pupil; none: "
      "at "
      "the take's mark.");
}

}  // namespace jolly_iris::python
