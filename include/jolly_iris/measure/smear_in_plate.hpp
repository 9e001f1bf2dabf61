// How far a plate is smeared by what moved while its shutter was open, from its lamps.
//
// A lamp that is smeared is its own disc drawn out along a straight way: round at both ends, even
// in between, as wide as it was. That is fitted to every bright thing that stands by itself: its
// disc's size and softness, and the way. A thing that is long by itself, an oval or a window, is
// fitted too, and where it explains a thing as well the thing tells nothing. What at least three
// lamps say alike is the camera's own smear; what they say apart is of things that move.
//
// Margins are two standard deviations.
#pragma once

#include <array>
#include <optional>
#include <string>
#include <vector>

#include "jolly_iris/export.hpp"
#include "jolly_iris/optics/measured.hpp"
#include "jolly_iris/picture/picture.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// A straight way on the picture; which of its two ends came first no single frame tells.
struct SmearWay {
  Measured length_px{};
  Measured direction_deg{};  ///< counter-clockwise from level, −90 … 90
};

/// One bright thing, and how far it is drawn out.
struct SmearedLamp {
  std::array<double, 2> at{};  ///< px of the plate
  SmearWay way{};              ///< of a lamp that is `used`
  bool clipped = false;
  bool used = false;
  bool drawn = false;   ///< longer than discs are by their blades and the barrel
  bool of_all = false;  ///< is among those that say the same
  std::string why{};    ///< where it was not used
};

/// What was found, or why nothing: "not seen" comes with an upper limit.
struct SmearFinding {
  std::optional<SmearWay> smear{};   ///< of the whole picture
  std::string no_smear{};            ///< a sentence where there is none
  std::optional<double> at_most_px;  ///< a longer one would have been seen
  std::vector<SmearedLamp> lamps{};
};

struct SmearSettings {
  double clips_at = 0.98;  ///< from here on a channel is clipped; 0: nowhere
  bool coded = false;      ///< its file's codec leaves marks beside bright things (JPEG)
};

/// @throws PictureError for a picture that is not finite
SmearFinding smear_in(const Picture& plate, const SmearSettings& settings = {});

}  // namespace jolly_iris
