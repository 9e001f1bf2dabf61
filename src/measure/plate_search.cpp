#include "plate_search.hpp"

#include <algorithm>
#include <array>
#include <cmath>

#include "candidate_check.hpp"
#include "measure/constants.hpp"
#include "picture/parallel.hpp"
#include "plate_look.hpp"

namespace jolly_iris::measuring {

namespace {

// Values whose noise is about even: roots of the mean of the channels.
GreyImage plane_of(const Picture& plate) {
  GreyImage p(plate.width(), plate.height());
  parallel_for(0, plate.height(), [&](int y) {
    for (int x = 0; x < plate.width(); ++x) {
      const Rgba& c = plate.at(x, y);
      p.at(x, y) = std::sqrt(std::max(0.0F, (c[0] + c[1] + c[2]) / 3.0F));
    }
  });
  return p;
}

// Deviation of a pixel from its neighbours' middle, where the picture is quiet.
double noise_of(const GreyImage& p) {
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

// How much brighter than most of the plate its lights are.
double brightness_of(const GreyImage& p) {
  std::vector<float> some;
  const std::size_t every = std::max<std::size_t>(1, p.values.size() / 100000);
  for (std::size_t i = 0; i < p.values.size(); i += every) some.push_back(p.values[i]);
  return static_cast<double>(quantile(some, 0.998) - quantile(some, 0.5));
}

struct Level {
  GreyImage plane;
  double scale;  // plate px for one of its own
  double noise;
  EdgePixels edges{};
};

std::vector<Level> levels_of(const Picture& plate, double max_px) {
  std::vector<Level> levels;
  GreyImage first = plane_of(plate);
  const double noise = noise_of(first);
  levels.push_back({std::move(first), 1.0, noise});
  while (levels.back().scale * 20.0 < max_px && levels.back().plane.width >= 40 &&
         levels.back().plane.height >= 40) {
    GreyImage smaller = halved(levels.back().plane);
    const double n = noise_of(smaller);
    levels.push_back({std::move(smaller), 2.0 * levels.back().scale, n});
  }
  return levels;
}

class Search {
 public:
  Search(const Picture& plate, const DiscHints& hints, const DiscSettings& settings)
      : hints_(hints),
        settings_(settings),
        max_(settings.max_px > 0.0 ? settings.max_px : 0.5 * plate.height()),
        levels_(levels_of(plate, max_)) {
    for (Level& l : levels_) l.edges = edges_of(l.plane);
  }

  double noise() const { return levels_.front().noise; }
  const std::vector<RejectedDisc>& rejected() const { return rejected_; }

  // All ovals at the coarse levels; at the finest, where most pixels are, only the squeeze that
  // they tell.
  std::vector<DetectedDisc> run() {
    std::vector<DetectedDisc> seen;
    const std::size_t fine =
        levels_.size() > 1 && levels_.front().plane.values.size() > 1'500'000 ? 1 : 0;
    if (settings_.look) {
      at_all_levels(*settings_.look, seen);
      return thinned(seen);
    }
    const double min_contrast = levels::lamps_contrast * brightness_of(levels_.front().plane);
    for (const double a : levels::aspects) {
      for (std::size_t k = fine; k < levels_.size(); ++k) at_level(levels_[k], a, seen);
      // A plate has one squeeze: where many discs are of this one, others need not be looked for.
      const auto well = std::count_if(seen.begin(), seen.end(), [&](const DetectedDisc& s) {
        return s.quality > 0.9 && s.contrast > min_contrast &&
               std::abs(std::log(s.disc.aspect / a)) < 0.08;
      });
      if (well < levels::enough_discs) continue;
      // Cut by the barrel or by each other they look narrower or lower.
      for (const double cut : {0.82, 1.25}) {
        for (std::size_t k = fine; k < levels_.size(); ++k) at_level(levels_[k], cut * a, seen);
      }
      break;
    }
    if (fine == 1) {
      std::vector<double> known;
      for (const DetectedDisc& s : thinned(seen)) known.push_back(s.disc.aspect);
      if (known.size() >= 3) {
        at_level(levels_.front(), quantile(known, 0.5), seen);
      } else {
        for (const double a : levels::aspects) at_level(levels_.front(), a, seen);
      }
    }
    return thinned(seen);
  }

  // A hint is looked at where it says.
  DetectedDisc hinted(const DrawnLamp& lamp) {
    CheckedCandidate best;
    const auto look_at = [&](double diameter) {
      const Level* level = &levels_.front();
      for (const Level& l : levels_) {
        if (diameter / l.scale >= 9.0) level = &l;
      }
      for (const double a : levels::aspects) {
        const CheckedCandidate p = probe(level->plane,
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
      for (double d = settings_.min_px; d < max_; d *= 1.3) look_at(d);
    }
    if (!best.is_disc) {
      rejected_.push_back({lamp.at, lamp.diameter.value_or(0.0), best.why});
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
    if (2.0 * c.radius < 0.93 * settings_.min_px || 2.0 * c.radius > 1.05 * max_) return false;
    if (hints_.boxes.empty()) return true;
    return std::any_of(hints_.boxes.begin(), hints_.boxes.end(), [&](const Box& b) {
      return c.x >= b.x && c.y >= b.y && c.x < b.x + b.width && c.y < b.y + b.height;
    });
  }

  // The squeeze is known from another frame; where a barrel cuts discs they look narrower or lower.
  void at_all_levels(const PlateLook& look, std::vector<DetectedDisc>& seen) {
    std::vector<double> aspects{look.aspect};
    if (look.vignetting) aspects.insert(aspects.end(), {0.82 * look.aspect, 1.25 * look.aspect});
    for (const double a : aspects) {
      for (const Level& level : levels_) at_level(level, a, seen);
    }
  }

  void at_level(const Level& level, double aspect, std::vector<DetectedDisc>& seen) {
    std::vector<Candidate> found = search(level.edges, aspect);
    // What was seen well need not be looked at again as another oval.
    std::erase_if(found, [&](const Candidate& c) {
      const Candidate p = scaled(c, level.scale);
      return std::any_of(seen.begin(), seen.end(), [&](const DetectedDisc& s) {
        return s.quality > 0.9 &&
               std::hypot(p.x - s.disc.x, p.y - s.disc.y) < 0.3 * s.disc.radius &&
               p.radius > 0.6 * s.disc.radius && p.radius < 1.6 * s.disc.radius;
      });
    });
    std::vector<CheckedCandidate> checked(found.size());
    parallel_for(std::size_t{0}, found.size(),
                 [&](std::size_t i) { checked[i] = probe(level.plane, found[i], level.noise); });
    settings_.execution.check();
    for (std::size_t i = 0; i < found.size(); ++i) {
      const CheckedCandidate& p = checked[i];
      const Candidate c = scaled(p.disc, level.scale);
      if (!wanted(c)) continue;
      if (p.is_disc) {
        seen.push_back({c, p.contrast, p.quality});
      } else if (found[i].score > 0.8) {
        rejected_.push_back({{c.x, c.y}, 2.0 * c.radius, p.why});
      }
    }
  }

  // The same disc was seen at several levels and squeezes: the one whose edge fits best counts.
  static std::vector<DetectedDisc> thinned(std::vector<DetectedDisc> all) {
    std::sort(all.begin(), all.end(), [](const DetectedDisc& a, const DetectedDisc& b) {
      return a.quality != b.quality ? a.quality > b.quality : a.contrast > b.contrast;
    });
    std::vector<DetectedDisc> kept;
    for (const DetectedDisc& s : all) {
      const bool again = std::any_of(kept.begin(), kept.end(), [&](const DetectedDisc& k) {
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
  double max_;
  std::vector<Level> levels_;
  std::vector<RejectedDisc> rejected_{};
  double scale_of_best_ = 1.0;
};

}  // namespace

PlateSearch search_plate(const Picture& plate, const DiscHints& hints,
                         const DiscSettings& settings) {
  Search search(plate, hints, settings);
  PlateSearch out;
  out.seen = search.run();
  for (const DrawnLamp& lamp : hints.lamps) {
    DetectedDisc s = search.hinted(lamp);
    if (s.quality == 0.0) continue;
    s.name = lamp.name;
    out.hinted.push_back(std::move(s));
  }
  out.rejected = search.rejected();
  out.noise = search.noise();
  return out;
}

}  // namespace jolly_iris::measuring
