// Something round in reality, drawn on the plate: its oval tells the squeeze.
#pragma once

#include "jolly_iris/export.hpp"
#include "jolly_iris/measure/lines.hpp"
#include "jolly_iris/optics/plate_marks.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// An upright ellipse through points on a rim.
struct EllipseFit {
  std::array<double, 2> at{};  ///< px, of its middle
  Measured height_px{};
  Measured width_px{};
  Measured height_over_width{};  ///< of something round that faces the camera: 1 / squeeze left in
  double residual_px = 0.0;      ///< root mean square of the points' distances
};

/// Least squares over the points' distances from the rim (Gauss-Newton from the algebraic fit).
/// @param drawn_px how exactly a hand draws: what is believed of noise before the points tell it
/// @throws OpticsError for fewer than five points, or points that lie on no ellipse
EllipseFit fit_ellipse(const DrawnCircle& circle, double drawn_px = 0.5);

}  // namespace jolly_iris
