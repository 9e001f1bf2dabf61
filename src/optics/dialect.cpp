#include "jolly_iris/optics/dialect.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <numbers>

#include "jolly_iris/optics/errors.hpp"
#include "optics/nearest.hpp"

namespace jolly_iris {

namespace {

using Field = DialectField;
using Quantity = Field::Quantity;
using Unit = Field::Unit;

constexpr double a_degree = std::numbers::pi / 180.0;

// A side of an extent, or its diagonal.
Length side(const Extent& e, Field::Along along) {
  switch (along) {
    case Field::Along::width:
      return e.width;
    case Field::Along::height:
      return e.height;
    case Field::Along::diagonal:
      break;
  }
  return Length::from_mm(std::hypot(e.width.mm(), e.height.mm()));
}

// Millimetres in one of a field's units; pixels are those of the picture, on its gate.
double unit_mm(const Field& field, const Extent& picture, const DialectSetting& setting) {
  switch (field.unit) {
    case Unit::cm:
      return 10.0;
    case Unit::m:
      return 1000.0;
    case Unit::inch:
      return 25.4;
    case Unit::scene:
      return setting.unit.mm();
    case Unit::tenths:
      return setting.unit.mm() / 10.0;
    case Unit::pixels:
      return picture.width.mm() / setting.pixels.width;
    case Unit::fraction:
      return side(picture, field.along).mm();
    case Unit::mm:
    case Unit::degrees:
    case Unit::radians:
      break;
  }
  return 1.0;
}

// Whether a number is told against the picture, so that a fixed gate changes nothing in it.
bool against_picture(const Field& field) {
  return field.unit == Unit::pixels || field.unit == Unit::fraction;
}

double angle_unit(const Field& field) { return field.unit == Unit::radians ? 1.0 : a_degree; }

std::string unit_said(const Field& field) {
  switch (field.quantity) {
    case Quantity::f_number:
    case Quantity::squeeze:
    case Quantity::blades:
    case Quantity::pixel_aspect:
      return {};
    default:
      break;
  }
  switch (field.unit) {
    case Unit::mm:
      return "mm";
    case Unit::cm:
      return "cm";
    case Unit::m:
      return "m";
    case Unit::inch:
      return "in";
    case Unit::scene:
      return "units";
    case Unit::tenths:
      return "tenths of a unit";
    case Unit::pixels:
      return "px";
    case Unit::degrees:
      return "deg";
    case Unit::radians:
      return "rad";
    case Unit::fraction:
      break;
  }
  return field.along == Field::Along::height     ? "of the height"
         : field.along == Field::Along::diagonal ? "of the diagonal"
                                                 : "of the width";
}

// How much larger the program's gate is than the real one.
double to_fixed(const Dialect& dialect, const Extent& picture) {
  return dialect.fixed_gate ? *dialect.fixed_gate / side(picture, dialect.fixed_along) : 1.0;
}

template <class T>
const T& needed(const std::optional<T>& value, const Field& field) {
  if (!value) {
    throw OpticsError(
        fmt::format("the field '{}' asks for something this camera does not tell", field.label));
  }
  return *value;
}

// Blade angles: ours have 0 at the top and turn counter-clockwise. A corner at the top is seen at
// 90 deg by who starts at the right (and counts counter-clockwise; at −90 deg otherwise).
double turned(const Field& field, double degrees, bool back) {
  const double sense = field.clockwise ? -1.0 : 1.0;
  const double top = field.zero_right ? 90.0 : 0.0;
  return back ? sense * degrees - top : sense * (degrees + top);
}

double value_of(const Field& field, const CgCamera& c, double fixed,
                const DialectSetting& setting) {
  const double unit = unit_mm(field, c.picture, setting);
  switch (field.quantity) {
    case Quantity::focal_length:
      return c.focal.mm() * (against_picture(field) ? 1.0 : fixed) / unit;
    case Quantity::field_of_view:
      return 2.0 * std::atan(side(c.picture, field.along) / (2.0 * c.focal)) / angle_unit(field);
    case Quantity::gate:
      return side(c.picture, field.along).mm() * fixed / unit;
    case Quantity::f_number:
      // The program divides its own, scaled focal length by this; the opening must stay the true
      // one.
      return c.focal.mm() * fixed / (2.0 * needed(c.aperture_radius, field).mm());
    case Quantity::aperture:
      return needed(c.aperture_radius, field).mm() * (field.diameter ? 2.0 : 1.0) / unit;
    case Quantity::focus:
      return needed(c.focus, field).mm() /
             (field.radial ? std::cos(setting.off_axis.radians()) : 1.0) / unit;
    case Quantity::squeeze: {
      const double width_to_height = needed(c.width_to_height, field);
      return field.inverse ? width_to_height : 1.0 / width_to_height;
    }
    case Quantity::blades:
      return needed(c.blades, field);
    case Quantity::rotation:
      return turned(field, needed(c.rotation, field).degrees(), false) * a_degree /
             angle_unit(field);
    case Quantity::pixel_aspect:
      return needed(c.pixel_aspect, field);
    case Quantity::shift_across:
      return needed(c.shift_right, field).mm() * (against_picture(field) ? 1.0 : fixed) / unit;
    case Quantity::shift_up:
      break;
  }
  return needed(c.shift_up, field).mm() * (against_picture(field) ? 1.0 : fixed) / unit;
}

// Typed numbers, and what was made of them so far.
struct Meaning {
  const Dialect& dialect;
  const std::map<std::string, double>& typed;
  const DialectSetting& setting;
  CgCamera camera{};
  double fixed = 1.0;

