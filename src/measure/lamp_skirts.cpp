#include "lamp_skirts.hpp"

#include <algorithm>
#include <cmath>
#include <numbers>

#include "optics/quantile.hpp"
#include "picture/parallel.hpp"

namespace jolly_iris::measuring {

namespace {

using std::numbers::pi;

constexpr double nearest_bin_px = 1.5;
constexpr double bins_an_octave = 4.5;
// The first ring lies so far outside of the thing's pixels, the last at so many of its radii.
constexpr double beside_px = 2.0;
constexpr double radii = 9.0;
constexpr double least_px = 45.0;
constexpr double most_px = 220.0;
constexpr double far_radii = 8.0;  // from where on a thing counts as one point
constexpr std::size_t most_things = 32;
constexpr double least_covered = 0.35;  // of a skirt's places that can be looked at

// A thing's light, in patches: those far away need not be told pixel by pixel.
struct Source {
  double x = 0.0;
  double y = 0.0;
  std::array<double, 3> light{};
};

std::vector<Source> sources_of(const Picture& plate, const BrightThing& thing,
                               const std::array<double, 3>& ground, int cell) {
  const auto width = static_cast<std::uint32_t>(plate.width());
  std::vector<Source> cells;
  std::vector<std::pair<std::uint64_t, std::size_t>> where;
  std::vector<std::uint32_t> pixels = thing.pixels;
  const auto cell_of = [&](std::uint32_t i) {
    return (static_cast<std::uint64_t>(i / width) / static_cast<std::uint64_t>(cell)) * 65536U +
           (i % width) / static_cast<std::uint32_t>(cell);
  };
  std::sort(pixels.begin(), pixels.end(),
            [&](std::uint32_t a, std::uint32_t b) { return cell_of(a) < cell_of(b); });
  for (std::size_t k = 0; k < pixels.size();) {
    Source s;
    double weight = 0.0;
    const std::uint64_t here = cell_of(pixels[k]);
    for (; k < pixels.size() && cell_of(pixels[k]) == here; ++k) {
      const Rgba& p = plate.pixels()[pixels[k]];
      double all = 0.0;
      for (std::size_t c = 0; c < 3; ++c) {
        const double own = std::max(0.0, static_cast<double>(p[c]) - ground[c]);
        s.light[c] += own;
        all += own;
      }
      s.x += all * (pixels[k] % width + 0.5);
      const std::uint32_t row = pixels[k] / width;
      s.y += all * (row + 0.5);
      weight += all;
    }
    if (!(weight > 0.0)) continue;
    s.x /= weight;
    s.y /= weight;
    cells.push_back(s);
  }
  return cells;
}

// A thing's light as it came through the glass: without what is spread over the thing itself, and
// with what it lost.
std::vector<Source> unspread(std::vector<Source> seen, const GuessedHalo& guess,
                             double largest_px) {
  constexpr std::size_t most_pixels = 6000;  // of a wall, little of its light is near an edge
  if (!(guess.fraction[0] + guess.fraction[1] + guess.fraction[2] > 0.0)) return seen;
  if (seen.size() > most_pixels) return seen;
  // Pixels are whole steps apart.
  std::vector<float> at;
  const auto kernel = [&](double dx, double dy) {
    const auto squared = static_cast<std::size_t>(dx * dx + dy * dy);
    while (at.size() <= squared) {
      const double r = std::sqrt(static_cast<double>(at.size()));
      // Of its own light a pixel keeps what falls into a circle of its area.
      at.push_back(static_cast<float>(at.empty() ? guess.shape.inside(std::numbers::inv_sqrtpi)
                                                 : guess.shape.at(r, largest_px)));
    }
    return at[squared];
  };
  std::vector<Source> own = seen;
  for (std::size_t i = 0; i < seen.size(); ++i) {
    std::array<float, 3> spread{};
    for (const Source& s : seen) {
      const float k = kernel(s.x - seen[i].x, s.y - seen[i].y);
      for (std::size_t c = 0; c < 3; ++c) spread[c] += k * static_cast<float>(s.light[c]);
    }
    for (std::size_t c = 0; c < 3; ++c) {
      const double f = guess.fraction[c];
      own[i].light[c] =
          std::max(0.0, (seen[i].light[c] * (1.0 + f) - f * static_cast<double>(spread[c])));
    }
  }
  return own;
}

// The ground beside a thing: the median of each channel on a ring well outside.
std::array<double, 3> ground_of(const Picture& plate, const BrightThings& bright,
                                const BrightThing& thing) {
  std::array<std::vector<float>, 3> seen;
  const double r = 2.0 * thing.reach_px + 12.0;
  for (int k = 0; k < 180; ++k) {
    const int x = static_cast<int>(thing.at[0] + r * std::cos(k * pi / 90.0));
    const int y = static_cast<int>(thing.at[1] + r * std::sin(k * pi / 90.0));
    if (x < 0 || y < 0 || x >= plate.width() || y >= plate.height()) continue;
    const std::size_t i = static_cast<std::size_t>(y) * static_cast<std::size_t>(plate.width()) +
                          static_cast<std::size_t>(x);
    if (bright.owner[i] >= 0) continue;
    for (std::size_t c = 0; c < 3; ++c) seen[c].push_back(plate.pixels()[i][c]);
  }
  std::array<double, 3> out{};
  for (std::size_t c = 0; c < 3; ++c) {
    out[c] = static_cast<double>(upper_median(seen[c]));
  }
  return out;
}

// The mean over a square, of what belongs to no bright thing; nothing where half of it does.
bool patch_at(const Picture& plate, const BrightThings& bright, double x, double y, int half,
              SkirtPlace& place) {
  const int cx = static_cast<int>(std::floor(x));
  const int cy = static_cast<int>(std::floor(y));
  double n = 0.0;
  int whole = 0;
  std::array<double, 3> sum{};
  for (int j = cy - half; j <= cy + half; ++j) {
    for (int i = cx - half; i <= cx + half; ++i) {
      ++whole;
      if (i < 0 || j < 0 || i >= plate.width() || j >= plate.height()) continue;
      const std::size_t at = static_cast<std::size_t>(j) * static_cast<std::size_t>(plate.width()) +
                             static_cast<std::size_t>(i);
      if (bright.owner[at] >= 0) continue;
      for (std::size_t c = 0; c < 3; ++c) sum[c] += static_cast<double>(plate.pixels()[at][c]);
      n += 1.0;
    }
  }
  if (n < 0.75 * whole) return false;
  for (std::size_t c = 0; c < 3; ++c) place.light[c] = sum[c] / n;
  place.pixels = n;
  return true;
}

// @param own the thing itself: beside it each of its pixels counts, light falls steeply there
Skirt skirt_of(const Picture& plate, const BrightThings& bright, std::size_t number,
               const std::vector<Source>& own, const std::vector<std::vector<Source>>& sources,
               const std::vector<Source>& wholes, int spoiled_px) {
  const BrightThing& thing = bright.things[number];
  Skirt skirt;
  skirt.thing = number;
  for (const Source& s : own) {
    for (std::size_t c = 0; c < 3; ++c) skirt.light[c] += s.light[c];
  }
  const double first = thing.reach_px + beside_px + spoiled_px;
  const double last = std::clamp(radii * thing.radius_px, least_px, most_px) + thing.reach_px;
  const double growth =
      std::pow((last - thing.radius_px) / (first - thing.radius_px + 1.0), 1.0 / (skirt_rings - 1));
  double beyond = first - thing.radius_px + 1.0;
  for (int ring = 0; ring < skirt_rings; ++ring, beyond *= growth) {
    const double r = thing.radius_px + beyond;
    const int half = static_cast<int>(std::clamp(0.08 * beyond, 0.0, 8.0));
    for (int sector = 0; sector < skirt_sectors; ++sector) {
      // Rings are turned against each other.
      const double angle = 2.0 * pi * (sector + 0.5 * (ring % 2)) / skirt_sectors;
      SkirtPlace place;
      place.right = r * std::cos(angle);
      place.up = r * std::sin(angle);
      place.sector = sector;
      place.ring = ring;
      const double x = thing.at[0] + place.right;
      const double y = thing.at[1] - place.up;
      if (!patch_at(plate, bright, x, y, half, place)) continue;
      const auto put = [&](const Source& s) {
        // Of many sources: a bin's place is wanted to no more than a float has.
        const double squared = (s.x - x) * (s.x - x) + (s.y - y) * (s.y - y);
        const auto steps = static_cast<float>(squared / (nearest_bin_px * nearest_bin_px));
        const float b =
            std::min(static_cast<float>(0.5 * bins_an_octave) * std::log2(std::max(steps, 1.0F)),
                     skirt_bins - 1.001F);
        const auto bin = static_cast<std::size_t>(b);
        const float second = b - static_cast<float>(bin);
        for (std::size_t c = 0; c < 3; ++c) {
          const auto light = static_cast<float>(s.light[c]);
          place.sources[c][bin] += (1.0F - second) * light;
          place.sources[c][bin + 1] += second * light;
        }
      };
      for (std::size_t t = 0; t < sources.size(); ++t) {
        const BrightThing& other = bright.things[t];
        const bool far = std::hypot(other.at[0] - x, other.at[1] - y) > far_radii * other.reach_px;
        if (far) {
          put(wholes[t]);
        } else {
          for (const Source& s : t == number ? own : sources[t]) put(s);
        }
      }
      skirt.places.push_back(place);
    }
  }
  return skirt;
}

}  // namespace

double distance_of_bin(int bin) { return nearest_bin_px * std::exp2(bin / bins_an_octave); }

std::vector<Skirt> skirts_of(const Picture& plate, const BrightThings& bright,
                             const GuessedHalo& guess, double largest_px, int spoiled_px,
                             std::vector<std::string>& why) {
  why.assign(bright.things.size(), "");
  std::vector<std::vector<Source>> sources;
  std::vector<std::array<double, 3>> grounds;
  for (const BrightThing& t : bright.things) {
    grounds.push_back(ground_of(plate, bright, t));
    sources.push_back(
        sources_of(plate, t, grounds.back(), std::max(1, static_cast<int>(t.radius_px / 6.0))));
  }
  // What a thing lost counts for its neighbours too.
  std::vector<std::vector<Source>> owns(sources.size());
  parallel_for(std::size_t{0}, sources.size(), [&](std::size_t i) {
    const auto seen = sources_of(plate, bright.things[i], grounds[i], 1);
    owns[i] = unspread(seen, guess, largest_px);
    const std::vector<Source>& own = owns[i];
    std::array<double, 3> before{};
    std::array<double, 3> after{};
    for (std::size_t k = 0; k < seen.size(); ++k) {
      for (std::size_t c = 0; c < 3; ++c) {
        before[c] += seen[k].light[c];
        after[c] += own[k].light[c];
      }
    }
    for (Source& s : sources[i]) {
      for (std::size_t c = 0; c < 3; ++c) {
        if (before[c] > 0.0) s.light[c] *= after[c] / before[c];
      }
    }
  });
  std::vector<Source> wholes;
  for (std::size_t i = 0; i < sources.size(); ++i) {
    Source whole{bright.things[i].at[0], bright.things[i].at[1], {}};
    for (const Source& s : sources[i]) {
      for (std::size_t c = 0; c < 3; ++c) whole.light[c] += s.light[c];
    }
    wholes.push_back(whole);
  }
  std::vector<std::size_t> chosen;
  for (std::size_t i = 0; i < bright.things.size(); ++i) {
    const BrightThing& t = bright.things[i];
    const double ground = (grounds[i][0] + grounds[i][1] + grounds[i][2]) / 3.0;
    if (t.at_edge) {
      why[i] = "the frame cuts it";
    } else if (static_cast<double>(t.peak) < lamp_against_ground * ground) {
      why[i] = "it hardly stands out of what is around it";
    } else if (t.reach_px > 2.0 * t.radius_px + 4.0) {
      why[i] = "it is long, or ragged";
    } else if (t.radius_px > 0.12 * plate.height()) {
      why[i] = "it is too large";
    } else if (chosen.size() >= most_things) {
      why[i] = "others are brighter";
    } else {
      chosen.push_back(i);
    }
  }
  std::vector<Skirt> all(chosen.size());
  parallel_for(std::size_t{0}, chosen.size(), [&](std::size_t k) {
    all[k] = skirt_of(plate, bright, chosen[k], owns[chosen[k]], sources, wholes, spoiled_px);
  });
  std::vector<Skirt> out;
  for (Skirt& s : all) {
    if (static_cast<double>(s.places.size()) < least_covered * skirt_rings * skirt_sectors) {
      why[s.thing] = "something else bright stands beside it";
    } else {
      out.push_back(std::move(s));
    }
  }
  return out;
}

}  // namespace jolly_iris::measuring
