// How a value goes from one key to the next: plain eases, and the hunts of an autofocus.
#pragma once

#include <string_view>
#include <vector>

#include "jolly_iris/export.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// The way from one key (share 0) to the next (share 1) as time t runs from 0 to 1.
struct Ease {
  enum class Kind {
    step,        ///< stays, then jumps at the key
    linear,      ///< steadily
    smooth,      ///< slow, fast, slow: 3t² − 2t³
    slow_start,  ///< t²
    slow_stop,   ///< 1 − (1 − t)²
    overshoot,   ///< goes past the target by `by` of the way, swings back and forth, settles
    search       ///< first the wrong way, then past the target, then onto it
  };
  Kind kind = Kind::smooth;
  double by = 0.15;        ///< overshoot: share of the way it goes past, > 0
  int swings = 2;          ///< how often it turns back, ≥ 1
  double dioptres = 0.25;  ///< search: how far it strays, in reciprocal metres, > 0
};

/// Words for them: "step", "linear", "smooth", "slow start", "slow stop", "overshoot", "search".
std::string_view to_string(Ease::Kind kind);

/// A value between two keys. Hunts run through turning points, each stretch as smooth; `search`
/// strays by `dioptres` of what is interpolated (so it wants reciprocal distances).
/// @param t 0 … 1
double between(const Ease& ease, double from, double to, double t);

}  // namespace jolly_iris
