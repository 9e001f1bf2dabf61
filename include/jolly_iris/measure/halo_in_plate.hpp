// The halo of a plate, from the skirts of its lamps.
//
// Around every bright thing that stands by itself, light is gathered on rings that widen outward.
// What lies there is an even slope of ground, and the lamp's own light spread by (1 +
// (r/r₀)²)^(−p/2) over all of its pixels: how much of it, and how quickly it falls, is fitted to
// all lamps together. A lamp that is clipped has more light than can be seen; it tells of the
// shape, not of the share.
//
// Margins come from how lamps and the directions around them disagree: two standard deviations.
#pragma once

#include <array>
#include <optional>
#include <string>
#include <vector>

#include "jolly_iris/export.hpp"
#include "jolly_iris/optics/finish.hpp"
#include "jolly_iris/optics/measured.hpp"
#include "jolly_iris/picture/picture.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// A bright thing around which light was gathered.
struct HaloLamp {
  std::array<double, 2> at{};  ///< px of the plate
  double radius_px = 0.0;      ///< of a disc of its area
  bool clipped = false;
  bool used = false;
  std::string why{};  ///< where it was not
};

struct HaloInPlate {
  std::array<Measured, 3> fraction{};  ///< share of the light of red, green and blue
  Measured reach_px{};
  Measured power{};
};

/// What was found, or why nothing: "not seen" comes with an upper limit.
struct HaloFinding {
  std::optional<HaloInPlate> halo{};
  std::string no_halo{};         ///< a sentence where there is none
  std::optional<Rgb> at_most{};  ///< share that would be seen, if it reaches as far as usual
  double usual_reach_px = 0.0;   ///< from this on, up to four times as far
  std::vector<HaloLamp> lamps{};
};

struct HaloSettings {
  double clips_at = 0.98;  ///< from here on a channel is clipped; 0: nowhere
  int codec_px = 0;        ///< side of the blocks that its file was coded in (JPEG: 8); 0: none
};

/// @throws PictureError for a picture that is not finite
HaloFinding halo_in(const Picture& plate, const HaloSettings& settings = {});

}  // namespace jolly_iris
