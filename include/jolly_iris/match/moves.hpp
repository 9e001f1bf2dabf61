// What a value did over frames, as people say it: it stood still, was pulled, overshot, hunted.
//
//   for (const Move& m : moves_of(points, curve, {.least = 0.01}).moves)
//     fmt::print("{} from {} to {}\n", to_string(m.kind), m.begins, m.ends);
//
// A move is what lies between two rests. How it went is asked of many ways that the value may have
// gone (possible_curves): the kind is told where nine in ten of them agree.
#pragma once

#include <array>
#include <string_view>
#include <vector>

#include "jolly_iris/export.hpp"
#include "jolly_iris/match/value_curve.hpp"
#include "jolly_iris/optics/ease.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

enum class MoveKind {
  pull,       ///< one way
  overshoot,  ///< past where it ends, and back once
  hunt,       ///< it turns back twice or more often, or goes the wrong way first
  untold      ///< it moved; how is not to be told
};

/// "pull", "overshoot", "hunt", "move".
std::string_view to_string(MoveKind kind);

struct Move {
  MoveKind kind = MoveKind::untold;
  double sure = 0.0;  ///< share of the possible ways that are of the likeliest kind
  MoveKind likeliest = MoveKind::untold;
  double begins = 0.0;  ///< frames
  double ends = 0.0;
  double from = 0.0;  ///< the value before and after
  double to = 0.0;
  /// Frames where it has gone a tenth and nine tenths of the way for the first time.
  double tenth = 0.0;
  double nine_tenths = 0.0;
  double tenth_margin = 0.0;        ///< two deviations, frames
  double nine_tenths_margin = 0.0;  ///< likewise
  double past = 0.0;                ///< how far it went past its end, as a share of the way
  /// How it went, where one of the eases goes through the points as well as the curve does.
  Ease ease{};
  bool eased = false;
};

struct Moves {
  std::vector<Move> moves{};  ///< by time; none: it stood still
  double threshold = 0.0;     ///< what is smaller than that is not seen as a move
  double rest = 0.0;          ///< the value where it stood still all the time
};

struct MoveSettings {
  double least = 0.0;         ///< what is smaller is no move whatever the margins say, ≥ 0
  double rest_frames = 10.0;  ///< how long it stands between two moves, > 0
};

/// @param points what `curve` was made of
/// @param curve with 3 frames or more, else it stood still
Moves moves_of(const std::vector<CurvePoint>& points, const ValueCurve& curve,
               const MoveSettings& settings = {});

}  // namespace jolly_iris
