#include "jolly_iris/measure/halo_in_plate.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "bright_things.hpp"
#include "halo_fit.hpp"
#include "lamp_skirts.hpp"
#include "picture/require_finite.hpp"

namespace jolly_iris {

namespace {

using namespace measuring;

constexpr int rounds = 4;
constexpr int nearest_rings = 3;
// A share is seen where it is so many of its standard deviations from none.
constexpr double clearly = 4.0;
// What the model leaves out (bins of distance, a thing's soft edge): of the value.
constexpr double of_the_model = 0.02;
// Shapes are tried by steps of 2 %: one that did not move may still be off by as much.
constexpr double of_a_step = 0.02;
// What is less sure than this is not told: small halos hide in the edges of their lamps.
constexpr double most_margin = 0.25;
// No glass spreads half of the light; and powers are looked for from 2.05 to 7.
constexpr double most_share = 0.5;
constexpr double least_told_power = 2.06;
constexpr double most_told_power = 6.5;

// Neighbouring places are alike, so that groups tell less than they seem to: measured on plates of
// known halo.
constexpr double widened = 1.9;

// Two standard deviations from fits that each left one group out (Efron 1982), with as much more as
// few groups ask for (Student's t at 97.7 %).
double margin_of(const std::vector<double>& values) {
  const auto n = static_cast<double>(values.size());
  double mean = 0.0;
  for (const double v : values) mean += v / n;
  double squares = 0.0;
  for (const double v : values) squares += (v - mean) * (v - mean);
  const double sigma = std::sqrt((n - 1.0) / n * squares);
  return 2.0 * widened * (1.0 + 1.5 / std::max(1.0, n - 1.0)) * sigma;
}

double margin_in(const std::vector<HaloFit>& fits, std::size_t channel) {
  std::vector<double> values;
  for (const HaloFit& f : fits) values.push_back(f.free_gain[channel]);
  return margin_of(values);
}

}  // namespace

HaloFinding halo_in(const Picture& plate, const HaloSettings& settings) {
  require_finite(plate);
  HaloFinding out;
  out.usual_reach_px = 0.003 * plate.width();
  const BrightThings bright = bright_things_in(plate, settings.clips_at);
  std::vector<std::string> why;
  std::vector<Skirt> skirts = skirts_of(plate, bright, {}, 1.0, settings.codec_px, why);
  for (std::size_t i = 0; i < bright.things.size(); ++i) {
    const BrightThing& t = bright.things[i];
    out.lamps.push_back({t.at, t.radius_px, t.clipped, why[i].empty(), why[i]});
  }
  if (skirts.empty()) {
    out.no_halo = bright.things.empty() ? "nothing in it is far brighter than the rest"
                                        : "no lamp stands by itself, with dark ground around it";
    return out;
  }
  const auto unclipped = std::count_if(skirts.begin(), skirts.end(), [&](const Skirt& s) {
    return !bright.things[s.thing].clipped;
  });
  if (unclipped == 0) {
    out.no_halo =
        "every lamp that stands by itself is clipped: how much light it has, and so which share of "
        "it is spread, is not known; a darker exposure of the same lamps would settle it";
    return out;
  }
  const double largest = 1.13 * std::hypot(plate.width(), plate.height());
  // The better the halo is known, the better is what of a lamp's light is its own.
  GuessedHalo guess{{out.usual_reach_px, 3.0}, {}};
  std::optional<SkirtFit> fits;
  HaloFit best;
  for (int i = 0; i < rounds; ++i) {
    if (i > 0) skirts = skirts_of(plate, bright, guess, largest, settings.codec_px, why);
    fits.emplace(skirts, bright, largest);
    best = fits->with(guess.shape, {});
    for (int j = 0; j < (i == 0 ? 3 : 2); ++j) {
      fits->weigh(best);
      best = fits->best({});
    }
    guess = {best.shape, best.gain};
  }
  SkirtFit& fit = *fits;
  // How sure: without each group once, both with its own shape and with a usual one.
  std::vector<HaloFit> without;
  std::vector<HaloFit> as_found;
  for (int g = 0; g < fit.groups(); ++g) {
    without.push_back(fit.best(g));
    as_found.push_back(fit.with(best.shape, g));
  }
  // What would have been seen: the most that any usual shape could hide.
  Rgb at_most{};
  for (const double times : {1.0, 2.0, 4.0}) {
    for (const double power : {2.5, 3.0}) {
      const HaloShape usual{times * out.usual_reach_px, power};
      const HaloFit there = fit.with(usual, {});
      std::vector<HaloFit> fits_without;
      for (int g = 0; g < fit.groups(); ++g) fits_without.push_back(fit.with(usual, g));
      for (std::size_t c = 0; c < 3; ++c) {
        at_most[c] =
            std::max(at_most[c], std::min(1.0, there.gain[c] + margin_in(fits_without, c)));
      }
    }
  }
  // And without the nearest rings, where a soft edge or a codec would tell most: what the picture
  // has that the model has not.
  fit.leave_rings(nearest_rings);
  const HaloFit farther = fit.best({});
  const auto margin = [&](const auto& value_of) {
    std::vector<double> values;
    for (const HaloFit& s : without) values.push_back(value_of(s));
    return std::hypot(margin_of(values), value_of(farther) - value_of(best));
  };
  HaloInPlate halo;
  const double power_margin = margin([](const HaloFit& s) { return s.shape.power; });
  halo.power = {best.shape.power, std::hypot(power_margin, of_a_step * best.shape.power)};
  const double log_margin = margin([](const HaloFit& s) { return std::log(s.shape.reach_px); });
  halo.reach_px = {best.shape.reach_px, best.shape.reach_px * std::hypot(log_margin, of_a_step)};
  bool seen = true;
  for (std::size_t c = 0; c < 3; ++c) {
    const double m = margin([c](const HaloFit& s) { return s.gain[c]; });
    halo.fraction[c] = {best.gain[c], std::hypot(m, of_the_model * best.gain[c])};
    seen = seen && best.gain[c] > 0.5 * clearly * margin_in(as_found, c);
  }
  if (!seen) {
    out.no_halo =
        fmt::format("beside {} lamps there is no more light than chance leaves", unclipped);
    out.at_most = at_most;
    return out;
  }
  // More than a lens spreads, or a fall that ends where it was looked for: what lies around these
  // things is their own surroundings.
  const bool is_halo = std::all_of(best.gain.begin(), best.gain.end(),
                                   [](double share) { return share < most_share; }) &&
                       best.shape.power > least_told_power && best.shape.power < most_told_power;
  if (!is_halo) {
    out.no_halo =
        "there is light around bright things, but not as a lens spreads it: it is what stands "
        "beside "
        "them; lamps on dark, even ground would settle it";
    return out;
  }
  const bool sure = std::all_of(halo.fraction.begin(), halo.fraction.end(), [](const Measured& m) {
    return m.margin <= most_margin * m.value;
  });
  if (!sure) {
    out.no_halo =
        "there is light around lamps, but not how much of theirs: most of it lies too near to "
        "them; "
        "more lamps on dark, even ground, or more pixels, would settle it";
    out.at_most = at_most;
    return out;
  }
  out.halo = halo;
  return out;
}

}  // namespace jolly_iris
