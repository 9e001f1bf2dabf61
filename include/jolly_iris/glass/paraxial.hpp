// What a lens does near its axis, by matrices: focal length, where its pupils are, how it is open.
//
//   const ParaxialFacts f = paraxial_facts(TracedGlass(prescription));
//   f.focal.mm(), f.f_number                             // as open as it is
//
// A ray is (y, n u): height, and index times slope. Source: Hecht, Optics (2017), section 6.2.1.
#pragma once

#include "jolly_iris/export.hpp"
#include "jolly_iris/glass/traced.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// In which plane: for a glass with cylinders the two differ.
enum class Meridian { up, across };

/// (y, n u) behind = (a b; c d) (y, n u) before; its determinant is 1.
struct RayMatrix {
  double a = 1.0;
  double b = 0.0;  ///< mm
  double c = 0.0;  ///< 1/mm
  double d = 1.0;
  /// First the other, then this.
  RayMatrix after(const RayMatrix& first) const {
    return {a * first.a + b * first.c, a * first.b + b * first.d, c * first.a + d * first.c,
            c * first.b + d * first.d};
  }
};

/// From the first surface's vertex to the last's; from the first to the stop; from it to the last.
RayMatrix matrix_of(const TracedGlass& glass, Meridian meridian = Meridian::up);
RayMatrix matrix_to_stop(const TracedGlass& glass, Meridian meridian = Meridian::up);
RayMatrix matrix_from_stop(const TracedGlass& glass, Meridian meridian = Meridian::up);

/// Places are z in the glass's space: against the film plane, negative towards the scene.
struct ParaxialFacts {
  Length focal{};       ///< > 0: it gathers
  Length back_focus{};  ///< from the last surface to where infinity meets
  Length front_principal{};
  Length back_principal{};
  Length entrance_pupil{};     ///< its place; infinite for a lens telecentric in front
  Length entrance_diameter{};  ///< as open as the glass is
  Length exit_pupil{};         ///< infinite for one telecentric behind
  Length exit_diameter{};
  double f_number = 0.0;  ///< focal length / entrance pupil's diameter
};

/// @throws OpticsError for a glass without power in this meridian: it forms no image
ParaxialFacts paraxial_facts(const TracedGlass& glass, Meridian meridian = Meridian::up);

/// Radius of the opening at which the lens has this f-number (for an infinitely far subject, in the
/// meridian `up`). @throws OpticsError for a number that it cannot have, with the least it can
Length opening_for(const TracedGlass& glass, double f_number);

}  // namespace jolly_iris
