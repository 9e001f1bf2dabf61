// How much darker a picture grows towards its corners.
//
//   natural   cos⁴ of the angle off the axis: further away, seen aslant, and landing aslant
//   barrel    the rims of the lens tube cut the opening for places off the axis; closing down makes
//             it go away
//   measured  replaces both: a table of loss in stops against image height
//
//   const FallOff fall_off(lens, camera);
//   fall_off.corner_stops();                     // 0.9: the corners are 0.9 stop darker
//   const double share = fall_off.share({x, y}); // of the middle's light, at a place in px
//
// Sources: the cos⁴ law (e.g. Kingslake, *Optics in Photography*, ch. 7); barrel rims as images in
// entrance-pupil space: a pupil point p passes a rim of radius R at signed distance h if
// |p (1 − h/z) + X h/z| ≤ R, X the lateral place of the object point at axial distance z.
#pragma once

#include <array>
#include <optional>
#include <string>
#include <vector>

#include "jolly_iris/camera.hpp"
#include "jolly_iris/lens.hpp"
#include "jolly_iris/opening.hpp"

namespace jolly_iris {

/// Natural loss at a place on the gate's plane: cos⁴θ = (v² / (v² + r²))², 0 … 1.
double natural_share(const VirtualCamera& camera, Length right, Length up);

/// Share of the opening that sees past all rims towards a direction, for things at distance z.
/// @param z axial; may be infinite. Errors as Opening
double open_share(const std::vector<BarrelRim>& barrel, const VirtualCamera& camera, Length right,
                  Length up, Length z = Length::infinity());

class FallOff {
 public:
  /// @param z how far away the things are that the barrel cuts; most of a plate's corners are far
  /// @throws OpticsError for a barrel that cuts the picture's middle away too, and as
  /// require_possible
  FallOff(const Lens& lens, const VirtualCamera& camera, Length z = Length::infinity());

  /// Light at a place of the picture against the axis, > 0 … 1; in px of camera.pixels, from the
  /// top left corner. Outside the picture it goes on as at the border.
  double share(const std::array<double, 2>& px) const;

  /// The picture that places are told in.
  PixelSize delivered() const { return camera_.pixels; }

  /// Loss at the darkest corner, in stops ≥ 0, and its parts (none where the table is used).
  double corner_stops() const { return corner_stops_; }
  std::optional<double> natural_stops() const { return natural_stops_; }
  std::optional<double> barrel_stops() const { return barrel_stops_; }
  /// Whether the measured table ends before the corner; it goes on as at its end there.
  bool beyond_table() const { return beyond_table_; }
  /// Whether anything but cos⁴ is known.
  bool known() const { return known_; }

 private:
  double exact_stops(double right_mm, double up_mm) const;
  double open_at(Length right, Length up) const;

  // Stops on a grid over the picture, read off in between: smooth, and quick for millions of px.
  static constexpr int columns = 97;
  static constexpr int rows = 65;
  Lens lens_{};
  VirtualCamera camera_{};
  Length z_{};
  std::vector<Point2> points_{};  // of the opening, mm; none without a barrel
  double middle_open_ = 1.0;
  std::vector<double> stops_{};
  std::vector<double> slopes_{};
  double corner_stops_ = 0.0;
  std::optional<double> natural_stops_{};
  std::optional<double> barrel_stops_{};
  bool beyond_table_ = false;
  bool known_ = false;
};

}  // namespace jolly_iris
