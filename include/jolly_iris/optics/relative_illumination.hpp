// How much darker a picture grows towards its corners.
//
//   natural   cos⁴ of the angle off the axis: further away, seen aslant, and landing aslant
//   barrel    the rims of the lens tube cut the opening for places off the axis; closing down makes
//             it go away
//   measured  replaces both: a table of loss in stops against image height
//
//   corner_loss(lens, camera).stops;             // 0.9: the corners are 0.9 stop darker
//   const RelativeIllumination relative_illumination(lens, camera);
//   const double share = relative_illumination.share({x, y}); // of the middle's light, at a place
//   in px
//
// Sources: the cos⁴ law (e.g. Kingslake, *Optics in Photography*, ch. 7); barrel rims as images in
// entrance-pupil space: a pupil point p passes a rim of radius R at signed distance h if
// |p (1 − h/z) + X h/z| ≤ R, X the lateral place of the object point at axial distance z.
#pragma once

#include <array>
#include <optional>
#include <string>
#include <vector>

#include "jolly_iris/export.hpp"
#include "jolly_iris/optics/camera.hpp"
#include "jolly_iris/optics/lens.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// Natural loss at a place on the gate's plane: cos⁴θ = (v² / (v² + r²))², 0 … 1.
double natural_fraction(const VirtualCamera& camera, Length right, Length up);

/// Share of the opening that sees past all rims towards a direction, for things at distance z.
/// @param z axial; may be infinite. Errors as Opening
double open_fraction_of(const std::vector<VignettingRim>& vignetting, const VirtualCamera& camera,
                        Length right, Length up, Length z = Length::infinity());

/// How much darker the darkest corner is than the axis, and why.
struct CornerLoss {
  double stops = 0.0;               ///< ≥ 0
  std::optional<double> natural{};  ///< its parts; none where it was measured
  std::optional<double> vignetting{};
  bool measured = false;          ///< by lens.loss
  bool beyond_table = false;      ///< the table ends before the corner; it goes on straight
  bool vignetting_known = false;  ///< else cos⁴ is all there is, and real lenses lose more
};

/// @param z how far away the things are that the barrel cuts; most of a plate's corners are far
/// @throws OpticsError for a barrel that cuts the picture's middle away too, and as
/// require_possible
CornerLoss corner_loss(const Lens& lens, const VirtualCamera& camera,
                       Length z = Length::infinity());

/// The loss all over the picture.
class RelativeIllumination {
 public:
  /// @throws as corner_loss
  RelativeIllumination(const Lens& lens, const VirtualCamera& camera,
                       Length z = Length::infinity());

  /// Light at a place of the picture against the axis, > 0 … 1; in px of delivered(), from the
  /// top left corner. Outside the picture it goes on as at the border.
  double fraction(const std::array<double, 2>& px) const;

  /// The picture that places are told in.
  PixelSize delivered() const { return delivered_; }

 private:
  // Stops on a grid over the picture, read off in between: smooth, and quick for millions of px.
  static constexpr int columns = 97;
  static constexpr int rows = 65;
  PixelSize delivered_{};
  std::vector<double> stops_{};
};

}  // namespace jolly_iris
