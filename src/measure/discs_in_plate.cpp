#include <fmt/format.h>
#include <tbb/parallel_for.h>
#include <tbb/task_arena.h>

#include <algorithm>
#include <cmath>
#include <numbers>

#include "backend.hpp"
#include "disc_fit.hpp"
#include "disc_probe.hpp"
#include "disc_search.hpp"
#include "jolly_iris/errors.hpp"
#include "plate_iris.hpp"
#include "tamed_mean.hpp"

namespace jolly_iris::measuring {

namespace {

constexpr double pi = std::numbers::pi;
// Ovals that are looked for: round, and the squeezes of the trade with a quarter between.
constexpr std::array<double, 6> aspects{1.0, 0.5, 0.68, 0.57, 0.82, 1.25};
constexpr int enough_discs = 8;

// An iris that changes by less from one fit to the next changes no disc.
constexpr double settled_curvature = 0.015;
// How exactly a plate shows outlines, px.
constexpr double outline_px = 0.015;
constexpr double outline_px_clipped = 0.04;

void check(const Picture& plate, const DiscHints& hints, const DiscSettings& settings) {
  if (plate.width() < 24 || plate.height() < 24) {
    throw PictureError(
        fmt::format("the plate is {} x {} px; discs are looked for in pictures of 24 "
                    "px or more on each side",
                    plate.width(), plate.height()));
  }
  if (!(settings.least_px >= 8.0) || !std::isfinite(settings.least_px)) {
    throw UsageError(
        fmt::format("the smallest disc is {:g} px; it is 8 px or more: smaller ones "
                    "have no shape",
                    settings.least_px));
  }
  if (!(settings.most_px == 0.0 || settings.most_px > settings.least_px)) {
    throw UsageError(fmt::format("the largest disc is {:g} px, and the smallest {:g} px",
                                 settings.most_px, settings.least_px));
  }
  for (const DrawnLamp& lamp : hints.lamps) {
    if (lamp.at[0] >= 0.0 && lamp.at[1] >= 0.0 && lamp.at[0] < plate.width() &&
        lamp.at[1] < plate.height()) {
      continue;
    }
    throw UsageError(fmt::format("the lamp drawn at {:g}, {:g} is outside the plate of {} x {} px",
                                 lamp.at[0], lamp.at[1], plate.width(), plate.height()));
  }
  for (const Box& box : hints.boxes) require_within(box, plate.size());
  for (int y = 0; y < plate.height(); ++y) {
    for (int x = 0; x < plate.width(); ++x) {
      const Rgba& p = plate.at(x, y);
      if (std::isfinite(p[0] + p[1] + p[2])) continue;
      throw PictureError(
          fmt::format("the plate holds a value that is no light at pixel {}, {}", x, y));
    }
  }
}

// Values whose noise is about even: roots of the mean of the channels.
Plane plane_of(const Picture& plate) {
  Plane p(plate.width(), plate.height());
  tbb::parallel_for(0, plate.height(), [&](int y) {
    for (int x = 0; x < plate.width(); ++x) {
      const Rgba& c = plate.at(x, y);
      p.at(x, y) = std::sqrt(std::max(0.0F, (c[0] + c[1] + c[2]) / 3.0F));
    }
  });
  return p;
}

// Deviation of a pixel from its neighbours' middle, where the picture is quiet.
double noise_of(const Plane& p) {
  std::vector<float> off;
  const int every =
      std::max(1, static_cast<int>(std::sqrt(static_cast<double>(p.values.size()) / 60000.0)));
  for (int y = 1; y < p.height - 1; y += every) {
    for (int x = 1; x < p.width - 1; x += every) {
      const float around =
          0.25F * (p.at(x - 1, y) + p.at(x + 1, y) + p.at(x, y - 1) + p.at(x, y + 1));
      off.push_back(std::abs(p.at(x, y) - around));
    }
  }
  return 1.48 / std::sqrt(1.25) * static_cast<double>(quantile(off, 0.4)) * 1.29;
}

// The brightest value, where many pixels have just that.
std::optional<double> clip_of(const Picture& plate) {
  float most = 0.0F;
  for (const Rgba& p : plate.pixels()) most = std::max({most, p[0], p[1], p[2]});
  if (!(most > 0.0F)) return std::nullopt;
  std::size_t count = 0;
  for (const Rgba& p : plate.pixels()) {
    count += std::max({p[0], p[1], p[2]}) >= most * 0.9999F ? 1U : 0U;
  }
  if (count < 24) return std::nullopt;
  return static_cast<double>(most);
}

struct Level {
  Plane plane;
  double scale;  // plate px for one of its own
  double noise;
  EdgePixels edges{};
};

std::vector<Level> levels_of(const Picture& plate, double most_px) {
  std::vector<Level> levels;
  Plane first = plane_of(plate);
  const double noise = noise_of(first);
  levels.push_back({std::move(first), 1.0, noise});
  while (levels.back().scale * 20.0 < most_px && levels.back().plane.width >= 40 &&
         levels.back().plane.height >= 40) {
    Plane half = halved(levels.back().plane);
    const double n = noise_of(half);
    levels.push_back({std::move(half), 2.0 * levels.back().scale, n});
  }
  return levels;
}

struct Seen {
  Candidate disc;  // plate px
  double contrast;
  double quality;
};

class Search {
 public:
  Search(const Picture& plate, const DiscHints& hints, const DiscSettings& settings)
      : hints_(hints),
        settings_(settings),
        most_(settings.most_px > 0.0 ? settings.most_px : 0.5 * plate.height()),
        levels_(levels_of(plate, most_)) {
    for (Level& l : levels_) l.edges = edges_of(l.plane);
  }

