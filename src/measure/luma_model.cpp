#include "luma_model.hpp"

#include <cmath>

#include "jolly_iris/optics/transfer.hpp"
#include "picture/parallel.hpp"

namespace jolly_iris::measuring {

namespace {

constexpr int cells = 4096;

// The curve from 0 to 1 by straight lines: pixels are asked for by the million.
struct Curve {
  std::array<float, cells + 2> at{};
  Curve() {
    for (int i = 0; i <= cells + 1; ++i) {
      // cppcheck-suppress containerOutOfBounds ; there are cells + 2 of them
      at[static_cast<std::size_t>(i)] =
          encode(static_cast<float>(i) / static_cast<float>(cells), Transfer::srgb);
    }
  }
  double value(double fraction, double& slope) const {
    if (fraction <= 0.0) {  // noise goes on below black
      slope = static_cast<double>(at[1]) * cells;
      return fraction * slope;
    }
    if (fraction >= 1.0) {  // brighter than most of an unclipped plate
      const double power = 1.055 * std::pow(fraction, 1.0 / 2.4);
      slope = power / (2.4 * fraction);
      return power - 0.055;
    }
    const double x = fraction * cells;
    const auto i = static_cast<std::size_t>(x);
    slope = static_cast<double>(at[i + 1] - at[i]);
    const double v = static_cast<double>(at[i]) + (x - static_cast<double>(i)) * slope;
    slope *= cells;
    return v;
  }
};

const Curve& curve() {
  static const Curve made;
  return made;
}

}  // namespace

double LumaModel::coded(double light) const {
  double slope = 0.0;
  return clip_ && light >= *clip_ ? 1.0 : curve().value(light / white_, slope);
}

LumaModel::CodedValue LumaModel::seen(const std::array<double, 3>& light) const {
  CodedValue out;
  const Curve& table = curve();
  for (std::size_t c = 0; c < 3; ++c) {
    if (clip_ && light[c] >= *clip_) {
      out.value += luma_weights[c];
      continue;
    }
    double slope = 0.0;
    out.value += luma_weights[c] * table.value(light[c] / white_, slope);
    out.slope[c] = luma_weights[c] * slope / white_;
  }
  return out;
}

GreyImage LumaModel::of(const Picture& plate) const {
  GreyImage p(plate.width(), plate.height());
  parallel_for(0, plate.height(), [&](int y) {
    for (int x = 0; x < plate.width(); ++x) {
      const Rgba& c = plate.at(x, y);
      p.at(x, y) = static_cast<float>(
          seen({static_cast<double>(c[0]), static_cast<double>(c[1]), static_cast<double>(c[2])})
              .value);
    }
  });
  return p;
}

}  // namespace jolly_iris::measuring
