// Lamps out of focus, found in a plate: each is a picture of the iris, and its size is the blur.
//
//   const FoundDiscs found = discs_in_plate(read_picture("plate.exr").colour);
//   for (const PlateDisc& d : found.discs) fmt::print("{:.1f} ± {:.1f} px\n", d.height_px.value,
//   …); found.iris.blades;                    // 7, if the plate can tell
//
// Discs are found by their edges, which point at a centre from all around, and fitted below the
// size of a pixel: a rendered opening on a sloping ground, softened by the lamp's own size, clipped
// where the picture is, the light of its neighbours added. Then all of them together tell *one*
// iris: how many blades, how they are turned and curved, how much higher than wide.
//
// Margins are two standard deviations throughout.
#pragma once

#include <array>
#include <cmath>
#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "jolly_iris/export.hpp"
#include "jolly_iris/measure/lines.hpp"
#include "jolly_iris/optics/camera.hpp"
#include "jolly_iris/optics/execution.hpp"
#include "jolly_iris/picture/picture.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// Where somebody says a disc is, or where to look.
struct DiscHints {
  std::vector<DrawnLamp> lamps{};  ///< with a diameter: that disc; without: one near there
  std::vector<Box> boxes{};        ///< only within these; empty: everywhere
};

/// How a camera's files show edges, and the iris: found in one frame of a sequence, it need not be
/// looked for in the next.
class PlateLook;

struct DiscSettings {
  double min_px = 12.0;  ///< diameter of the smallest disc looked for, ≥ 8
  double max_px = 0.0;   ///< of the largest; 0: half of the picture's height
  /// Where the picture is clipped, linear; none: at the brightest value that many pixels share.
  std::optional<double> clipped_at{};
  /// Of another frame of the same camera, lens setting and file (FoundDiscs::look), with a plate of
  /// the same size; then edges and iris are taken from there.
  std::shared_ptr<const PlateLook> look{};
  Execution execution{};
};

/// Which way up a disc shows the iris.
enum class Facing {
  unknown,  ///< the iris looks the same both ways
  upright,  ///< behind the focus
  turned    ///< in front of it
};

/// "unknown", "upright", "turned".
std::string_view to_string(Facing facing);

/// One disc of a plate. Places and sizes are px of the plate.
struct PlateDisc {
  std::string name{};             ///< of the hint, if there was one
  std::array<double, 2> at{};     ///< of its middle
  Measured height_px{};           ///< height of the circle (ellipse) that has the opening's area
  Measured width_px{};            ///< width of it
  double common_px = 0.0;         ///< of their margins: what is off of all discs of the plate alike
  std::array<double, 3> light{};  ///< of the lamp: value × area in px², linear RGB
  double contrast = 0.0;          ///< value above the ground, linear
  double edge_sigma_px = 0.0;  ///< deviation of the blur of its edge: the lamp's size, smear, codec
  double edge_falloff_stops = 0.0;  ///< light at its edge against its middle
  bool clipped = false;             ///< its light is at least so much
  Facing facing = Facing::unknown;
  /// Whether the barrel tells the side of the focus. Else `upright` is what most discs of the plate
  /// are, which only their likely places say: most lights lie behind.
  bool side_known = false;
  /// How much larger red and blue are than green, px of diameter: fringes.
  std::array<double, 2> fringe_px{};
  double cut = 0.0;       ///< share of its edge that the barrel hides
  double residual = 0.0;  ///< what the model leaves over, against the plate's noise
  bool outlier = false;   ///< it does not go with the others
  std::string why{};      ///< then: how
};

/// Something like a disc that is none, and why.
struct RejectedDisc {
  std::array<double, 2> at{};
  double diameter_px = 0.0;
  std::string why{};
};

/// The iris that all discs share.
struct PlateIris {
  /// Whether enough discs, and most of those that could, show it: three, or one that somebody
  /// named.
  bool known = false;
  std::string why{};            ///< where it is not: why, and what would settle it
  int blades = 0;               ///< 0: round
  std::vector<int> could_be{};  ///< numbers that explain the discs about as well, the best first
  bool sure() const { return known && could_be.size() == 1; }
  Measured rotation_deg{};  ///< as iris.rotation counts, −180/n … 180/n
  /// The same rotation, told as near to another as it can be: n blades look the same after an nth
  /// of a turn. @return degrees; `other_deg` of a round one
  double rotation_near(double other_deg) const {
    if (blades == 0) return other_deg;
    return other_deg + std::remainder(rotation_deg.value - other_deg, 360.0 / blades);
  }
  Measured curvature{};  ///< opening radius / blade radius: 1 round, 0 straight, < 0 inward
  Measured edge_falloff_stops{};
  /// Of the discs: the squeeze in front of the iris; 0 where there are none.
  Measured height_over_width{};
  int discs = 0;  ///< that told it
};

/// A rim of the lens tube that cuts discs away from the picture's middle: cat's eyes. It is a
/// circle over the opening, shifted the more the farther out a disc lies.
struct PlateVignetting {
  bool known = false;  ///< whether enough discs are cut by one, and by no other
  Measured radius{};   ///< of the rim, against the opening's
  /// By how many radii of the opening it moves for each px that a disc lies from the middle: > 0
  /// hides the outer side of what is behind the focus, as a rim in front of the pupil does.
  Measured shift{};
  int discs = 0;  ///< that it cuts
  /// They are cut as no single rim cuts them, so that none is told: radius and shift are 0.
  bool unexplained = false;
};

/// That rim, for a lens whose picture this is. Exact for lamps far beyond it.
/// @param height of the picture that was measured, px
VignettingRim rim_of(const PlateVignetting& vignetting, const VirtualCamera& camera, int height);

struct FoundDiscs {
  std::vector<PlateDisc> discs{};  ///< by size, the largest first
  std::vector<RejectedDisc> rejected{};
  PlateIris iris{};
  PlateVignetting vignetting{};
  double noise = 0.0;  ///< deviation of a pixel of the ground, linear
  std::optional<double> clipped_at{};
  std::shared_ptr<const PlateLook> look{};  ///< for other frames; none where few discs tell it
};

/// Of the plates that a look is of.
PixelSize size_of(const PlateLook& look);

/// The outline of a disc as it was fitted, px of the plate, closed; what the barrel hides is not
/// taken away.
std::vector<std::array<double, 2>> outline_of(const PlateDisc& disc, const PlateIris& iris);

/// @param plate linear light; alpha does not count
/// @throws PictureError for a picture under 24 px on a side or with values that are no numbers,
///         UsageError for settings out of reach or hints outside the picture
FoundDiscs discs_in_plate(const Picture& plate, const DiscHints& hints = {},
                          const DiscSettings& settings = {});

}  // namespace jolly_iris
