// One smooth curve through what single frames told of a value, with a margin at each frame.
//
//   const ValueCurve curve = smooth_curve(points, frames);
//   curve.value[i], curve.sigma[i]                  // at frames[i], also where no point was
//
// The value may turn as a hand turns a ring: its speed changes by chance, how much of it, and
// where, the points themselves tell (the largest likelihood). Points that go with none of the
// others count little. Where points are missing the curve goes on by itself, and its margin grows
// as what the value could have done meanwhile does.
//
// Sources: Wahba, Improper priors, spline smoothing and the problem of guarding against model
// errors in regression, JRSS B 40 (1978): such a curve is the cubic smoothing spline; Rauch, Tung
// and Striebel (1965) for how it is computed; Lange, Little and Taylor, Robust statistical
// modelling using the t distribution, JASA 84 (1989).
#pragma once

#include <cstdint>
#include <vector>

#include "jolly_iris/export.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// What one frame told.
struct CurvePoint {
  double frame = 0.0;
  double value = 0.0;
  double sigma = 0.0;  ///< one deviation, > 0
};

struct ValueCurve {
  std::vector<double> frames{};
  std::vector<double> value{};
  std::vector<double> speed{};   ///< a frame
  std::vector<double> sigma{};   ///< one deviation of the value
  std::vector<double> weight{};  ///< of each point, 0 … 1 and a little: what it counts
  /// How much the points scatter about the curve against what they said of themselves.
  double scatter = 1.0;
  /// Power of the changes of speed, value² per frame³, on the way to each frame and point.
  std::vector<double> unrest{};

  bool empty() const { return frames.empty(); }
};

/// @param points by rising frame
/// @param frames rising, where the curve is asked for; the points' need not be among them
/// @return an empty curve without points. Of one or two points: their mean, as wide as they differ
/// @throws UsageError for frames that do not rise, or a point that is no number or without a
///         deviation
ValueCurve smooth_curve(const std::vector<CurvePoint>& points, const std::vector<double>& frames);

/// Ways that the value may have gone, as likely as the points make them: to ask of each what is to
/// be known of the curve as a whole.
/// @return `count` of them, each with one value for each frame of the curve; the same for one seed
std::vector<std::vector<double>> possible_curves(const std::vector<CurvePoint>& points,
                                                 const ValueCurve& curve, std::size_t count,
                                                 std::uint32_t seed = 1);

}  // namespace jolly_iris