  double noise() const { return levels_.front().noise; }
  const std::vector<RefusedDisc>& refused() const { return refused_; }

  // All ovals at the coarse levels; at the finest, where most pixels are, only the squeeze that
  // they tell.
  std::vector<Seen> run() {
    std::vector<Seen> seen;
    const std::size_t fine =
        levels_.size() > 1 && levels_.front().plane.values.size() > 1'500'000 ? 1 : 0;
    for (const double a : aspects) {
      for (std::size_t k = fine; k < levels_.size(); ++k) at_level(levels_[k], a, seen);
      // A plate has one squeeze: where many discs are of this one, others need not be looked for.
      const auto well = std::count_if(seen.begin(), seen.end(), [&](const Seen& s) {
        return s.quality > 0.9 && std::abs(std::log(s.disc.aspect / a)) < 0.08;
      });
      if (well < enough_discs) continue;
      // Cut by the barrel or by each other they look narrower or lower.
      for (const double cut : {0.82, 1.25}) {
        for (std::size_t k = fine; k < levels_.size(); ++k) at_level(levels_[k], cut * a, seen);
      }
      break;
    }
    if (fine == 1) {
      std::vector<double> known;
      for (const Seen& s : thinned(seen)) known.push_back(s.disc.aspect);
      if (known.size() >= 3) {
        at_level(levels_.front(), quantile(known, 0.5), seen);
      } else {
        for (const double a : aspects) at_level(levels_.front(), a, seen);
      }
    }
    return thinned(seen);
  }

  /// A hint is looked at where it says.
  Seen hinted(const DrawnLamp& lamp) {
    Probed best;
    const auto look_at = [&](double diameter) {
      const Level* level = &levels_.front();
      for (const Level& l : levels_) {
        if (diameter / l.scale >= 9.0) level = &l;
      }
      for (const double a : aspects) {
        const Probed p = probe(level->plane,
                               {lamp.at[0] / level->scale, lamp.at[1] / level->scale,
                                0.5 * diameter / level->scale, a, 1.0},
                               level->noise);
        const bool better = p.is_disc != best.is_disc ? p.is_disc : p.quality > best.quality;
        if (better || best.why.empty()) {
          best = p;
          scale_of_best_ = level->scale;
        }
      }
    };
    if (lamp.diameter) {
      look_at(*lamp.diameter);
    } else {
      for (double d = settings_.least_px; d < most_; d *= 1.3) look_at(d);
    }
    if (!best.is_disc) {
      refused_.push_back({lamp.at, lamp.diameter.value_or(0.0), best.why});
      return {{}, 0.0, 0.0};
    }
    return {scaled(best.disc, scale_of_best_), best.contrast, best.quality};
  }