  // The first field of a kind that was typed, and its number.
  const Field* find(Quantity quantity) const {
    for (const Field& field : dialect.fields) {
      if (field.quantity == quantity && typed.contains(field.label)) return &field;
    }
    return nullptr;
  }
  double number(const Field& field) const { return typed.at(field.label); }
  double above_zero(const Field& field) const {
    const double value = number(field);
    if (value > 0.0) return value;
    throw OpticsError(
        fmt::format("'{}' is {:g}; it must be greater than zero", field.label, value));
  }
  double unit(const Field& field) const { return unit_mm(field, camera.picture, setting); }
};

void read_framing(Meaning& m, const Extent& picture) {
  m.camera.picture = picture;
  if (const Field* gate = m.find(Quantity::gate); gate != nullptr && !m.dialect.fixed_gate) {
    // Whichever side leads, the picture's shape gives the other.
    const double scale = m.above_zero(*gate) * m.unit(*gate) / side(picture, gate->along).mm();
    m.camera.picture = {picture.width * scale, picture.height * scale};
  }
  m.fixed = to_fixed(m.dialect, m.camera.picture);
  if (const Field* focal = m.find(Quantity::focal_length)) {
    m.camera.focal = Length::from_mm(m.above_zero(*focal) * m.unit(*focal) /
                                     (against_picture(*focal) ? 1.0 : m.fixed));
    return;
  }
  const Field* view = m.find(Quantity::field_of_view);
  if (view == nullptr) {
    throw UsageError(
        fmt::format("nothing typed tells the framing; the dialect '{}' has it in a focal length or "
                    "a field of view",
                    m.dialect.name));
  }
  const double angle = m.above_zero(*view) * angle_unit(*view);
  if (!(angle < std::numbers::pi)) {
    throw OpticsError(fmt::format("'{}' is a field of view of {:g} deg; it is under 180",
                                  view->label, angle / a_degree));
  }
  m.camera.focal = side(m.camera.picture, view->along) / (2.0 * std::tan(angle / 2.0));
}

void read_opening(Meaning& m) {
  if (const Field* aperture = m.find(Quantity::aperture)) {
    m.camera.aperture_radius = Length::from_mm(m.above_zero(*aperture) * m.unit(*aperture) /
                                               (aperture->diameter ? 2.0 : 1.0));
  } else if (const Field* n = m.find(Quantity::f_number)) {
    m.camera.aperture_radius = m.camera.focal * m.fixed / (2.0 * m.above_zero(*n));
  }
  if (const Field* squeeze = m.find(Quantity::squeeze)) {
    const double value = m.above_zero(*squeeze);
    m.camera.width_to_height = squeeze->inverse ? value : 1.0 / value;
  }
  if (const Field* blades = m.find(Quantity::blades)) {
    const double value = m.number(*blades);
    if (value != std::floor(value) || value < 0.0 || value > 1e6) {
      throw OpticsError(
          fmt::format("'{}' is {:g}, which is no number of blades", blades->label, value));
    }
    m.camera.blades = static_cast<int>(value);
  }
  if (const Field* rotation = m.find(Quantity::rotation)) {
    const double degrees = m.number(*rotation) * angle_unit(*rotation) / a_degree;
    m.camera.rotation = Angle::from_degrees(turned(*rotation, degrees, true));
  }
}

void read_rest(Meaning& m) {
  if (const Field* focus = m.find(Quantity::focus)) {
    const double along = focus->radial ? std::cos(m.setting.off_axis.radians()) : 1.0;
    m.camera.focus = Length::from_mm(m.above_zero(*focus) * m.unit(*focus) * along);
  }
  if (const Field* aspect = m.find(Quantity::pixel_aspect)) {
    m.camera.pixel_aspect = m.above_zero(*aspect);
  }
  const auto shift = [&](Quantity quantity) -> std::optional<Length> {
    const Field* field = m.find(quantity);
    if (field == nullptr) return std::nullopt;
    return Length::from_mm(m.number(*field) * m.unit(*field) /
                           (against_picture(*field) ? 1.0 : m.fixed));
  };
  m.camera.shift_right = shift(Quantity::shift_across);
  m.camera.shift_up = shift(Quantity::shift_up);
}

}  // namespace

std::vector<DialectValue> fields_in(const Dialect& dialect, const CgCamera& camera,
                                    const DialectSetting& setting) {
  const double fixed = to_fixed(dialect, camera.picture);
  std::vector<DialectValue> values;
  for (const Field& field : dialect.fields) {
    values.push_back({field.label, value_of(field, camera, fixed, setting), unit_said(field)});
  }
  return values;
}

CgCamera meant_by(const Dialect& dialect, const std::map<std::string, double>& typed,
                  const DialectSetting& setting, const Extent& picture) {
  std::vector<std::string> labels;
  for (const Field& field : dialect.fields) labels.push_back(field.label);
  for (const auto& [label, value] : typed) {
    if (std::find(labels.begin(), labels.end(), label) == labels.end()) {
      throw UsageError(fmt::format("the dialect '{}' has no field '{}'.{}", dialect.name, label,
                                   did_you_mean(label, labels)));
    }
    if (std::isnan(value)) throw OpticsError(fmt::format("'{}' is not a number", label));
  }
  Meaning m{dialect, typed, setting};
  read_framing(m, picture);
  read_opening(m);
  read_rest(m);
  return m.camera;
}

}  // namespace jolly_iris
