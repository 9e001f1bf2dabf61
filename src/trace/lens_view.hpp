// The geometry of the thin lens in camera space (x right, y up, looking along −z, metres): which
// ray a place in the picture and a point of the pupil stand for, and where a point in space comes
// to lie in the picture through a point of the pupil.
#pragma once

#include <Eigen/Core>
#include <algorithm>
#include <cmath>

#include "jolly_iris/camera.hpp"
#include "jolly_iris/opening.hpp"

namespace jolly_iris::tracing {

class LensView {
 public:
  LensView(const VirtualCamera& camera, PixelSize size, bool pinhole)
      : opening_(camera.iris, camera.aperture_radius),
        radius_(pinhole ? 0.0 : camera.aperture_radius.m()),
        aspect_(camera.pupil_aspect()),
        inverse_focus_(1.0 / camera.focus.m()),
        wide_px_(camera.focal / (camera.picture.width / static_cast<double>(size.width))),
        high_px_(camera.focal / (camera.picture.height / static_cast<double>(size.height))),
        axis_(0.5 * size.width - camera.shift_right / camera.focal * wide_px_,
              0.5 * size.height + camera.shift_up / camera.focal * high_px_) {}

  /// A point of the entrance pupil, z = 0; uniform over its area.
  Eigen::Vector3d pupil_point(double u, double v) const {
    if (radius_ == 0.0) return Eigen::Vector3d::Zero();
    const Point2 p = opening_.sample(u, v);
    return {p.x * radius_ * aspect_, p.y * radius_, 0.0};
  }

  /// Direction of the ray through a pupil point that shows the picture at (x, y) px. Its z is −1,
  /// so the ray's parameter is the axial distance.
  Eigen::Vector3d direction(double x, double y, const Eigen::Vector3d& pupil) const {
    return Eigen::Vector3d((x - axis_.x()) / wide_px_, (axis_.y() - y) / high_px_, -1.0) -
           pupil * inverse_focus_;
  }

  /// Where a point in space lies in the picture, in px, seen through a pupil point.
  Eigen::Vector2d project(const Eigen::Vector3d& point, const Eigen::Vector3d& pupil) const {
    const double z = -point.z();
    const double dx = (point.x() - pupil.x()) / z + pupil.x() * inverse_focus_;
    const double dy = (point.y() - pupil.y()) / z + pupil.y() * inverse_focus_;
    return {axis_.x() + dx * wide_px_, axis_.y() - dy * high_px_};
  }

  /// Focal length in pixels: the larger of the two where pixels are not square.
  double focal_px() const { return std::max(wide_px_, high_px_); }
  /// Pixels that one squared radian around the axis covers.
  double px_a_steradian() const { return wide_px_ * high_px_; }
  /// Diameter of the blur disc of something at axial distance z, in px, at its largest.
  double blur_px(double z) const {
    return 2.0 * radius_ * opening_.corner_radius() * focal_px() *
           std::abs(inverse_focus_ - 1.0 / z);
  }

 private:
  Opening opening_;
  double radius_;
  double aspect_;
  double inverse_focus_;
  double wide_px_;
  double high_px_;
  Eigen::Vector2d axis_;  // where the picture shows the view axis
};

}  // namespace jolly_iris::tracing
