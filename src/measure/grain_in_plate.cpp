#include "jolly_iris/measure/grain_in_plate.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <limits>
#include <map>
#include <numeric>

#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/optics/exposure.hpp"
#include "jolly_iris/optics/transfer.hpp"
#include "optics/quantile.hpp"
#include "optics/seeded.hpp"
#include "second_differences.hpp"

namespace jolly_iris {

namespace {

using measuring::DifferenceLaw;
using measuring::SecondDifferences;

// Chance lifts one flat square in a hundred and fifty above this many deviations.
constexpr double accepted_sigmas = 2.5;
constexpr int levels_apart = 10;          // groups of squares by their light
constexpr std::size_t least_a_group = 6;  // flat squares, for a group to count
constexpr std::size_t least_squares = 24;
constexpr int draws = 200;  // of the bootstrap
constexpr double softest_px = 2.5;
constexpr double least_size_px = 0.33;
// No margin is less than this share: what a line a + b L leaves out.
constexpr double least_margin = 0.006;
// Fewer of a file's steps than this cannot be told from its rounding; and what a codec may have
// taken of more, as a share that falls with them. Measured on plates through JPEG of quality 95.
constexpr double least_steps = 1.0;
// Two sizes that differ by more than this share are no grain.
constexpr double most_apart = 0.4;
constexpr double codec_loss = 0.6;
constexpr double codec_steps = 1.6;
constexpr double codec_floor = 0.03;

// What tells the variance: middle differences are stirred least by soft texture; all that is left
// of a square without its ramp sees what a codec makes of colours too, which comes in patches.
enum class GrainScale { middle, whole };

struct GrainSquare {
  Box box{};
  Rgb level{};
  std::array<SecondDifferences, 3> of{};  // of each channel
  std::array<double, 3> across{};         // product of two channels' differences: rg, gb, br

