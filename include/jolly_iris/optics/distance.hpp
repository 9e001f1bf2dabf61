// Five ways to say how far away something is, and the way from each to each:
//
//   axial    along the view axis from the entrance pupil: a focus plane, a z-buffer
//   radial   along the ray from the entrance pupil:        radial = axial / cos(off axis)
//   tape     along the ray from the sensor plane's middle: what a tape hooked to the body measures
//   mark     what the lens's barrel shows when focused there: along the axis from the sensor plane
//   floor    along the floor of a plan, from below the entrance pupil to below the thing
//
// Angles off the axis are those under which the entrance pupil sees the thing. Marks are in
// lens.hpp (focus_from_mark, mark_from_focus).
#pragma once

#include "jolly_iris/export.hpp"
#include "jolly_iris/optics/camera.hpp"
#include "jolly_iris/optics/lens.hpp"
#include "jolly_iris/optics/units.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// @throws OpticsError for an angle of 90° or more: such things are beside the camera
Length axial_from_radial(Length radial, Angle off_axis);
Length radial_from_axial(Length axial, Angle off_axis);

/// The tape starts at the sensor plane, which lies behind the pupil: at lens.pupil, or where the
/// simple lens has its sensor when it is focused on the thing.
/// @throws OpticsError for a tape that ends inside the lens
Length axial_from_tape(const Lens& lens, Length tape, Angle off_axis);
Length tape_from_axial(const Lens& lens, Length axial, Angle off_axis);

/// How the camera stands: the height of its pupil above the floor, and its tilt (+ upward).
struct Stand {
  Length height{};
  Angle tilt{};
};
/// @param thing height of the thing above the floor
/// @param aside angle in the plan between the view and the thing, either way
/// @throws OpticsError for a thing that is behind the camera's plane
Length axial_from_floor(Length floor, Length thing, Angle aside, const Stand& stand);
/// @throws OpticsError where that plane meets no such height (a camera looking straight down)
Length floor_from_axial(Length axial, Length thing, Angle aside, const Stand& stand);

/// The angle off the axis at which a place of the picture is seen, px from its top left corner.
Angle off_axis_of_pixel(const VirtualCamera& camera, double x, double y);

}  // namespace jolly_iris
