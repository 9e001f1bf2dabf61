// A camera that focuses by itself: it sees late, does not bother about little, moves no faster than
// it can, and goes past its target.
//
//   const auto moves = autofocus(wanted, {.fps = 24});         // dioptres, frame by frame
//   focus_during(moves, ease_of(settings), wanted.front(), 1032.5 - first);
//
// What it does is a list of moves, each from where it stood to what it saw, so that it can be
// written as keys of the focus ([[pull]]) and changed by hand. Somebody's own keys lead: between
// the first and the last of a group it goes from one to the next, and the camera goes on from
// there.
#pragma once

#include <cstddef>
#include <vector>

#include "jolly_iris/export.hpp"
#include "jolly_iris/optics/ease.hpp"
#include "jolly_iris/optics/units.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

struct AutofocusSettings {
  double fps = 24.0;                             ///< > 0
  Duration delay = Duration::from_seconds(0.2);  ///< what it acts on is so old, ≥ 0
  double dioptres_per_second = 1.5;              ///< no faster, > 0
  double hysteresis_dpt = 0.03;                  ///< it stands still for less than that, ≥ 0
  double overshoot = 0.0;  ///< how far it goes past its target, as a share of the way, 0 … 1
};

/// By frames from the first one, which is 0. Between moves it stands still.
struct AutofocusMove {
  double begins = 0.0;
  double ends = 0.0;
  double from_dpt = 0.0;
  double to_dpt = 0.0;
  bool by_hand = false;  ///< from one of somebody's keys to the next, or onto the first of them
};

/// Somebody's own key.
struct FocusOverride {
  double frame = 0.0;  ///< counted likewise
  double dioptres = 0.0;
};

/// @param wanted 1/m of what it should see, one a frame, all finite; it begins settled on the first
/// @param by_hand by rising frame; keys less than `join` apart are one group
/// @param join frames in which it goes onto the first key of a group, ≥ 1
/// @return moves that do not overlap, by their beginnings
/// @throws UsageError for settings out of range, a value that is not finite (with its index), or
///         keys that do not rise
std::vector<AutofocusMove> autofocus(const std::vector<double>& wanted,
                                     const AutofocusSettings& settings,
                                     const std::vector<FocusOverride>& by_hand = {},
                                     double join = 12.0);

/// How a move of such a camera goes.
Ease ease_of(const AutofocusSettings& settings);

/// Where it stands at any time. @param before the first move
double focus_during(const std::vector<AutofocusMove>& moves, const Ease& ease, double before,
                    double frame);

}  // namespace jolly_iris