  double variance(std::size_t c, const DifferenceLaw& law, GrainScale scale) const {
    return scale == GrainScale::whole ? of[c].whole / law.whole : of[c].middle / law.middle;
  }
};

// One channel's variance as a + b L, and the softness that belongs to it.
struct VarianceModel {
  double a = 0.0;
  double b = 0.0;
  double at(double level) const { return std::max(1e-16, a + b * std::max(0.0, level)); }
};

std::vector<GrainSquare> squares_of(const Picture& plate, double clips_at) {
  std::vector<GrainSquare> out;
  for (int y = 0; y + grain_square <= plate.height(); y += grain_square) {
    for (int x = 0; x + grain_square <= plate.width(); x += grain_square) {
      GrainSquare s;
      s.box = {x, y, grain_square, grain_square};
      bool clipped = false;
      std::size_t dark = 0;
      for (int v = y; v < y + grain_square; ++v) {
        for (int u = x; u < x + grain_square; ++u) {
          const Rgba& p = plate.at(u, v);
          for (std::size_t c = 0; c < 3; ++c) {
            s.level[c] += static_cast<double>(p[c]);
            clipped = clipped || static_cast<double>(p[c]) >= clips_at;
            dark += p[c] == 0.0F;
          }
        }
      }
      // What ends at black has lost half of its grain.
      if (clipped || dark > 12U) continue;
      for (double& l : s.level) l /= grain_square * grain_square;
      const auto differences = measuring::second_differences(plate, s.box);
      s.of = differences.of;
      s.across = differences.across;
      out.push_back(s);
    }
  }
  return out;
}

// The variance of squares of about one light, those with texture left out: from the quietest up,
// until chance no longer explains more.
struct Quiet {
  double variance = 0.0;
  std::size_t flat = 0;
};
Quiet quiet_of(std::vector<double> variances, double relative_sigma) {
  std::sort(variances.begin(), variances.end());
  const std::size_t first = std::max<std::size_t>(3, variances.size() / 20);
  if (variances.size() < least_a_group) return {};
  double v = variances[first / 2];
  Quiet out;
  for (int i = 0; i < 50; ++i) {
    const double limit = v * (1.0 + accepted_sigmas * relative_sigma);
    const auto end = std::upper_bound(variances.begin(), variances.end(), limit);
    const auto n = static_cast<std::size_t>(end - variances.begin());
    const double mean = std::accumulate(variances.begin(), end, 0.0) /
                        static_cast<double>(std::max<std::size_t>(1, n));
    out = {mean, n};
    if (!(mean > v * (1.0 + 1e-6))) break;
    v = mean;
  }
  return out;
}

// Least squares of variance against light, each square by the inverse of its own variance's
// variance; neither a nor b below zero.
VarianceModel fitted(const std::vector<const GrainSquare*>& squares, std::size_t c,
                     const VarianceModel& weights, const DifferenceLaw& law, GrainScale scale) {
  double sw = 0.0, sx = 0.0, sy = 0.0, sxx = 0.0, sxy = 0.0;
  for (const GrainSquare* s : squares) {
    const double x = std::max(0.0, s->level[c]);
    const double y = s->variance(c, law, scale);
    const double w = 1.0 / std::pow(weights.at(x), 2.0);
    sw += w;
    sx += w * x;
    sy += w * y;
    sxx += w * x * x;
    sxy += w * x * y;
  }
  const double det = sw * sxx - sx * sx;
  VarianceModel out{sw > 0.0 ? sy / sw : 0.0, 0.0};
  if (det > 1e-9 * sw * sxx) {
    out = {(sxx * sy - sx * sxy) / det, (sw * sxy - sx * sy) / det};
    if (out.b < 0.0) out = {sy / sw, 0.0};
    if (out.a < 0.0) out = {0.0, sxy / sxx};
  }
  return out;
}

struct GrainEstimate {
  std::array<VarianceModel, 3> model{};
  double size_px = 0.0;
  double alike = 0.0;
};

// How soft it is, by what neighbours differ less than far ones.
double size_from(const std::vector<const GrainSquare*>& squares,
                 const std::array<VarianceModel, 3>& model) {
  double near = 0.0;
  double middle = 0.0;
  for (const GrainSquare* s : squares) {
    for (std::size_t c = 0; c < 3; ++c) {
      const double w = 1.0 / model[c].at(s->level[c]);
      near += w * s->of[c].near;
      middle += w * s->of[c].middle;
    }
  }
  const double ratio = near / middle;
  double low = 0.0;
  double high = softest_px;
  for (int i = 0; i < 40; ++i) {
    const double mid = 0.5 * (low + high);
    const DifferenceLaw law = measuring::difference_law(mid);
    (law.near / law.middle > ratio ? low : high) = mid;
  }
  return 0.5 * (low + high);
}

GrainEstimate estimate(const std::vector<const GrainSquare*>& squares, GrainEstimate from,
                       GrainScale scale) {
  for (int i = 0; i < 3; ++i) {
    const DifferenceLaw law = measuring::difference_law(from.size_px);
    for (std::size_t c = 0; c < 3; ++c) {
      from.model[c] = fitted(squares, c, from.model[c], law, scale);
    }
    from.size_px = size_from(squares, from.model);
  }
  double common = 0.0;
  double all = 0.0;
  const double expected = measuring::difference_law(from.size_px).middle;
  for (const GrainSquare* s : squares) {
    for (std::size_t c = 0; c < 3; ++c) {
      const std::size_t d = (c + 1) % 3;
      common +=
          s->across[c] / std::sqrt(from.model[c].at(s->level[c]) * from.model[d].at(s->level[d]));
      all += expected;
    }
  }
  from.alike = all > 0.0 ? common / all : 0.0;
  return from;
}

// Groups by light, the quiet ones of each, and a line through them.
VarianceModel first_model(const std::vector<GrainSquare>& squares, std::size_t c,
                          const DifferenceLaw& law) {
  std::vector<const GrainSquare*> sorted;
  for (const GrainSquare& s : squares) sorted.push_back(&s);
  std::sort(sorted.begin(), sorted.end(),
            [&](const GrainSquare* p, const GrainSquare* q) { return p->level[c] < q->level[c]; });
  double sw = 0.0, sx = 0.0, sy = 0.0, sxx = 0.0, sxy = 0.0;
  for (int g = 0; g < levels_apart; ++g) {
    const std::size_t from = sorted.size() * static_cast<std::size_t>(g) / levels_apart;
    const std::size_t to = sorted.size() * static_cast<std::size_t>(g + 1) / levels_apart;
    std::vector<double> variances;
    double level = 0.0;
    for (std::size_t i = from; i < to; ++i) {
      variances.push_back(sorted[i]->variance(c, law, GrainScale::middle));
      level += std::max(0.0, sorted[i]->level[c]);
    }
    const Quiet quiet = quiet_of(variances, law.middle_sigma);
    if (quiet.flat < least_a_group || !(quiet.variance > 0.0)) continue;
    level /= static_cast<double>(variances.size());
    const double w = static_cast<double>(quiet.flat) / (quiet.variance * quiet.variance);
    sw += w;
    sx += w * level;
    sy += w * quiet.variance;
    sxx += w * level * level;
    sxy += w * level * quiet.variance;
  }
  if (!(sw > 0.0)) return {};
  const double det = sw * sxx - sx * sx;
  VarianceModel out{sy / sw, 0.0};
  if (det > 1e-9 * sw * sxx) out = {(sxx * sy - sx * sxy) / det, (sw * sxy - sx * sy) / det};
  if (out.b < 0.0) out = {sy / sw, 0.0};
  if (out.a < 0.0) out = {0.0, sxy / sxx};
  return out;
}

// How squares lie around the model by one of their figures: the middle of those that are no
// texture, and how far chance (and a codec, which rounds each square in its own way) takes them
// from it.
struct RatioSpread {
  double middle = 1.0;
  double sigma = 0.1;
};

using SquareFigure = double (*)(const GrainSquare&, std::size_t);
constexpr SquareFigure figures[] = {
    [](const GrainSquare& s, std::size_t c) { return s.of[c].near; },
    [](const GrainSquare& s, std::size_t c) { return s.of[c].middle; },
    [](const GrainSquare& s, std::size_t c) { return s.of[c].far; },
    [](const GrainSquare& s, std::size_t c) { return s.of[c].whole; },
};

// By the quieter side alone, where texture is not: the middle is where squares lie densest.
RatioSpread spread_of(std::vector<double> ratios, double least_sigma) {
  std::sort(ratios.begin(), ratios.end());
  const std::size_t n = ratios.size();
  // The densest half-width of the lowest part: the shortest interval that holds a quarter.
  const std::size_t part = std::max<std::size_t>(8, n / 4);
  if (n <= part) return {ratios[n / 2], least_sigma};
  std::size_t best = 0;
  double shortest = std::numeric_limits<double>::infinity();
  for (std::size_t i = 0; i + part < n; ++i) {
    const double length = ratios[i + part] - ratios[i];
    // Of the same density, the quieter: by a share, since noise grows with its level.
    if (length / ratios[i + part / 2] < shortest - 1e-12) {
      shortest = length / ratios[i + part / 2];
      best = i;
    }
  }
  const double middle = ratios[best + part / 2];
  std::vector<double> below;
  for (const double r : ratios) {
    if (r < middle) below.push_back(1.0 - r / middle);
  }
  // Half of what lies below the middle of a bell lies within 0.6745 of its deviations.
  const double sigma = below.size() < 8 ? least_sigma : quantile(below, 0.5) / 0.6745;
  return {middle, std::clamp(sigma, least_sigma, 0.5)};
}

std::vector<const GrainSquare*> flat_ones(const std::vector<GrainSquare>& squares,
                                          const GrainEstimate& e) {
  const DifferenceLaw law = measuring::difference_law(e.size_px);
  std::vector<char> flat(squares.size(), 1);
  for (const SquareFigure figure : figures) {
    for (std::size_t c = 0; c < 3; ++c) {
      std::vector<double> ratios;
      for (const GrainSquare& s : squares)
        ratios.push_back(figure(s, c) / e.model[c].at(s.level[c]));
      const RatioSpread spread = spread_of(ratios, law.middle_sigma);
      for (std::size_t i = 0; i < squares.size(); ++i) {
        flat[i] = flat[i] != 0 && std::abs(ratios[i] / spread.middle - 1.0) <=
                                      accepted_sigmas * spread.sigma + 0.02;
      }
    }
  }
  std::vector<const GrainSquare*> out;
  for (std::size_t i = 0; i < squares.size(); ++i) {
    if (flat[i] != 0) out.push_back(&squares[i]);
  }
  return out;
}

// Neighbouring squares share their texture and what a codec did to them: they are drawn together.
std::vector<std::vector<const GrainSquare*>> patches_of(
    const std::vector<const GrainSquare*>& squares) {
  constexpr int side = 3 * grain_square;
  std::map<std::array<int, 2>, std::vector<const GrainSquare*>> by_place;
  for (const GrainSquare* s : squares) by_place[{s->box.x / side, s->box.y / side}].push_back(s);
  std::vector<std::vector<const GrainSquare*>> out;
  for (auto& [place, patch] : by_place) out.push_back(std::move(patch));
  return out;
}

// Of the channel that has the fewest.
double least_in_steps(const GrainEstimate& e, const Rgb& level, double steps) {
  double least = std::numeric_limits<double>::infinity();
  for (std::size_t c = 0; c < 3; ++c) {
    const double light = std::max(1e-4, level[c]);
    const auto code = [&](double l) {
      return steps * static_cast<double>(encode(static_cast<float>(l), Transfer::srgb));
    };
    const double slope = (code(1.02 * light) - code(0.98 * light)) / (0.04 * light);
    least = std::min(least, slope * std::sqrt(e.model[c].at(light)));
  }
  return least;
}

Measured two_sigmas(double value, const std::vector<double>& drawn) {
  // By the middle 95 %: grain of codecs is not normal.
  const double low = quantile(drawn, 0.025);
  const double high = quantile(drawn, 0.975);
  return {value, std::max(value - low, high - value)};
}

}  // namespace

GrainFinding grain_in(const Picture& plate, const GrainSettings& settings) {
  if (plate.width() < 2 * grain_square || plate.height() < 2 * grain_square) {
    throw PictureError(
        fmt::format("a picture of {} x {} px is too small to tell grain from: it "
                    "takes {} px a side",
                    plate.width(), plate.height(), 2 * grain_square));
  }
  const std::vector<GrainSquare> squares = squares_of(plate, settings.clips_at);
  GrainFinding out;
  if (squares.size() < least_squares) {
    out.no_grain = "nearly all of the plate is clipped or black";
    return out;
  }
  const GrainScale scale = settings.steps > 0.0 ? GrainScale::whole : GrainScale::middle;
  GrainEstimate e;
  e.size_px = 0.5;
  for (std::size_t c = 0; c < 3; ++c) {
    e.model[c] = first_model(squares, c, measuring::difference_law(e.size_px));
  }
  std::vector<const GrainSquare*> flat;
  for (int i = 0; i < 8; ++i) {
    flat = flat_ones(squares, e);
    if (flat.size() < least_squares) break;
    e = estimate(flat, e, scale);
  }
  if (flat.size() < least_squares) {
    out.no_grain = fmt::format(
        "only {} of {} squares are flat: texture cannot be told from grain here. A frame of an "
        "even "
        "wall or sky by the same camera at the same ISO would tell",
        flat.size(), squares.size());
    return out;
  }
  GrainInPlate found;
  found.squares = static_cast<int>(squares.size());
  for (std::size_t c = 0; c < 3; ++c) {
    std::vector<double> levels;
    for (const GrainSquare* s : flat) levels.push_back(s->level[c]);
    found.darkest[c] = quantile(levels, 0.02);
    found.brightest[c] = quantile(levels, 0.98);
    found.level[c] = quantile(levels, 0.5);
  }
  // Near its own steps a file rounds grain away, and a codec does so in one block and not in the
  // next.
  double lost = 0.0;
  if (settings.steps > 0.0) {
    const double in_steps = least_in_steps(e, found.level, settings.steps);
    if (in_steps < least_steps) {
      out.no_grain = fmt::format(
          "grain is {:.1f} of the file's steps: rounding and its codec have taken most of it",
          in_steps);
      out.at_most = Rgb{};
      for (std::size_t c = 0; c < 3; ++c) {
        (*out.at_most)[c] =
            least_steps / in_steps * std::sqrt(e.model[c].at(std::max(0.0, found.level[c])));
      }
      return out;
    }
    lost = std::hypot(codec_floor, codec_loss * std::exp(-in_steps / codec_steps));
  }
  const GrainEstimate by_whole = estimate(flat, e, GrainScale::whole);
  const GrainEstimate by_middle = estimate(flat, e, GrainScale::middle);
  e = scale == GrainScale::whole ? by_whole : by_middle;
  for (std::size_t c = 0; c < 3; ++c) {
    const double whole = by_whole.model[c].at(found.level[c]);
    const double middle = by_middle.model[c].at(found.level[c]);
    if (std::abs(std::sqrt(whole / middle) - 1.0) <= most_apart) continue;
    out.no_grain =
        "what lies on flat areas is another strength at another size, as texture is and grain is "
        "not. A frame of an even wall or sky by the same camera at the same ISO would tell";
    return out;
  }
  std::array<std::vector<double>, 3> black, grey, at_level;
  std::vector<double> sizes, alikes;
  const std::vector<std::vector<const GrainSquare*>> patches = patches_of(flat);
  Seeded random(17);
  for (int d = 0; d < draws; ++d) {
    std::vector<const GrainSquare*> drawn;
    while (drawn.size() < flat.size()) {
      const auto& patch =
          patches[static_cast<std::size_t>(random.next() * static_cast<double>(patches.size()))];
      drawn.insert(drawn.end(), patch.begin(), patch.end());
    }
    const GrainEstimate one = estimate(drawn, e, scale);
    for (std::size_t c = 0; c < 3; ++c) {
      black[c].push_back(std::sqrt(one.model[c].at(0.0)));
      grey[c].push_back(std::sqrt(one.model[c].at(grey_value)));
      at_level[c].push_back(std::sqrt(one.model[c].at(found.level[c])));
    }
    sizes.push_back(one.size_px);
    alikes.push_back(one.alike);
  }
  for (std::size_t c = 0; c < 3; ++c) {
    const auto told = [&](double level, const std::vector<double>& drawn) {
      Measured m = two_sigmas(std::sqrt(e.model[c].at(level)), drawn);
      // Where two scales disagree, it is no plain grain: texture, or a codec.
      const double other =
          std::sqrt(
              (scale == GrainScale::whole ? by_middle : by_whole).model[c].at(found.level[c])) /
          std::sqrt(e.model[c].at(found.level[c]));
      const double share = std::hypot(0.7 * (other - 1.0), least_margin, lost);
      m.margin = std::hypot(m.margin, share * m.value);
      return m;
    };
    found.black[c] = told(0.0, black[c]);
    found.grey[c] = told(grey_value, grey[c]);
    found.at_level[c] = told(found.level[c], at_level[c]);
  }
  found.size_px = two_sigmas(e.size_px, sizes);
  found.size_px.margin = std::hypot(found.size_px.margin, 0.012);
  // Less than a third of a pixel cannot be told from none.
  if (found.size_px.value < least_size_px) found.size_px = {0.0, least_size_px};
  found.alike = two_sigmas(e.alike, alikes);
  found.alike.margin = std::hypot(found.alike.margin, 0.006);
  if (settings.steps > 0.0) {
    // A codec keeps colours coarser than light: grain becomes alike, and its neighbours too.
    found.size_px.margin =
        std::hypot(found.size_px.margin, 0.06 + 0.55 * std::max(0.0, e.size_px - 0.5));
    found.alike.margin = std::hypot(found.alike.margin, 0.15 + 0.5 * lost);
  }
  const DifferenceLaw law = measuring::difference_law(e.size_px);
  for (const GrainSquare* s : flat) {
    GrainPlace place{s->box, s->level, {}};
    for (std::size_t c = 0; c < 3; ++c) place.variance[c] = s->variance(c, law, scale);
    found.places.push_back(place);
  }
  out.grain = std::move(found);
  return out;
}

Grain grain_like(const GrainInPlate& found) {
  Grain out;
  for (std::size_t c = 0; c < 3; ++c) {
    out.black[c] = found.black[c].value;
    out.grey[c] = std::max(found.black[c].value, found.grey[c].value);
  }
  if (found.size_px.value > found.size_px.margin) {
    out.size = {BlurSize::Kind::pixels, found.size_px.value};
  }
  out.alike = std::clamp(found.alike.value, 0.0, 1.0);
  return out;
}

}  // namespace jolly_iris
