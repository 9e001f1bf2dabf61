#include "lamp_changes.hpp"

#include <algorithm>
#include <cmath>
#include <map>
#include <string>

#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/optics/white.hpp"

namespace jolly_iris::matching {

namespace {

// How much lamps differ from each other from frame to frame when nothing changes: flicker, what
// lies behind them, corners. Stops, one deviation; at least, where few are seen.
constexpr double usual_flicker = 0.03;
// What is no change, stops and mired.
constexpr double unseen_exposure = 0.06;
constexpr double unseen_white = 3.0;

struct Reading {
  std::size_t frame;
  std::size_t lamp;
  double value;
};

double median(std::vector<double> v) {
  const auto middle = v.begin() + static_cast<std::ptrdiff_t>(v.size() / 2);
  std::nth_element(v.begin(), middle, v.end());
  return *middle;
}

// Each reading is its lamp's own value and its frame's: both by medians in turn (Tukey's median
// polish, Exploratory Data Analysis, 1977), so that a lamp that goes out, or a disc that is
// another's, moves neither.
class Polish {
 public:
  Polish(const std::vector<Reading>& readings, std::size_t frames, std::size_t lamps)
      : by_frame_(frames), by_lamp_(lamps), of_frame_(frames, 0.0), of_lamp_(lamps, 0.0) {
    for (const Reading& r : readings) {
      by_frame_[r.frame].push_back(r);
      by_lamp_[r.lamp].push_back(r);
    }
    for (int round = 0; round < 40; ++round) {
      settle(by_lamp_, of_lamp_, [&](const Reading& r) { return of_frame_[r.frame]; });
      settle(by_frame_, of_frame_, [&](const Reading& r) { return of_lamp_[r.lamp]; });
    }
  }

  bool told(std::size_t frame) const { return !by_frame_[frame].empty(); }
  double at(std::size_t frame) const { return of_frame_[frame]; }

  // One deviation of a frame's value, by how far its lamps are apart.
  double sigma(std::size_t frame, double least) const {
    std::vector<double> off;
    for (const auto& all : by_frame_) {
      for (const Reading& r : all) {
        if (all.size() > 1)
          off.push_back(std::abs(r.value - of_lamp_[r.lamp] - of_frame_[r.frame]));
      }
    }
    // A normal deviation is 1.48 times the median of what is off; a median of n readings is 1.25
    // times as uncertain as their mean.
    const double one = std::max(least, off.empty() ? least : 1.4826 * median(off));
    return 1.25 * one / std::sqrt(static_cast<double>(by_frame_[frame].size()));
  }

 private:
  template <class Other>
  static void settle(const std::vector<std::vector<Reading>>& all, std::vector<double>& value,
                     const Other& other) {
    for (std::size_t i = 0; i < all.size(); ++i) {
      if (all[i].empty()) continue;
      std::vector<double> left;
      for (const Reading& r : all[i]) left.push_back(r.value - other(r));
      value[i] = median(std::move(left));
    }
  }

  std::vector<std::vector<Reading>> by_frame_;
  std::vector<std::vector<Reading>> by_lamp_;
  std::vector<double> of_frame_;
  std::vector<double> of_lamp_;
};

// Mired by which the light looks warmer, from red against blue (logarithm to base 2): along the
// locus about the white that the notes have.
double mired_of(double red_over_blue, const White& about) {
  constexpr double step = 5.0;
  const auto tinge = [&](double offset) {
    const Rgb g = white_gains(
        {.temperature = from_mired(mired(about.temperature) + offset), .tint = about.tint},
        Primaries::rec709);
    return std::log2(g[2] / g[0]);
  };
  return red_over_blue * 2.0 * step / (tinge(step) - tinge(-step));
}

FollowedValue followed(Parameter of, const std::vector<NotedFrame>& frames,
                       const std::vector<CurvePoint>& points, double least) {
  FollowedValue out;
  out.of = of;
  out.relative = true;
  std::vector<double> numbers;
  for (const NotedFrame& f : frames) numbers.push_back(f.frame);
  const ValueCurve curve = smooth_curve(points, numbers);
  out.moves = moves_of(points, curve, {.least = least});
  std::size_t next = 0;
  for (std::size_t i = 0; i < frames.size(); ++i) {
    FrameValue v;
    v.frame = numbers[i];
    while (next < points.size() && points[next].frame < v.frame) ++next;
    if (next < points.size() && points[next].frame == v.frame) {
      v.value = points[next].value;
      v.value_margin = 2.0 * points[next].sigma;
    }
    v.curve = curve.value[i];
    // What does not scatter from frame to frame is not evened out by many of them.
    const double lasting = std::sqrt(std::max(0.0, 1.0 - curve.scatter * curve.scatter));
    const std::size_t near = std::min(next, points.size() - 1);
    v.margin = 2.0 * std::hypot(curve.sigma[i], lasting * points[near].sigma);
    out.at.push_back(v);
  }
  return out;
}

}  // namespace

std::vector<FollowedValue> lamp_changes(const std::vector<NotedFrame>& frames,
                                        const std::vector<double>& focal_mm) {
  std::map<std::string, std::size_t> lamps;
  std::vector<Reading> light;
  std::vector<Reading> tinge;
  for (std::size_t i = 0; i < frames.size(); ++i) {
    // Through the pupil, D = f / N, comes what stop, shutter, sensitivity and filters let through,
    // and the square of the focal length.
    const double f = focal_mm[i];
    for (const LampLight& l : frames[i].lights) {
      const double sum = 0.2126 * l.light[0] + 0.7152 * l.light[1] + 0.0722 * l.light[2];
      if (!(sum > 0.0) || l.name.empty()) continue;
      const std::size_t lamp = lamps.try_emplace(l.name, lamps.size()).first->second;
      const double nearer = l.z.is_finite() ? 2.0 * std::log2(l.z.m()) : 0.0;
      light.push_back({i, lamp, std::log2(sum) + nearer - 2.0 * std::log2(f)});
      if (l.light[0] > 0.0 && l.light[2] > 0.0) {
        tinge.push_back({i, lamp, std::log2(l.light[0] / l.light[2])});
      }
    }
  }
  std::vector<FollowedValue> out;
  const auto follow = [&](Parameter of, const std::vector<Reading>& readings, double flicker,
                          double least, double unit) {
    const Polish polish(readings, frames.size(), lamps.size());
    std::vector<CurvePoint> points;
    double first = 0.0;
    for (std::size_t i = 0; i < frames.size(); ++i) {
      if (!polish.told(i)) continue;
      if (points.empty()) first = polish.at(i);
      points.push_back({frames[i].frame, unit * (polish.at(i) - first),
                        std::abs(unit) * polish.sigma(i, flicker)});
    }
    if (points.size() >= 3) out.push_back(followed(of, frames, points, least));
  };
  follow(Parameter::exposure, light, usual_flicker, unseen_exposure, 1.0);
  // Daylight, where the notes do not say what the camera was told.
  constexpr White daylight{.temperature = Temperature::from_kelvin(5600.0)};
  const White told = frames.front().estimate.take.white.value_or(daylight);
  follow(Parameter::white, tinge, 0.5 * usual_flicker, unseen_white, mired_of(1.0, told));
  return out;
}

}  // namespace jolly_iris::matching
