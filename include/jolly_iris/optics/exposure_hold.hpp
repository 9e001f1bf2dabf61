// Holding the exposure: one of stop, shutter, ISO and neutral density changes, another pays for it,
// and the price is told.
//
//   Take now = take;
//   now.stop = f_number(1.4);                       // one stop more light, less is sharp
//   const Trade trade = hold_exposure(lens, take, now, Partner::shutter);
//   trade.exact.shutter;                            // half as long: less smear
#pragma once

#include <optional>
#include <string_view>

#include "jolly_iris/export.hpp"
#include "jolly_iris/optics/lens.hpp"
#include "jolly_iris/optics/take.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// Who can pay.
enum class Partner { stop, shutter, iso, nd };

/// "stop", "shutter", "iso", "nd".
std::string_view to_string(Partner partner);

/// A change with its price.
struct Trade {
  Partner pays = Partner::iso;
  double light_stops = 0.0;  ///< what the change alone would do: + brighter
  Take exact{};              ///< the partner takes back exactly that
  Take nearest{};            ///< the partner at the nearest third of a stop that is marked
  double left_stops = 0.0;  ///< how much brighter (+) or darker (−) the picture is with `nearest`
  double noise_stops = 0.0;        ///< of sensitivity, `nearest` against before: + noisier
  double motion_blur_times = 1.0;  ///< exposure time against before: how much longer motion smears
  double blur_times = 1.0;  ///< diameter of the opening against before: how much larger discs are
};

/// What the partner must be for `now` to be as bright as `was`. A given `ev` holds by itself, and
/// no partner needs to pay: leave it out to trade.
/// @throws OpticsError where a needed value is not known; where the partner cannot pay: an angle
///         over 360°, neutral density below zero, a stop or sensitivity that does not exist (f/0.7
///         … f/128, or the lens's widest; ISO 1 … 10 million); where `now` is wider than the lens
///         opens
Trade hold_exposure(const Lens& lens, const Take& was, const Take& now, Partner pays);

/// What one of them must be for a picture that is this much brighter (+) or darker (−), e.g. by
/// what a meter asks. `light_stops` is what was asked for.
/// @throws OpticsError as hold_exposure
Trade change_exposure(const Lens& lens, const Take& was, double stops, Partner by);

/// A number that sensitivity, stop or ND can be set to, nearest to one in stops.
/// Sources: ISO 517 (marked f-numbers), ISO 516 (shutter times), ISO 12232 (speeds), all in thirds.
double nearest_f_number(double n);
double nearest_iso(double iso);
Duration nearest_time(Duration time);
double nearest_nd_stops(double stops);

}  // namespace jolly_iris