 private:
  static Candidate scaled(Candidate c, double scale) {
    c.x *= scale;
    c.y *= scale;
    c.radius *= scale;
    return c;
  }

  bool wanted(const Candidate& c) const {
    if (2.0 * c.radius < 0.93 * settings_.least_px || 2.0 * c.radius > 1.05 * most_) return false;
    if (hints_.boxes.empty()) return true;
    return std::any_of(hints_.boxes.begin(), hints_.boxes.end(), [&](const Box& b) {
      return c.x >= b.x && c.y >= b.y && c.x < b.x + b.width && c.y < b.y + b.height;
    });
  }

  void at_level(const Level& level, double aspect, std::vector<Seen>& seen) {
    std::vector<Candidate> found = search(level.edges, aspect);
    // What was seen well need not be looked at again as another oval.
    std::erase_if(found, [&](const Candidate& c) {
      const Candidate p = scaled(c, level.scale);
      return std::any_of(seen.begin(), seen.end(), [&](const Seen& s) {
        return s.quality > 0.9 &&
               std::hypot(p.x - s.disc.x, p.y - s.disc.y) < 0.3 * s.disc.radius &&
               p.radius > 0.6 * s.disc.radius && p.radius < 1.6 * s.disc.radius;
      });
    });
    std::vector<Probed> probed(found.size());
    tbb::parallel_for(std::size_t{0}, found.size(), [&](std::size_t i) {
      probed[i] = probe(level.plane, found[i], level.noise);
    });
    for (std::size_t i = 0; i < found.size(); ++i) {
      const Probed& p = probed[i];
      const Candidate c = scaled(p.disc, level.scale);
      if (!wanted(c)) continue;
      if (p.is_disc) {
        seen.push_back({c, p.contrast, p.quality});
      } else if (found[i].score > 0.8) {
        refused_.push_back({{c.x, c.y}, 2.0 * c.radius, p.why});
      }
    }
  }

  // The same disc was seen at several levels and squeezes: the one whose edge fits best counts.
  static std::vector<Seen> thinned(std::vector<Seen> all) {
    std::sort(all.begin(), all.end(), [](const Seen& a, const Seen& b) {
      return a.quality != b.quality ? a.quality > b.quality : a.contrast > b.contrast;
    });
    std::vector<Seen> kept;
    for (const Seen& s : all) {
      const bool again = std::any_of(kept.begin(), kept.end(), [&](const Seen& k) {
        const double apart = std::hypot((s.disc.x - k.disc.x) / k.disc.aspect, s.disc.y - k.disc.y);
        const double ratio = s.disc.radius / k.disc.radius;
        return apart < 0.4 * std::max(k.disc.radius, s.disc.radius) && ratio > 0.6 && ratio < 1.67;
      });
      if (!again) kept.push_back(s);
    }
    return kept;
  }

