// A glass for those who work beside it: the plain camera that frames alike, for lighting and
// layout; and for renderers that trace surfaces themselves where each lies, how many a ray crosses
// and how much light they lose.
//
//   const GlassTwin twin = twin_of(look);
//   twin.focal.mm(); twin.surfaces[0].from_pupil.m();
#pragma once

#include <array>
#include <vector>

#include "jolly_iris/export.hpp"
#include "jolly_iris/workflow/glass_look.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// One surface as it lies once the glass is focused.
struct TwinSurface {
  Length from_pupil{};  ///< of its vertex, towards the film; the CG camera's origin is at 0
  Length radius = Length::infinity();  ///< > 0: its middle lies towards the film
  Length clear{};                      ///< diameter; infinite: nothing ends it
  double conic = 0.0;
  std::vector<double> terms{};  ///< of r⁴, r⁶, … as GlassSurface has them
  Curved curved = Curved::round;
  bool stop = false;
  std::array<double, 3> index{1.0, 1.0, 1.0};  ///< behind it: red, green, blue (colours_um)
};

struct GlassTwin {
  Length focal{};         ///< of the pinhole that frames alike near the axis, focused as it is
  Length pupil{};         ///< diameter of the entrance pupil: its blur, by the f-number below
  double f_number = 0.0;  ///< focal / pupil: what a plain camera with that focal length needs
  Length focus{};         ///< from its origin, axial; may be infinite
  Length film_behind{};   ///< of the film, from the origin
  double squeeze = 1.0;   ///< the focal length across is so much shorter
  Length stop_radius{};   ///< how wide the iris stands open in the stop's plane
  int crossings = 0;      ///< surfaces with glass that a ray crosses: refractions to allow
  std::array<double, 3> passes{};  ///< share of light on the axis; bare refraction without coats
                                   ///< in a renderer loses more
  double bare = 0.0;               ///< green's share without any coat
  double solid_angle = 0.0;        ///< projected, sr, that the picture's middle has its light from
  std::vector<TwinSurface> surfaces{};
};

/// @throws as camera_of
GlassTwin twin_of(const GlassLook& look);

}  // namespace jolly_iris
