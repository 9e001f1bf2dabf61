// A lens's rays for renderers, many at once.
#include "jolly_iris/optics/lens_sampler.hpp"

#include "convert.hpp"
#include "jolly_iris/optics/pupil.hpp"
#include "parts.hpp"

namespace jolly_iris::python {

namespace {

// One length for all, or one number for each.
struct Column {
  Doubles values{};
  double at(py::ssize_t i) const { return values.data()[values.size() == 1 ? 0 : i]; }
};

py::ssize_t length_of(std::initializer_list<const Doubles*> columns) {
  py::ssize_t n = 1;
  for (const Doubles* c : columns) {
    if (c->ndim() > 1) throw py::value_error("one row of numbers each is right");
    if (c->size() == 1) continue;
    if (n != 1 && c->size() != n) throw py::value_error("the arrays are of different lengths");
    n = c->size();
  }
  return n;
}

py::array_t<double> points(const LensSampler& lens, const Doubles& u, const Doubles& v) {
  const py::ssize_t n = length_of({&u, &v});
  py::array_t<double> out({n, py::ssize_t{2}});
  for (py::ssize_t i = 0; i < n; ++i) {
    const Point2 p = lens.opening.sample(Column{u}.at(i), Column{v}.at(i));
    out.mutable_at(i, 0) = p.x;
    out.mutable_at(i, 1) = p.y;
  }
  return out;
}

py::tuple rays(const LensSampler& lens, const Doubles& right, const Doubles& up, const Doubles& u,
               const Doubles& v, int colour) {
  if (colour < 0 || colour > 2) throw py::value_error("colour is 0 red, 1 green or 2 blue");
  const py::ssize_t n = length_of({&right, &up, &u, &v});
  py::array_t<double> origin({n, py::ssize_t{3}});
  py::array_t<double> direction({n, py::ssize_t{3}});
  py::array_t<double> weight({n, py::ssize_t{3}});
  const Column columns[]{{right}, {up}, {u}, {v}};
  for (py::ssize_t i = 0; i < n; ++i) {
    const LensRay ray = lens.ray(columns[0].at(i), columns[1].at(i), columns[2].at(i),
                                 columns[3].at(i), static_cast<std::size_t>(colour));
    for (py::ssize_t k = 0; k < 3; ++k) {
      origin.mutable_at(i, k) = ray.origin[static_cast<std::size_t>(k)];
      direction.mutable_at(i, k) = ray.direction[static_cast<std::size_t>(k)];
      weight.mutable_at(i, k) = static_cast<double>(ray.weight[static_cast<std::size_t>(k)]);
    }
  }
  return py::make_tuple(origin, direction, weight);
}

}  // namespace

void add_sampler(py::module_& module) {
  using namespace py::literals;
  py::class_<LensSampler>(module, "LensSampler", plain_type(),
                          "From places of the frame and two numbers in [0, 1) to rays of the lens.")
      .def(py::init([](const VirtualCamera& camera) { return lens_sampler(camera); }), "camera"_a)
      .def("points", &points, "u"_a, "v"_a,
           "Even points of the opening, n x 2, in radii of it: x right, y up, looking out.")
      .def("rays", &rays, "right"_a, "up"_a, "u"_a, "v"_a, "colour"_a = 1,
           "right, up: metres on the gate from its middle. Returns origin (n x 3, metres), "
           "direction "
           "(n x 3, z is -1) and weight (n x 3, red, green, blue): 0 where the barrel hides it.");
}

}  // namespace jolly_iris::python
