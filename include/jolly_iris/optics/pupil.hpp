// The opening as one camera has it: cut by the barrel towards the corners, with its light and the
// lens's faults. Renderers sample it (lens_sampler.hpp); blur is made of its contours.
//
//   const Pupil pupil(camera);
//   pupil.open({0.2, 0.1, 0.0});         // share of the opening seen from up right, far away
//   const LensSampler lens = pupil.lens();
#pragma once

#include <vector>

#include "jolly_iris/export.hpp"
#include "jolly_iris/optics/camera.hpp"
#include "jolly_iris/optics/opening.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// A place in the scene as the pupil is seen from: a direction and how far away.
struct PupilPlace {
  double right = 0.0;  ///< tangent of the angle off the axis
  double up = 0.0;
  double inverse_z = 0.0;  ///< 1/m, axial; 0 is infinity
};

class Pupil {
 public:
  /// @throws OpticsError as Opening and opening_light do, and (lens.barrel) for rims that cut more
  ///         than half of the opening away in the picture's middle
  explicit Pupil(const VirtualCamera& camera);

  const Opening& opening() const { return opening_; }
  const LensSampler& lens() const { return lens_; }
  /// Whether it passes the same light everywhere it is open.
  bool even() const { return lens_.light.side == 0; }
  bool has_vignetting() const { return !lens_.rims.empty(); }

  /// What is seen of the opening, in opening radii (narrower where the lens squeezes in front):
  /// outlines counter-clockwise, what is blocked clockwise. Where the barrel hides it, a contour
  /// follows the rim. Empty where nothing is seen.
  /// @param tolerance how far chords may stand off their arcs, in opening radii
  std::vector<Contour> contours(const PupilPlace& place, double tolerance = 1e-3) const;
  /// The same in two steps, for those who look from many places: all of the opening, …
  std::vector<Contour> whole(double tolerance = 1e-3) const;
  /// … and what is left of it.
  std::vector<Contour> cut(std::vector<Contour> contours, const PupilPlace& place,
                           double tolerance) const;

  /// Whether any rim cuts the opening as seen from there.
  bool cuts(const PupilPlace& place) const;
  /// Share of the opening (by area) that sees past all rims: 0 … 1.
  double open(const PupilPlace& place) const;
  /// Its light against that in the picture's middle, ≥ 0: the optical vignetting.
  double light(const PupilPlace& place) const;

 private:
  struct LitPoint {
    Point2 at;  // opening radii, squeezed
    double light;
  };
  double fraction(const PupilPlace& place) const;
  void fill_points();

  Opening opening_;
  LensSampler lens_{};
  double middle_ = 1.0;
  std::vector<Contour> fine_{};  // all of the opening, where rims may cut it
  double fine_area_ = 0.0;
  std::vector<LitPoint> points_{};  // of an opening that is not even: they share its light
};

/// The renderer's lens. @throws as Pupil
LensSampler lens_sampler(const VirtualCamera& camera);

}  // namespace jolly_iris
