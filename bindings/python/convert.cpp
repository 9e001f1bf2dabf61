#include "convert.hpp"

#include <fmt/format.h>

#include <cmath>
#include <cstring>

#include "jolly_iris/optics/quantity.hpp"

namespace jolly_iris::python {

namespace {

[[noreturn]] void bare(const char* what, const std::string& said) {
  throw py::type_error(fmt::format(
      "{}: {} has no unit, and a number alone could be any of them; write 58 * ji.mm or \"58 mm\"",
      what, said));
}

Length read(const py::handle& value, const char* what, Length (*parse)(std::string_view)) {
  if (py::isinstance<Length>(value)) return value.cast<Length>();
  if (py::isinstance<py::str>(value)) return parse(value.cast<std::string>());
  bare(what, py::repr(value).cast<std::string>());
}

void require_floats(const py::array& array, const char* what) {
  if (py::isinstance<py::array_t<float>>(array)) return;
  throw py::type_error(fmt::format("{} is an array of {}; float32 is right: .astype(numpy.float32)",
                                   what, py::str(array.dtype()).cast<std::string>()));
}

}  // namespace

py::object to_python(const Json& json) {
  if (json.is_array()) {
    py::list out;
    for (const Json& entry : json.entries()) out.append(to_python(entry));
    return out;
  }
  if (json.is_object()) {
    py::dict out;
    for (const auto& [name, value] : json.members()) out[py::str(name)] = to_python(value);
    return out;
  }
  if (const std::string* text = json.text()) return py::str(*text);
  if (const auto truth = json.truth()) return py::bool_(*truth);
  if (const auto whole = json.whole()) return py::int_(*whole);
  // As in the text: what is no number is told as nothing.
  if (const auto number = json.number(); number && std::isfinite(*number)) {
    return py::float_(*number);
  }
  return py::none();
}

Length length_from(const py::handle& value, const char* what) {
  return read(value, what, &parse_length);
}

Length distance_from(const py::handle& value, const char* what) {
  return read(value, what, &parse_distance);
}

Picture picture_from(const py::array& array) {
  require_floats(array, "the picture");
  if (array.ndim() != 3 || (array.shape(2) != 3 && array.shape(2) != 4) || array.shape(0) < 1 ||
      array.shape(1) < 1) {
    throw py::value_error(
        fmt::format("the picture has the shape {}; height x width x 3 or 4 is right",
                    py::str(array.attr("shape")).cast<std::string>()));
  }
  const Floats pixels = Floats::ensure(array);
  const auto height = static_cast<int>(array.shape(0));
  const auto width = static_cast<int>(array.shape(1));
  const auto channels = static_cast<std::size_t>(array.shape(2));
  Picture out({width, height}, {0, 0, 0, 1});
  const float* from = pixels.data();
  if (channels == 4) {
    std::memcpy(out.pixels().data(), from, out.pixels().size() * sizeof(Rgba));
    return out;
  }
  for (Rgba& p : out.pixels()) {
    std::memcpy(p.data(), from, channels * sizeof(float));
    from += channels;
  }
  return out;
}

std::vector<float> depth_from(const py::array& array, PixelSize size) {
  require_floats(array, "the depth");
  if (array.ndim() != 2 || array.shape(0) != size.height || array.shape(1) != size.width) {
    throw py::value_error(fmt::format("the depth has the shape {}, the picture is {} x {}",
                                      py::str(array.attr("shape")).cast<std::string>(), size.height,
                                      size.width));
  }
  const Floats values = Floats::ensure(array);
  return {values.data(), values.data() + values.size()};
}

py::array array_of(Picture picture, py::ssize_t channels) {
  // The array keeps the picture alive.
  auto kept = std::make_unique<Picture>(std::move(picture));
  const py::ssize_t height = kept->height();
  const py::ssize_t width = kept->width();
  float* data = kept->pixels().front().data();
  const py::capsule owner(kept.release(), [](void* p) { delete static_cast<Picture*>(p); });
  constexpr py::ssize_t one = sizeof(float);
  return py::array_t<float>({height, width, channels}, {width * 4 * one, 4 * one, one}, data,
                            owner);
}

py::array array_of(std::vector<float> values, PixelSize size) {
  auto kept = std::make_unique<std::vector<float>>(std::move(values));
  float* data = kept->data();
  const py::capsule owner(kept.release(),
                          [](void* p) { delete static_cast<std::vector<float>*>(p); });
  return py::array_t<float>(
      {static_cast<py::ssize_t>(size.height), static_cast<py::ssize_t>(size.width)}, data, owner);
}

}  // namespace jolly_iris::python