  const DiscHints& hints_;
  const DiscSettings& settings_;
  double most_;
  std::vector<Level> levels_;
  std::vector<RefusedDisc> refused_{};
  double scale_of_best_ = 1.0;
};

// One for each place, and none where a disc was found after all.
std::vector<RefusedDisc> thinned(const std::vector<RefusedDisc>& all,
                                 const std::vector<PlateDisc>& discs) {
  std::vector<RefusedDisc> kept;
  const auto near = [](const std::array<double, 2>& a, const std::array<double, 2>& b, double px) {
    return std::hypot(a[0] - b[0], a[1] - b[1]) < px;
  };
  for (const RefusedDisc& r : all) {
    const bool known =
        std::any_of(discs.begin(), discs.end(),
                    [&](const PlateDisc& d) { return near(d.at, r.at, 0.7 * d.high_px.value); }) ||
        std::any_of(kept.begin(), kept.end(), [&](const RefusedDisc& k) {
          return near(k.at, r.at, 0.7 * std::max(k.diameter_px, r.diameter_px));
        });
    if (!known) kept.push_back(r);
  }
  return kept;
}

struct Item {
  DrawnDisc seen{};  // as the search saw it
  DrawnDisc start{};
  FittedDisc fit{};
  std::string name{};
};

// Fits all discs, each with its neighbours' light as known so far.
void fit_all(const Picture& plate, const Plane& seen, std::vector<Item>& items,
             const BladeShape& shape, const FitSettings& settings, bool with_others,
             bool afresh = false, bool alone_stay = false) {
  const std::vector<Item> before = items;
  tbb::parallel_for(std::size_t{0}, items.size(), [&](std::size_t i) {
    std::vector<const DrawnDisc*> others;
    std::vector<std::array<double, 3>> by_channel;
    for (std::size_t k = 0; with_others && k < before.size(); ++k) {
      const FittedDisc& f = before[k].fit;
      if (k == i || !f.good) continue;
      const double apart = std::hypot(f.disc.x - items[i].start.x, f.disc.y - items[i].start.y);
      if (apart > 1.6 * (0.5 * f.disc.high + 0.5 * items[i].start.high) + 8.0) continue;
      others.push_back(&f.disc);
      by_channel.push_back(f.shares);
    }
    if (alone_stay && others.empty() && items[i].fit.good) return;  // nothing has changed for it
    // What a neighbour's light has led astray begins once more where it was seen.
    FitSettings own = settings;
    if (afresh && !others.empty()) {
      const bool turned = items[i].start.turned;
      items[i].start = items[i].seen;
      items[i].start.turned = turned;
      own.again = false;
    }
    items[i].fit = fit_disc(plate, seen, items[i].start, shape, others, by_channel, own);
  });
}

// Two starts can lead to one disc.
void drop_twins(std::vector<Item>& items) {
  std::sort(items.begin(), items.end(), [](const Item& a, const Item& b) {
    return a.name.empty() != b.name.empty() ? !a.name.empty() : a.fit.left_over < b.fit.left_over;
  });
  std::vector<Item> kept;
  for (Item& i : items) {
    const DrawnDisc& d = i.fit.disc;
    const bool again = i.fit.good && std::any_of(kept.begin(), kept.end(), [&](const Item& k) {
                         const DrawnDisc& o = k.fit.disc;
                         const double ratio = d.high / o.high;
                         return k.fit.good &&
                                std::hypot(d.x - o.x, d.y - o.y) < 0.2 * std::max(d.high, o.high) &&
                                ratio > 0.75 && ratio < 1.33;
                       });
    if (!again) kept.push_back(std::move(i));
  }
  items = std::move(kept);
}

// Width over height that discs have, the well-fitted ones first.
double middle_aspect(const std::vector<Item>& items) {
  std::vector<double> all;
  for (const Item& i : items) {
    if (i.fit.good && i.fit.disc.soft < 0.14 * i.fit.disc.high) all.push_back(i.fit.disc.aspect);
  }
  return all.empty() ? 1.0 : quantile(all, 0.5);
}

// Whether it is as bright a little beyond the disc as within it, most of the way round: then it is
// the eye of a letter or a hole in something.
bool bright_beyond(const Picture& plate, const FittedDisc& f, std::optional<double> clipped_at) {
  constexpr int directions = 48;
  const DrawnDisc& d = f.disc;
  // Against the mean of the channels, each cut off where the plate is.
  const auto mean = [&](const auto& light) {
    double sum = 0.0;
    for (std::size_t c = 0; c < 3; ++c) {
      sum += clipped_at ? std::min(light(c), *clipped_at) : light(c);
    }
    return sum / 3.0;
  };
  const auto ground = [&](std::size_t c) { return d.ground * d.ground_colour[c]; };
  const double dark = mean(ground);
  const double level = mean([&](std::size_t c) { return ground(c) + d.contrast * f.shares[c]; });
  int bright = 0;
  int looked = 0;
  for (int k = 0; k < directions; ++k) {
    const double a = 2.0 * pi * k / directions;
    const int x = static_cast<int>(d.x + 0.5 * 1.65 * d.high * d.aspect * std::cos(a));
    const int y = static_cast<int>(d.y + 0.5 * 1.65 * d.high * std::sin(a));
    if (x < 0 || y < 0 || x >= plate.width() || y >= plate.height()) continue;
    const Rgba& p = plate.at(x, y);
    ++looked;
    const auto there = [&](std::size_t c) { return static_cast<double>(p[c]); };
    if (mean(there) > 0.5 * (dark + level)) ++bright;
  }
  return looked > 0 && bright > 0.55 * looked;
}

// What most discs are like.
struct Usual {
  std::size_t discs = 0;
  double soft = 0.0;
  double contrast = 0.0;
};
Usual usual_of(const std::vector<Item>& items) {
  std::vector<double> soft;
  std::vector<double> contrast;
  for (const Item& i : items) {
    if (!i.fit.good) continue;
    soft.push_back(i.fit.disc.soft);
    contrast.push_back(i.fit.disc.contrast);
  }
  if (soft.empty()) return {};
  return {soft.size(), quantile(soft, 0.5), quantile(contrast, 0.5)};
}

// The softness that even the sharpest discs have is the plate's own.
double sharpest(const std::vector<Item>& items) {
  std::vector<double> all;
  for (const Item& i : items) {
    if (i.fit.good && !i.fit.clipped) all.push_back(i.fit.disc.soft);
  }
  return all.size() < 4 ? 0.45 : 0.95 * quantile(all, 0.15);
}

// How large the lamps themselves are, from those that are not clipped.
LampSize lamps_of(const std::vector<Item>& items, double bell) {
  std::vector<double> shares;
  for (const Item& i : items) {
    const DrawnDisc& d = i.fit.disc;
    if (!i.fit.good || i.fit.clipped || d.high < 16.0) continue;
    shares.push_back(std::sqrt(std::max(d.soft * d.soft - bell * bell, 0.0)) / d.high);
  }
  LampSize out;
  if (shares.size() < 5) return out;
  const double middle = std::max(quantile(shares, 0.5), 1e-3);
  out.share = middle;
  out.spread =
      std::clamp(std::log(std::max(quantile(shares, 0.84), middle) / middle), 0.5, out.spread);
  return out;
}

// What all discs say together.
template <class What>
Measured common(const std::vector<Item>& items, const What& what) {
  std::vector<Measured> all;
  for (const Item& i : items) {
    if (i.fit.good) all.push_back(what(i.fit));
  }
  return tamed_mean(std::move(all), 0.2);
}

// However many discs agree, an outline is known to a part of a pixel: codecs and clipping shift all
// of them alike. An edge's sagitta, r (1 − cos π/n) if it is straight, is what curvature is read
// from.
void doubt_curvature(const std::vector<Item>& items, PlateIris& iris) {
  if (!iris.known || iris.blades < 3) return;
  std::vector<double> radius;
  std::size_t clipped = 0;
  for (const Item& i : items) {
    if (!i.fit.good) continue;
    radius.push_back(0.5 * i.fit.disc.high);
    clipped += i.fit.clipped ? 1U : 0U;
  }
  if (radius.empty()) return;
  const double off = 2 * clipped > radius.size() ? outline_px_clipped : outline_px;
  // The larger ones tell most.
  const double sagitta = quantile(radius, 0.75) * (1.0 - std::cos(pi / iris.blades));
  iris.curvature.margin = std::hypot(iris.curvature.margin, 2.0 * off / sagitta);
}

}  // namespace

FoundDiscs discs_in_plate(const Picture& plate, const DiscHints& hints,
                          const DiscSettings& settings) {
  FoundDiscs found;
  tbb::task_arena arena(settings.threads > 0 ? settings.threads : tbb::task_arena::automatic);
  arena.execute([&] {
    check(plate, hints, settings);
    found.clipped_at = settings.clipped_at ? settings.clipped_at : clip_of(plate);
    Search search(plate, hints, settings);
    std::vector<Item> items;
    const auto add = [&](const Seen& s, const std::string& name) {
      Item item;
      item.start.x = s.disc.x;
      item.start.y = s.disc.y;
      item.start.high = 2.0 * s.disc.radius;
      item.start.aspect = s.disc.aspect;
      item.seen = item.start;
      item.name = name;
      items.push_back(item);
    };
    for (const Seen& s : search.run()) add(s, "");
    for (const DrawnLamp& lamp : hints.lamps) {
      const Seen s = search.hinted(lamp);
      if (s.quality == 0.0) continue;
      const auto same = std::find_if(items.begin(), items.end(), [&](const Item& i) {
        return std::hypot(i.start.x - s.disc.x, i.start.y - s.disc.y) < 0.4 * i.start.high;
      });
      if (same != items.end()) {
        same->name = lamp.name;
      } else {
        add(s, lamp.name);
      }
    }
    found.refused = search.refused();
    FitSettings fit{.look = PlateLight(found.clipped_at)};
    const Plane seen = fit.look.of(plate);
    BladeShape shape;
    std::vector<PooledDisc> pooled;
    PooledIris iris;
    fit_all(plate, seen, items, shape, fit, false);
    for (int round = 0; round < 3; ++round) {
      std::erase_if(items, [&](const Item& i) {
        const bool tile = i.fit.good && i.name.empty() && has_four_sides(i.fit.profile);
        if (i.fit.good && !tile) return false;
        found.refused.push_back({{i.start.x, i.start.y},
                                 i.start.high,
                                 tile ? "it has four sides" : "no disc fits its pixels"});
        return true;
      });
      drop_twins(items);
      pooled.clear();
      for (const Item& i : items)
        pooled.push_back({i.fit.profile, i.fit.disc.high, i.fit.disc.soft, false, false, 0.0, 0.0});
      const PlateIris before = iris.iris;
      iris = pooled_iris(pooled);
      shape = iris.shape;
      const bool settled =
          before.known && before.blades == iris.iris.blades &&
          std::abs(before.curvature.value - iris.iris.curvature.value) < settled_curvature;
      fit.bell = std::clamp(sharpest(items), 0.3, 3.0);
      fit.lamp = lamps_of(items, fit.bell);
      fit.rim = true;
      fit.again = true;
      fit.lights = round == 2;
      fit.quick = round < 2;
      for (std::size_t i = 0; i < items.size(); ++i) {
        items[i].start = items[i].fit.disc;
        // Edges are told as the iris stands: what is turned against that is the other way up.
        items[i].start.turned = items[i].fit.disc.turned != pooled[i].turned;
      }
      fit_all(plate, seen, items, shape, fit, true, round < 2, round == 1 && settled);
    }
    found.iris = iris.iris;
    doubt_curvature(items, found.iris);
    const double aspect = middle_aspect(items);
    // Discs that fit through and through vouch for those that neighbours or the barrel spoil; where
    // hardly any does, what looks like discs are leaves, letters, tiles.
    const auto fits_well = [&](std::size_t i) {
      const FittedDisc& f = items[i].fit;
      // A clipped disc's edge is seen from its foot alone.
      if (f.clipped) return f.good && pooled[i].cut < 0.3 && pooled[i].agrees > 0.5;
      return f.good && f.left_over < 4.0 && pooled[i].cut < 0.1 && pooled[i].agrees > 0.8;
    };
    std::size_t well = 0;
    for (std::size_t i = 0; i < items.size(); ++i) well += fits_well(i) ? 1U : 0U;
    const Usual usual = usual_of(items);
    std::vector<Item> accepted;
    const bool vouched = well >= 3 && 2 * well >= items.size() - well;
    for (std::size_t i = 0; i < items.size(); ++i) {
      const FittedDisc& f = items[i].fit;
      if (f.good && items[i].name.empty() && bright_beyond(plate, f, found.clipped_at)) {
        found.refused.push_back(
            {{f.disc.x, f.disc.y}, f.disc.high, "it is as bright a little farther out"});
        continue;
      }
      if (f.good && items[i].name.empty() && !vouched && !fits_well(i)) {
        found.refused.push_back({{f.disc.x, f.disc.y},
                                 f.disc.high,
                                 "it hardly fits a disc, and no others of the plate vouch for it"});
        continue;
      }
      if (!f.good) {
        found.refused.push_back(
            {{items[i].start.x, items[i].start.y}, items[i].start.high, "no disc fits its pixels"});
        continue;
      }
      // Hidden parts are forgiven.
      if (items[i].name.empty() && pooled[i].agrees < 0.5 - 0.4 * std::min(pooled[i].cut, 0.5)) {
        found.refused.push_back(
            {{f.disc.x, f.disc.y}, f.disc.high, "its outline is not that of the plate's discs"});
        continue;
      }
      if (items[i].name.empty() &&
          f.disc.soft > 0.14 * f.disc.high * std::min(1.0, f.disc.aspect)) {
        found.refused.push_back(
            {{f.disc.x, f.disc.y}, f.disc.high, "its edge is too soft for a lamp's disc"});
        continue;
      }
      if (items[i].name.empty() && f.high_sigma > 0.02 * f.disc.high + 0.1 && !f.clipped) {
        found.refused.push_back(
            {{f.disc.x, f.disc.y}, f.disc.high, "its edge cannot be told from what is around it"});
        continue;
      }
      if (items[i].name.empty() && !f.clipped && usual.discs >= 6 &&
          f.disc.soft < 0.75 * fit.bell) {
        found.refused.push_back(
            {{f.disc.x, f.disc.y}, f.disc.high, "its edge is sharper than the plate's lamps are"});
        continue;
      }
      if (items[i].name.empty() && f.disc.soft > 4.0 * usual.soft + 1.0 &&
          f.disc.contrast < 0.1 * usual.contrast) {
        found.refused.push_back(
            {{f.disc.x, f.disc.y}, f.disc.high, "it is a faint and soft patch beside the others"});
        continue;
      }
      const double squeezed = std::abs(std::log(f.disc.aspect / aspect));
      const double allowed = pooled[i].cut < 0.1 ? 0.15 : 0.22;
      if (items[i].name.empty() && squeezed > allowed + 3.0 * f.aspect_sigma) {
        found.refused.push_back(
            {{f.disc.x, f.disc.y}, f.disc.high, "it is squeezed otherwise than the plate's discs"});
        continue;
      }
      PlateDisc d;
      d.name = items[i].name;
      d.at = {f.disc.x, f.disc.y};
      d.high_px = {f.disc.high, 2.0 * std::hypot(f.high_sigma, 0.04)};
      d.wide_px = {
          f.disc.high * f.disc.aspect,
          2.0 * std::hypot(f.high_sigma * f.disc.aspect, f.aspect_sigma * f.disc.high, 0.04)};
      d.light = f.light;
      d.contrast = f.disc.contrast;
      d.soft_px = f.disc.soft;
      d.rim_stops = f.disc.rim;
      d.clipped = f.clipped;
      d.fringe_px = f.fringe_px;
      d.cut = pooled[i].cut;
      d.off = f.left_over;
      if (pooled[i].tells) d.facing = f.disc.turned ? Facing::turned : Facing::upright;
      found.discs.push_back(d);
      accepted.push_back(items[i]);
    }
    found.iris.high_over_wide = common(accepted, [](const FittedDisc& f) {
      return Measured{1.0 / f.disc.aspect, f.aspect_sigma / (f.disc.aspect * f.disc.aspect)};
    });
    found.iris.rim_stops = common(accepted, [](const FittedDisc& f) {
      return Measured{f.disc.rim, f.clipped || f.disc.high < 16.0 ? 0.0 : f.rim_sigma};
    });
    std::sort(found.discs.begin(), found.discs.end(), [](const PlateDisc& a, const PlateDisc& b) {
      return a.high_px.value > b.high_px.value;
    });
    found.noise = search.noise();
    found.refused = thinned(found.refused, found.discs);
  });
  return found;
}

std::vector<std::array<double, 2>> outline_of(const PlateDisc& disc, const PlateIris& iris) {
  const BladeShape shape(iris.blades, iris.curvature.value, iris.rotation_deg.value * pi / 180.0);
  const double sign = disc.facing == Facing::turned ? -0.5 : 0.5;
  std::vector<std::array<double, 2>> out;
  constexpr int corners = 180;
  for (int i = 0; i < corners; ++i) {
    const double a = 2.0 * pi * i / corners;
    const double r = sign * shape.radius(a);
    out.push_back({disc.at[0] + r * disc.wide_px.value * std::cos(a),
                   disc.at[1] - r * disc.high_px.value * std::sin(a)});
  }
  return out;
}

}  // namespace jolly_iris::measuring
