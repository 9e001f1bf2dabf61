// Taking a lens's distortion out of places of a picture, and putting it in (see distortion.hpp for
// the coefficients).
//
//   const DistortionMap map(camera);
//   const auto straight = map.undistorted({1790.0, 64.5});
#pragma once

#include <array>
#include <optional>
#include <string>

#include "jolly_iris/export.hpp"
#include "jolly_iris/optics/camera.hpp"
#include "jolly_iris/optics/sharpness.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// A camera's distortion in pixels of its picture: undistorts and redistorts places, px from the
/// top left corner. Invariant: within the frame (and a tenth beyond) no two places fall together.
class DistortionMap {
 public:
  /// @throws OpticsError (key lens.distortion) where the coefficients fold the picture onto itself
  ///         within the frame: no lens does that
  explicit DistortionMap(const VirtualCamera& camera);

  /// From the plate to where CG puts it. Exact, and defined everywhere.
  std::array<double, 2> undistorted(const std::array<double, 2>& plate) const;
  /// From CG to the plate, by Newton's steps to 1e-10 px; none where the lens shows no such place
  /// (far outside the frame, beyond where the coefficients turn back).
  std::optional<std::array<double, 2>> distorted(const std::array<double, 2>& straight) const;

  /// How many pixels more than the plate a CG picture needs on each side so that, redistorted, it
  /// fills the plate; 0 where the plate needs less than it has.
  Margin margin() const;

  PixelSize size() const { return size_; }

 private:
  struct Place {
    double x = 0.0;
    double y = 0.0;
  };
  Place bent_back(const Place& d) const;
  void slope(const Place& d, double (&j)[4]) const;
  Place in_radii(const std::array<double, 2>& px) const;
  std::array<double, 2> in_px(const Place& p) const;

  Distortion lens_{};
  PixelSize size_{};
  double axis_x_ = 0.0;  // px
  double axis_y_ = 0.0;
  double radius_x_ = 1.0;  // px that are one radius
  double radius_y_ = 1.0;
};

/// What a distortion amounts to over the frame.
struct DistortionFigures {
  double corner_px = 0.0;       ///< how far the outermost corner is moved, + drawn in (barrel)
  double corner_percent = 0.0;  ///< the same, of its distance from the axis
  double bend_px = 0.0;         ///< sag of a straight line along the frame's long edge
  std::string kind{};  ///< "barrel", "pincushion", "barrel within, pincushion outside", …
};
/// @throws as DistortionMap
DistortionFigures figures_of_distortion(const VirtualCamera& camera);

}  // namespace jolly_iris
