// The outline of an iris and points spread evenly over its area.
//
// Coordinates are looking from the camera into the scene: x right, y up, in units of the opening's
// radius D / 2. Multiply by the aperture radius (and x by the pupil's aspect where the lens
// squeezes in front) to get a point on the entrance pupil.
//
//   const Opening opening(iris, camera.aperture_radius);
//   const Point2 p = opening.sample(u, v);      // u, v in [0, 1): uniform over the area
//
// This header needs only the standard library, so that a renderer can take it as it is.
#pragma once

#include <array>
#include <vector>

#include "jolly_iris/iris.hpp"

namespace jolly_iris {

struct Point2 {
  double x = 0.0;
  double y = 0.0;
};

/// The opening's exact shape: arcs of the blade radius through the corners of a regular polygon.
/// Keeps its invariant (a simple outline, star-shaped about the centre, of the wanted size).
class Opening {
 public:
  /// A round opening.
  Opening() = default;

  /// @param radius the aperture radius D / 2, needed where the blade radius is a length
  /// @throws OpticsError (key lens.iris…) for 1, 2 or more than 32 blades, and for an outline that
  ///         would cross itself (an interior angle of 5° or less at the corners)
  Opening(const Iris& iris, Length radius);

  /// A point of the opening; uniform (u, v) in [0, 1)² give points uniform over its area. The map
  /// is continuous within a blade and has no rejection, so stratified input stays stratified.
  /// Each blade's sector is swept from the centre; the swept area along an arc is Kepler's
  /// equation, solved by Newton steps.
  Point2 sample(double u, double v) const;

  /// The boundary as a closed polygon, counter-clockwise, with every arc's chord within
  /// `tolerance` (in opening radii) of the arc.
  std::vector<Point2> outline(double tolerance = 1e-3) const;

  bool is_round() const { return blades_ == 0; }
  /// Distance of the corners from the centre, in opening radii: nothing of the outline is farther
  /// out.
  double corner_radius() const { return corner_radius_; }
  /// Area in squared opening radii: π when sized by area.
  double area() const;

 private:
  Point2 edge_point(int blade, double t) const;
  double swept(double t) const;

  int blades_ = 0;
  std::array<Point2, 32> axes_{};  // direction of each blade's middle
  double corner_radius_ = 1.0;     // opening radii
  double half_sector_ = 0.0;       // π / blades
  double bend_ = 0.0;              // +1 outward arc, −1 inward arc, 0 straight
  double arc_radius_ = 0.0;        // of the edge, opening radii
  double arc_centre_ = 0.0;        // along the blade's middle axis
  double arc_half_ = 0.0;          // half the arc's own angle; half the edge's length if straight
};

}  // namespace jolly_iris
