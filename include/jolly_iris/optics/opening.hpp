// The outline of an iris and points spread evenly over its area.
//
// Coordinates are looking from the camera into the scene: x right, y up, in units of the opening's
// radius D / 2. Multiply by the aperture radius (and x by the pupil's aspect where the lens
// squeezes in front) to get a point on the entrance pupil.
//
//   const Opening opening(iris, camera.aperture_radius);
//   const Point2 p = opening.sample(u, v);      // u, v in [0, 1): uniform over the area
//
// The renderer's side of it (the sampling alone, no dependencies) is lens_sampler.hpp.
#pragma once

#include <vector>

#include "jolly_iris/export.hpp"
#include "jolly_iris/optics/iris.hpp"
#include "jolly_iris/optics/lens_sampler.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// A closed line of straight pieces; the last corner is joined to the first.
using Contour = std::vector<Point2>;

/// Twice the area within; below zero where it runs clockwise.
double signed_area_twice(const Contour& contour);

/// The opening's exact shape: blades' edges (arcs of the blade radius, met at the corners), a
/// circle, or a free outline; without a middle that a mirror blocks. Keeps its invariant: a simple
/// outline of the wanted size.
class Opening {
 public:
  /// A round opening.
  Opening() : Opening(Iris{}, Length::from_mm(1.0)) {}

  /// @param radius the aperture radius D / 2, needed where the blade radius is a length
  /// @throws OpticsError (key lens.iris…) for 1, 2 or more than 32 blades, for an outline that
  ///         would cross itself (an interior angle of 5° or less at the corners; blades so uneven
  ///         that one of them has no edge left; a free outline whose sides cross), and for an
  ///         obstruction that reaches beyond the outline
  Opening(const Iris& iris, Length radius);

  /// A point of the opening; uniform (u, v) in [0, 1)² give points uniform over its area. The map
  /// is continuous within a blade and has no rejection, so stratified input stays stratified. (Of a
  /// free outline with a blocked middle, points may fall on what is blocked: see blocked().)
  Point2 sample(double u, double v) const { return table_.sample(u, v); }
  bool blocked(Point2 p) const { return p.x * p.x + p.y * p.y < hole_ * hole_; }

  /// The boundary as a closed polygon, counter-clockwise, with every arc's chord within
  /// `tolerance` (in opening radii) of the arc. Without the blocked middle.
  Contour outline(double tolerance = 1e-3) const;
  /// The boundary with the blocked middle as a second contour, clockwise.
  std::vector<Contour> contours(double tolerance = 1e-3) const;

  bool is_round() const { return edges_.empty() && free_.empty(); }
  /// Distance of the farthest point of the outline from the centre, in opening radii.
  double corner_radius() const { return corner_radius_; }
  /// Area within the outline in squared opening radii: π when sized by area.
  double area() const { return area_; }
  /// The same without the blocked middle.
  double open_area() const;
  double hole() const { return hole_; }
  const OpeningTable& table() const { return table_; }

  /// One blade's edge: an arc about a centre from one angle to another (the second is smaller where
  /// it bends inward), or a straight piece.
  struct Edge {
    Point2 from{};
    Point2 to{};
    Point2 centre{};
    double radius = 0.0;  ///< 0: straight
    double from_angle = 0.0;
    double to_angle = 0.0;

    Point2 at(double t) const;  ///< t from 0 to 1
    /// Twice the area swept from the origin between `from` and at(t).
    double swept(double t) const;
  };

 private:
  void make_blades(const Iris& iris, double edge);
  void make_free(const Iris& iris);
  void block_middle(const Iris& iris);
  void fill_table();

  std::vector<Edge> edges_{};
  Contour free_{};
  double corner_radius_ = 1.0;
  double area_ = 0.0;
  double hole_ = 0.0;
  bool equal_blades_ = true;
  OpeningTable table_{};
};

}  // namespace jolly_iris
