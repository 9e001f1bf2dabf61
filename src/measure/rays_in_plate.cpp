#include "jolly_iris/measure/rays_in_plate.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <numbers>

#include "bright_things.hpp"
#include "jolly_iris/optics/iris.hpp"
#include "jolly_iris/picture/scatter.hpp"
#include "optics/quantile.hpp"
#include "picture/require_finite.hpp"
#include "ray_sets.hpp"
#include "ray_strips.hpp"
#include "streak_fit.hpp"

namespace jolly_iris {

namespace {

using namespace measuring;
using std::numbers::pi;

constexpr std::size_t most_lamps_with_rays = 14;  // the brightest are looked at
constexpr double still_seen = 2.5;                // deviations of all lamps together
constexpr double usual_reach_share = 0.03;        // of the width, as finish has it
constexpr double usual_streak_power = 2.0;
// Beside clipped lamps, what is far dimmer than they may be a piece of their own rays: of the light
// from which a channel is clipped.
constexpr double least_witness = 0.2;
// No glass draws half of the light out.
constexpr double most_share_of_streak = 0.5;
// What a codec leaves along its rows and columns pulls faint rays: seen on plates of known spikes.
constexpr double turned_by_codec_deg = 2.5;

int direction_at(double deg) {
  const int d = static_cast<int>(std::lround(deg * ray_directions / 360.0)) % ray_directions;
  return d < 0 ? d + ray_directions : d;
}

// How far out all lamps together still show something in a direction.
double seen_to(const std::vector<RayStrips>& lamps, double deg) {
  double farthest = 0.0;
  const int d = direction_at(deg);
  for (double from = 4.0; from < 2000.0; from *= 1.25) {
    double sum = 0.0;
    int n = 0;
    for (const RayStrips& lamp : lamps) {
      for (std::size_t k = 0; k < lamp.parts(); ++k) {
        if (lamp.distance[k] < from || lamp.distance[k] >= 1.25 * from) continue;
        if (lamp.seen[lamp.at(d, k)] == 0) continue;
        sum += std::clamp(lamp.mean(d, k) / lamp.sigma[k], -6.0, 6.0);
        ++n;
      }
    }
    if (n == 0) continue;
    if (sum / std::sqrt(n) >= still_seen) {
      farthest = 1.25 * from;
    } else if (farthest > 0.0) {
      break;
    }
  }
  return farthest;
}

std::vector<int> blades_for(int rays) {
  std::vector<int> out;
  if (rays % 4 == 2 && rays / 2 >= 3) out.push_back(rays / 2);
  out.push_back(rays);
  return out;
}

// What the camera's own opening would give, strip by strip, for a lamp of light 1.
class ExpectedSpikes {
 public:
  ExpectedSpikes(const VirtualCamera& camera, PixelSize size)
      : kernel_(spike_kernel(Spikes{1.0}, camera, size)) {}

  // Least squares of times × expected against what a lamp has: its sums.
  void add(const RayStrips& lamp, double radius_px, double& ty, double& tt) const {
    const double half = strip_half_width(radius_px);
    std::vector<double> expected(static_cast<std::size_t>(ray_directions));
    for (std::size_t k = 0; k < lamp.parts(); ++k) {
      if (!(lamp.sigma[k] > 0.0)) continue;
      for (int d = 0; d < ray_directions; ++d) {
        const double angle = 2.0 * pi * d / ray_directions;
        expected[static_cast<std::size_t>(d)] =
            across_strip([&](double x, double y) { return light_at(x, y); }, std::cos(angle),
                         std::sin(angle), lamp.distance[k], half);
      }
      const double middle = quantile(std::vector<double>(expected), 0.5);
      const double all = (lamp.light[0] + lamp.light[1] + lamp.light[2]) / 3.0;
      const double w = std::pow(all / lamp.sigma[k], 2.0);
      for (int d = 0; d < ray_directions; ++d) {
        if (lamp.seen[lamp.at(d, k)] == 0) continue;
        const double t = expected[static_cast<std::size_t>(d)] - middle;
        ty += w * t * lamp.mean(d, k) / all;
        tt += w * t * t;
      }
    }
  }

