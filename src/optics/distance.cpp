#include "jolly_iris/optics/distance.hpp"

#include <fmt/format.h>

#include <cmath>
#include <numbers>

#include "jolly_iris/optics/errors.hpp"

namespace jolly_iris {

namespace {

double cosine_off_axis(Angle off_axis) {
  const double degrees = std::abs(off_axis.degrees());
  if (!(degrees < 90.0)) {
    throw OpticsError(fmt::format(
        "an angle of {:.4g} deg off the axis is beside or behind the camera; it must be under 90",
        degrees));
  }
  return std::cos(off_axis.radians());
}

// Pupil to sensor while focused on something. Where the lens does not focus (behind the reach of a
// close-up attachment, nearer than 1 : 1) the sensor stays at that end of its way.
double sensor_behind(const Lens& lens, Length axial) {
  if (lens.pupil) return lens.pupil->mm();
  if (axial >= farthest_focus(lens)) return lens.focal.mm();
  const double k2 = lens.converter * lens.converter;
  const double bare_mm = 1000.0 / (k2 * (1.0 / axial.m() - lens.close_up.dioptres()));
  const double f = lens.focal.mm();
  return bare_mm > 2.0 * f ? f / (1.0 - f / bare_mm) : 2.0 * f;
}

// How far apart a thing on the floor's plan and the camera's plane of view are, by the floor's
// slope to the view axis.
struct Slope {
  double along;   // axial distance per length on the floor
  double offset;  // axial distance that the heights make, mm
};
Slope slope_of(Length thing, Angle aside, const Stand& stand) {
  return {std::cos(aside.radians()) * std::cos(stand.tilt.radians()),
          (thing - stand.height).mm() * std::sin(stand.tilt.radians())};
}

}  // namespace

Length axial_from_radial(Length radial, Angle off_axis) {
  return radial * cosine_off_axis(off_axis);
}

Length radial_from_axial(Length axial, Angle off_axis) { return axial / cosine_off_axis(off_axis); }

Length tape_from_axial(const Lens& lens, Length axial, Angle off_axis) {
  const double cosine = cosine_off_axis(off_axis);
  if (axial.is_infinite()) return axial;
  const double radial = axial.mm() / cosine;
  const double e = sensor_behind(lens, axial);
  return Length::from_mm(std::sqrt(radial * radial + e * e + 2.0 * radial * e * cosine));
}

Length axial_from_tape(const Lens& lens, Length tape, Angle off_axis) {
  const double cosine = cosine_off_axis(off_axis);
  if (tape.is_infinite()) return tape;
  const auto refuse = [&](double e) {
    throw OpticsError(
        fmt::format("a tape of {:.4g} m from the sensor plane ends inside the lens "
                    "(the entrance pupil is {:.4g} mm from it)",
                    tape.m(), e));
  };
  const auto with_pupil_at = [&](double e) {
    const double t = tape.mm();
    const double aside = e * e * (1.0 - cosine * cosine);
    if (!(t * t > aside)) refuse(e);
    return (-e * cosine + std::sqrt(t * t - aside)) * cosine;
  };
  if (lens.pupil) {
    const double axial = with_pupil_at(lens.pupil->mm());
    if (!(axial > 0.0)) refuse(lens.pupil->mm());
    return Length::from_mm(axial);
  }
  // The simple lens's sensor moves as it focuses on the thing: the two settle in a few steps, each
  // shrinking the error by (f / (s − f))².
  double e = lens.focal.mm();
  double axial = 0.0;
  for (int i = 0; i < 400; ++i) {
    const double next = with_pupil_at(e);
    if (!(next > 0.0)) refuse(e);
    const bool settled = std::abs(next - axial) <= 1e-15 * next;
    axial = next;
    if (settled) break;
    e = sensor_behind(lens, Length::from_mm(axial));
  }
  return Length::from_mm(axial);
}

Length axial_from_floor(Length floor, Length thing, Angle aside, const Stand& stand) {
  if (floor.is_infinite()) return floor;
  const Slope slope = slope_of(thing, aside, stand);
  const Length axial = Length::from_mm(slope.along * floor.mm() + slope.offset);
  if (!(axial.mm() > 0.0)) {
    throw OpticsError(
        fmt::format("something {:.4g} m away along the floor, {:.4g} m above it and {:.4g} deg "
                    "aside is not in front of this camera ({:.4g} m high, tilted {:.4g} deg)",
                    floor.m(), thing.m(), aside.degrees(), stand.height.m(), stand.tilt.degrees()));
  }
  return axial;
}

Length floor_from_axial(Length axial, Length thing, Angle aside, const Stand& stand) {
  if (axial.is_infinite()) return axial;
  const Slope slope = slope_of(thing, aside, stand);
  if (!(slope.along > 1e-9)) {
    throw OpticsError(
        fmt::format("a camera tilted by {:.4g} deg, looking {:.4g} deg aside, has no distance "
                    "along the floor",
                    stand.tilt.degrees(), aside.degrees()));
  }
  return Length::from_mm((axial.mm() - slope.offset) / slope.along);
}

Angle off_axis_of_pixel(const VirtualCamera& camera, double x, double y) {
  const auto d = direction_of_pixel(camera, x, y);
  return Angle::from_radians(std::atan(std::hypot(d[0], d[1])));
}

}  // namespace jolly_iris
