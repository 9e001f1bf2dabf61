// Metering a picture in linear light: how bright it is, and what it would take to make it right.
//
//   const Metered m = meter(picture, {.way = MeterWay::spot, .at = {960, 540}, .radius = 20});
//   m.stops();     // +1.3: it needs 1.3 stops more to bring that spot to mid-grey
//
// Luminance is what its primaries weigh (primaries.hpp). What has no logarithm does not vanish
// unseen: the shares of black, clipped and non-finite pixels are told.
#pragma once

#include <array>
#include <cmath>
#include <cstddef>
#include <string_view>
#include <vector>

#include "jolly_iris/export.hpp"
#include "jolly_iris/optics/exposure.hpp"
#include "jolly_iris/optics/primaries.hpp"
#include "jolly_iris/picture/picture.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

enum class MeterWay {
  average,    ///< mean of the logarithm of luminance, everywhere alike
  centre,     ///< the same, but the middle counts most: half at a quarter of the width from it
  spot,       ///< the mean light within a radius of one place
  region,     ///< the mean light of a box
  highlights  ///< as bright as possible, so that no more than a share of the pixels clips
};

/// "average", "centre", "spot", "region", "highlights".
std::string_view to_string(MeterWay way);

struct Metering {
  MeterWay way = MeterWay::average;
  std::array<double, 2> at{};  ///< of a spot: px from the top left corner
  double radius = 16.0;        ///< of a spot, px, > 0
  Box box{};                   ///< of a region
  double may_clip = 0.001;     ///< of highlights: share of the pixels, 0 … 1
  double clips_at = 1.0;       ///< picture value, > 0: any channel there or above is clipped
  double wanted = grey_value;  ///< what the metered level shall become, > 0 (not for highlights)
  Primaries primaries = Primaries::rec709;
};

struct Metered {
  double level = 0.0;   ///< linear value that was found, > 0
  double target = 0.0;  ///< what it shall become
  /// What it takes, in stops: + the picture must become brighter.
  double stops() const { return std::log2(target / level); }
  std::size_t pixels = 0;  ///< that were looked at
  double black = 0.0;      ///< share: no light, or more than 12 stops below the median; left out of
                           ///< averages of logarithms
  double clipped = 0.0;    ///< share at or above clips_at
  double non_finite = 0.0;  ///< share with NaN or infinity; left out of everything
};

/// @throws PictureError for a picture without pixels, or with nothing but black where it is
/// metered;
///         UsageError for a place outside the picture or a setting out of range
Metered meter(const Picture& picture, const Metering& metering);

/// How the pixels spread over stops from mid-grey.
struct StopsHistogram {
  double first = -10.0;          ///< lower edge of the first bin, in stops from 0.18
  double step = 0.25;            ///< of a bin, stops
  std::vector<double> shares{};  ///< of all pixels; those beyond the ends are in neither
  double below = 0.0;            ///< share darker than the first bin, black included
  double above = 0.0;            ///< share brighter than the last
};
StopsHistogram stops_histogram(const Picture& picture, Primaries primaries, double first = -10.0,
                               double last = 6.0, double step = 0.25);

/// Luminance of a pixel, in stops from mid-grey; −infinity for no light, NaN for no number.
float stops_from_grey(const Rgba& pixel, Primaries primaries);

}  // namespace jolly_iris
