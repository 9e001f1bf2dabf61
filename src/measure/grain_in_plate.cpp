#include "jolly_iris/measure/grain_in_plate.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <limits>

#include "flat_squares.hpp"
#include "grain_model.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/optics/exposure.hpp"
#include "jolly_iris/optics/transfer.hpp"
#include "optics/quantile.hpp"
#include "optics/seeded.hpp"

namespace jolly_iris {

namespace {

using namespace measuring;

constexpr std::size_t least_squares = 24;
constexpr int draws = 200;  // of the bootstrap
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
  const std::vector<GrainSquare> squares = grain_squares(plate, settings.clips_at);
  GrainFinding out;
  if (squares.size() < least_squares) {
    out.no_grain = "nearly all of the plate is clipped or black";
    return out;
  }
  const GrainScale scale = settings.steps > 0.0 ? GrainScale::whole : GrainScale::middle;
  GrainEstimate e;
  e.size_px = 0.5;
  for (std::size_t c = 0; c < 3; ++c) {
    e.model[c] = first_model(squares, c, difference_law(e.size_px));
  }
  GrainSquares flat;
  for (int i = 0; i < 8; ++i) {
    flat = flat_squares(squares, e);
    if (flat.size() < least_squares) break;
    e = grain_estimate(flat, e, scale);
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
  const GrainEstimate by_whole = grain_estimate(flat, e, GrainScale::whole);
  const GrainEstimate by_middle = grain_estimate(flat, e, GrainScale::middle);
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
  const std::vector<GrainSquares> patches = grain_patches(flat);
  Seeded random(17);
  for (int d = 0; d < draws; ++d) {
    GrainSquares drawn;
    while (drawn.size() < flat.size()) {
      const auto& patch =
          patches[static_cast<std::size_t>(random.next() * static_cast<double>(patches.size()))];
      drawn.insert(drawn.end(), patch.begin(), patch.end());
    }
    const GrainEstimate one = grain_estimate(drawn, e, scale);
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
  // What is left of the ground's own texture is alike in all channels, and looks like grain that
  // is.
  found.alike.margin = std::hypot(found.alike.margin, 0.03);
  if (settings.steps > 0.0) {
    // A codec keeps colours coarser than light: grain becomes alike, and its neighbours too.
    found.size_px.margin =
        std::hypot(found.size_px.margin, 0.06 + 0.55 * std::max(0.0, e.size_px - 0.5));
    found.alike.margin = std::hypot(found.alike.margin, 0.15 + 0.5 * lost);
  }
  const DifferenceLaw law = difference_law(e.size_px);
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
