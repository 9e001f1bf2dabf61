// What straight edges drawn in a plate tell of the lens and of how the camera stood.
//
// *Distortion* bends edges: it is found as what makes them straight. *Perspective* makes parallel
// ones converge: each set of them meets in a vanishing point, which says how the camera leaned and,
// from two sets at right angles, its focal length. Bent edges are straightened before they are
// asked for perspective.
//
// Every number comes with its margin: two standard deviations, from how far the drawn points are
// off the edges that fit them and from how well these edges determine it.
//
// Sources: Brown, Close-range camera calibration, 1971 (edges that are plumb); Caprile and Torre,
// Using vanishing points for camera calibration, 1990.
#pragma once

#include <array>
#include <optional>
#include <string>
#include <vector>

#include "jolly_iris/export.hpp"
#include "jolly_iris/optics/camera.hpp"
#include "jolly_iris/optics/measured.hpp"
#include "jolly_iris/optics/perspective.hpp"
#include "jolly_iris/optics/plate_marks.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// How one drawn edge fits.
struct LineFit {
  std::string name{};  ///< as given, else "line 3"
  Runs runs = Runs::anyhow;
  int points = 0;
  double residual_px = 0.0;  ///< root mean square of its points' distances from what was fitted
};

struct LineSettings {
  /// How exactly a hand draws, px: what is believed of noise before the points tell it.
  double drawn_px = 0.5;
  bool focal = false;  ///< perspective: the focal length is not known either
};

struct FoundDistortion {
  Distortion distortion{};          ///< with its radius, so that it goes with the lens
  std::string terms{};              ///< which coefficients the edges can tell: "k1", "k1, k2", …
  Measured corner_px{};             ///< how far the outermost corner is moved
  double residual_px = 0.0;         ///< of all points, once straight
  double residual_before_px = 0.0;  ///< of all points, as drawn
  std::vector<LineFit> lines{};
};

/// The distortion that makes drawn edges straight. How many coefficients are used is decided by
/// whether each more of them explains more than noise (Schwarz 1978).
/// @param camera its own distortion is not looked at
/// @throws OpticsError where the edges cannot tell: fewer than two of three or more points, or a
///         corner that could be off by more than 3 px and a quarter of what was found; UsageError
///         for so many edges and points that it would take minutes (200 of 5000 are well within)
FoundDistortion distortion_from_lines(const VirtualCamera& camera,
                                      const std::vector<DrawnLine>& lines,
                                      const LineSettings& settings = {});

/// Where a set of parallel edges meets in the (undistorted) picture.
struct VanishingPoint {
  Runs runs = Runs::vertical;
  std::array<double, 2> px{};  ///< may be infinite
  double widths = 0.0;         ///< distance from the picture's middle, in picture widths
};

struct FoundPerspective {
  Lean lean{};
  Measured tilt_deg{};
  Measured roll_deg{};
  std::optional<Measured> focal_mm{};  ///< pinhole focal length, if it was asked for
  std::vector<VanishingPoint> vanishing{};
  double residual_px = 0.0;
  std::vector<LineFit> lines{};
};

/// How the camera leaned, from two or more vertical edges, or two level ones and two across; and
/// its focal length, from two of these three sets. The camera's distortion is taken out first.
/// @throws OpticsError where the edges cannot tell: too few, nearly parallel ones for a focal
/// length
///         (a vanishing point more than three picture widths away), or sets that fit no camera
FoundPerspective perspective_from_lines(const VirtualCamera& camera,
                                        const std::vector<DrawnLine>& lines,
                                        const LineSettings& settings = {});

}  // namespace jolly_iris