 private:
  double light_at(double x, double y) const {
    double sum = 0.0;
    for (std::size_t c = 0; c < 3; ++c) {
      const ScatterShape& shape = *kernel_.shape[c];
      const int px = static_cast<int>(std::lround(x));
      const int py = static_cast<int>(std::lround(y));
      if (std::abs(px) > shape.reach_x || std::abs(py) > shape.reach_y) continue;
      sum += kernel_.fraction[c] * static_cast<double>(shape.at(px, py)) / 3.0;
    }
    return sum;
  }

  ScatterKernel kernel_;
};

// Both directions that are neighbours in half a degree share their pixels: so many strips count as
// one.
constexpr double alike_strips = 6.0;
constexpr double times_of_the_model = 0.1;

void hold_against(const std::vector<RayStrips>& lamps, const BrightThings& bright,
                  const VirtualCamera& camera, PixelSize size, RaysFinding& out) {
  const ExpectedSpikes expected(camera, size);
  std::vector<double> each;
  double ty = 0.0;
  double tt = 0.0;
  for (const RayStrips& lamp : lamps) {
    double y = 0.0;
    double t = 0.0;
    expected.add(lamp, bright.things[lamp.thing].radius_px, y, t);
    if (!(t > 0.0)) continue;
    each.push_back(y / t);
    ty += y;
    tt += t;
  }
  if (each.size() < 2 || !(tt > 0.0)) return;
  const double value = ty / tt;
  double squares = 0.0;
  for (const double e : each) squares += (e - value) * (e - value);
  const auto n = static_cast<double>(each.size());
  const double formal = 2.0 * std::sqrt(alike_strips / tt);
  const double scatter = 2.0 * (1.0 + 1.5 / (n - 1.0)) * std::sqrt(squares / (n * (n - 1.0)));
  if (out.spikes) {
    out.spikes->times = {
        value, std::hypot(formal, std::min(scatter, std::abs(value)), times_of_the_model * value)};
    return;
  }
  out.times_at_most = std::max(0.0, value) + std::max(formal, std::min(scatter, 10.0 * formal));
}

// Only what lies far enough from the lamps that rays beside it are told apart.
std::vector<RayStrips> without_foot(std::vector<RayStrips> lamps) {
  constexpr double foot = 6.0;  // half widths of a strip
  for (RayStrips& lamp : lamps) {
    for (std::size_t k = 0; k < lamp.parts(); ++k) {
      if (lamp.distance[k] >= foot * lamp.half_width) continue;
      for (int d = 0; d < ray_directions; ++d) lamp.seen[lamp.at(d, k)] = 0;
    }
  }
  return lamps;
}

StreakFit widened_by(StreakFit fit, const StreakFit& other) {
  const auto widen = [](Measured& m, const Measured& o) {
    m.margin = std::hypot(m.margin, m.value - o.value);
  };
  for (std::size_t c = 0; c < 3; ++c) widen(fit.fraction[c], other.fraction[c]);
  widen(fit.reach_px, other.reach_px);
  widen(fit.power, other.power);
  return fit;
}

}  // namespace

RaysFinding rays_in(const Picture& plate, const RaysSettings& settings) {
  require_finite(plate);
  RaysFinding out;
  out.usual_reach_px = usual_reach_share * plate.width();
  const BrightThings bright = bright_things_in(plate, settings.clips_at);
  const bool any_clipped = std::any_of(bright.things.begin(), bright.things.end(),
                                       [](const BrightThing& t) { return t.clipped; });
  std::vector<RayStrips> lamps;
  std::vector<RayStrips> unclipped;
  for (std::size_t i = 0; i < bright.things.size() && lamps.size() < most_lamps_with_rays; ++i) {
    const BrightThing& t = bright.things[i];
    std::string why;
    auto strips = strips_around(plate, bright, i, settings.codec_px, why);
    out.lamps.push_back({t.at, t.clipped, strips.has_value(), why});
    if (!strips) continue;
    if (!t.clipped &&
        (!any_clipped || static_cast<double>(t.peak) >= least_witness * settings.clips_at)) {
      unclipped.push_back(*strips);
    }
    lamps.push_back(std::move(*strips));
  }
  if (lamps.empty()) {
    out.no_spikes = bright.things.empty() ? "nothing in it is far brighter than the rest"
                                          : "no small lamp stands by itself";
    out.no_streak = out.no_spikes;
    return out;
  }
  const FoundRays found = rays_of(lamps);
  const std::vector<FoundRay>& rays = found.rays;
  for (const FoundRay& r : rays) {
    out.rays.push_back({r.direction_deg, r.sureness, seen_to(lamps, r.direction_deg.value)});
  }
  const std::optional<RaySet> one_by_one = even_set(found);
  const FaintSet faint = faint_set(lamps);
  std::optional<RaySet> together = faint.told;
  if (together && settings.codec_px > 0) {
    together->first_deg.margin = std::hypot(together->first_deg.margin, turned_by_codec_deg);
  }
  const bool contrary = one_by_one && together && one_by_one->rays != together->rays;
  const std::optional<RaySet> set = contrary ? std::nullopt : (one_by_one ? one_by_one : together);
  const auto farthest_of = [&](const auto& wanted) {
    double farthest = 0.0;
    for (const PlateRay& r : out.rays) {
      if (wanted(r.direction_deg.value)) farthest = std::max(farthest, r.seen_to_px);
    }
    return farthest;
  };
  if (set) {
    PlateSpikes spikes;
    spikes.rays = set->rays;
    spikes.first_deg = set->first_deg;
    spikes.blades = blades_for(set->rays);
    // Those of a set that is told as a whole are not all among the rays.
    for (int i = 0; i < set->rays; ++i) {
      const double deg = set->first_deg.value + i * 360.0 / set->rays;
      spikes.seen_to_px = std::max(spikes.seen_to_px, seen_to(lamps, deg));
    }
    out.spikes = spikes;
  } else {
    out.no_spikes =
        contrary ? fmt::format(
                       "{} lamps have rays that are {} as well as {}: more lamps, or a frame with "
                       "less light around them, would tell",
                       lamps.size(), one_by_one->rays, together->rays)
        : rays.size() < 3
            ? fmt::format("{} lamps have no rays in common", lamps.size())
            : fmt::format(
                  "{} lamps have {} rays in common, but they are not spread evenly around: no iris "
                  "makes such",
                  lamps.size(), rays.size());
  }
  const double largest = std::hypot(plate.width(), plate.height());
  if (const auto pair = opposite_pair(rays, set, faint.likely)) {
    PlateStreak streak;
    streak.direction_deg = *pair;
    streak.seen_to_px = farthest_of(
        [&](double deg) { return std::abs(std::remainder(deg - pair->value, 180.0)) < 2.5; });
    auto fit = unclipped.size() < 2 ? std::nullopt : fitted_streak(unclipped, pair->value, largest);
    // Rays beside a streak lie on its foot: what it would be without that is as likely.
    const bool others =
        set || std::any_of(rays.begin(), rays.end(), [&](const FoundRay& r) {
          return std::abs(std::remainder(r.direction_deg.value - pair->value, 180.0)) > 5.0;
        });
    if (fit && others) {
      const auto far = fitted_streak(without_foot(unclipped), pair->value, largest);
      fit = far ? std::optional(widened_by(*fit, *far)) : std::nullopt;
    }
    const bool of_lens =
        fit && std::all_of(fit->fraction.begin(), fit->fraction.end(),
                           [](const Measured& m) { return m.value < most_share_of_streak; });
    if (of_lens) {
      streak.fraction = fit->fraction;
      streak.reach_px = fit->reach_px;
      streak.power = fit->power;
    }
    out.streak = streak;
  } else {
    out.no_streak = fmt::format("{} lamps have no line in common", lamps.size());
    if (!unclipped.empty()) {
      out.streak_at_most =
          most_hidden_streak(unclipped, out.usual_reach_px, usual_streak_power, largest);
    }
  }
  if (settings.camera && unclipped.size() >= 2) {
    hold_against(unclipped, bright, *settings.camera, plate.size(), out);
  }
  return out;
}

double rays_against_iris(const PlateSpikes& spikes, const Iris& iris) {
  // Rays go across the blades' edges, whose middles lie half a blade beside the corners; a corner
  // is at the top.
  const double edges = 90.0 + iris.rotation.degrees() + 180.0 / std::max(1, iris.blades);
  return std::remainder(spikes.first_deg.value - edges, 360.0 / spikes.rays);
}

}  // namespace jolly_iris
