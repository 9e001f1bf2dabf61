#include "candidate_check.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <numbers>

#include "measure/constants.hpp"
#include "normal_equations.hpp"

namespace jolly_iris::measuring {

namespace {

using std::numbers::pi;

// What is found in one direction.
struct Step {
  double at = 0.0;        // radii
  double contrast = 0.0;  // inside less outside
  double outside = 0.0;   // mean beyond it
  double far = 0.0;       // mean where looking ends
  double residual = 0.0;  // from the oval that fits all
  bool fits = false;
};

using Profile = std::array<float, candidate::steps + 1>;

// Directions all around, counter-clockwise from the right.
struct Directions {
  std::array<double, candidate::directions> cosine{};
  std::array<double, candidate::directions> sine{};
  Directions() {
    for (std::size_t k = 0; k < candidate::directions; ++k) {
      cosine[k] = std::cos(2.0 * pi * static_cast<double>(k) / candidate::directions);
      sine[k] = std::sin(2.0 * pi * static_cast<double>(k) / candidate::directions);
    }
  }
};
const Directions all_around;

// A quick look: is it brighter within than beyond, nearly all around? Most candidates are not.
bool worth_a_look(const GreyImage& plane, const Candidate& c, double noise) {
  int darker = 0;
  int looked = 0;
  double inside = 0.0;
  for (std::size_t k = 0; k < candidate::directions; k += 8, ++looked) {
    inside +=
        static_cast<double>(plane.between(c.x + 0.4 * c.radius * c.aspect * all_around.cosine[k],
                                          c.y - 0.4 * c.radius * all_around.sine[k]));
  }
  inside /= looked;
  looked = 0;
  for (std::size_t k = 0; k < candidate::directions; k += 4, ++looked) {
    const auto beyond =
        static_cast<double>(plane.between(c.x + 1.45 * c.radius * c.aspect * all_around.cosine[k],
                                          c.y - 1.45 * c.radius * all_around.sine[k]));
    if (beyond < inside - 2.0 * noise) ++darker;
  }
  return darker >= 0.6 * looked;
}

// A second quick look: in most directions there is a step down, at roughly one radius.
bool steps_all_around(const GreyImage& plane, const Candidate& c, double noise) {
  constexpr std::size_t every = 3;
  constexpr std::size_t looked_at = (candidate::directions + every - 1) / every;
  constexpr int places = 12;
  std::array<float, looked_at> contrast{};
  std::array<float, looked_at> where{};
  for (std::size_t k = 0, n = 0; k < candidate::directions; k += every, ++n) {
    std::array<float, places> p{};
    for (int i = 0; i < places; ++i) {
      const double r = c.radius * (0.5 + 0.1 * i);
      p[static_cast<std::size_t>(i)] =
          plane.between(c.x + r * c.aspect * all_around.cosine[k], c.y - r * all_around.sine[k]);
    }
    for (std::size_t i = 2; i + 2 < places; ++i) {
      const float step_down = 0.5F * (p[i - 2] + p[i - 1] - p[i] - p[i + 1]);
      if (step_down <= contrast[n]) continue;
      contrast[n] = step_down;
      where[n] = 0.45F + 0.1F * static_cast<float>(i);
    }
  }
  const float typical = quantile(std::vector<float>(contrast.begin(), contrast.end()), 0.6);
  if (!(static_cast<double>(typical) > 2.5 * noise)) return false;
  std::vector<float> radii;
  for (std::size_t n = 0; n < looked_at; ++n) {
    if (contrast[n] > 0.3F * typical) radii.push_back(where[n]);
  }
  const float middle = quantile(radii, 0.5);
  const auto near = std::count_if(radii.begin(), radii.end(),
                                  [&](float r) { return std::abs(r - middle) < 0.25F; });
  return 2 * near >= static_cast<std::ptrdiff_t>(looked_at);
}

struct Look {
  std::array<Step, candidate::directions> at{};
  double inside = 0.0;
  double uneven = 0.0;  // deviation within
};

// Between four pixels, of a place that lies well within the plane.
float within(const GreyImage& plane, float x, float y) {
  const float u = x - 0.5F;
  const float v = y - 0.5F;
  const int i = static_cast<int>(u);
  const int j = static_cast<int>(v);
  const float fx = u - static_cast<float>(i);
  const float fy = v - static_cast<float>(j);
  const float* a = plane.row(j) + i;
  const float* b = a + plane.width;
  const float top = a[0] + fx * (a[1] - a[0]);
  return top + fy * (b[0] + fx * (b[1] - b[0]) - top);
}

Look look(const GreyImage& plane, const Candidate& c) {
  Look out;
  const double far_x = candidate::to * c.radius * c.aspect + 1.0;
  const double far_y = candidate::to * c.radius + 1.0;
  const bool inner =
      c.x > far_x && c.y > far_y && c.x < plane.width - far_x && c.y < plane.height - far_y;
  const auto value = [&](double x, double y) {
    return inner ? within(plane, static_cast<float>(x), static_cast<float>(y))
                 : plane.between(x, y);
  };
  std::vector<float> inside;
  inside.reserve(4 * candidate::directions);
  constexpr int w = static_cast<int>(candidate::window / candidate::step);
  for (int k = 0; k < candidate::directions; ++k) {
    const double dx = c.radius * c.aspect * all_around.cosine[static_cast<std::size_t>(k)];
    const double dy = -c.radius * all_around.sine[static_cast<std::size_t>(k)];
    Profile p{};
    for (int i = 0; i <= candidate::steps; ++i) {
      const double r = candidate::from + i * candidate::step;
      p[static_cast<std::size_t>(i)] = value(c.x + r * dx, c.y + r * dy);
    }
    for (const double r : {0.15, 0.35, 0.55, 0.75}) {
      inside.push_back(value(c.x + r * dx, c.y + r * dy));
    }
    std::array<double, candidate::steps + 2> sum{};
    for (std::size_t i = 0; i <= candidate::steps; ++i)
      sum[i + 1] = sum[i] + static_cast<double>(p[i]);
    const auto mean = [&](int a0, int b0) {
      return (sum[static_cast<std::size_t>(b0)] - sum[static_cast<std::size_t>(a0)]) / (b0 - a0);
    };
    Step& s = out.at[static_cast<std::size_t>(k)];
    int best = -1;
    const int first = static_cast<int>((candidate::nearest - candidate::from) / candidate::step);
    const int last = static_cast<int>((candidate::farthest - candidate::from) / candidate::step);
    for (int i = first; i <= last; ++i) {
      const double contrast = mean(i - w, i) - mean(i, std::min(i + w, candidate::steps + 1));
      if (best < 0 || contrast > s.contrast) {
        s.contrast = contrast;
        best = i;
      }
    }
    // Where it passes half of the step: finer than the steps of looking.
    const double high = mean(best - w, best);
    const double low = mean(best, std::min(best + w, candidate::steps + 1));
    const double middle = 0.5 * (high + low);
    s.at = candidate::from + (best - 0.5) * candidate::step;
    for (int i = std::max(1, best - 4); i <= std::min(candidate::steps, best + 4); ++i) {
      const auto u = static_cast<double>(p[static_cast<std::size_t>(i - 1)]);
      const auto v = static_cast<double>(p[static_cast<std::size_t>(i)]);
      if (u > middle && v <= middle) {
        s.at = candidate::from + (i - 1 + (u - middle) / (u - v)) * candidate::step;
        break;
      }
    }
    s.outside = mean(std::min(best + 2, candidate::steps), candidate::steps + 1);
    s.far = mean(candidate::steps - 3, candidate::steps + 1);
  }
  out.inside = static_cast<double>(quantile(inside, 0.5));
  for (float& v : inside) v = std::abs(v - static_cast<float>(out.inside));
  out.uneven = 1.48 * static_cast<double>(quantile(inside, 0.5));
  return out;
}

// r = c₀ + c₁ cos + c₂ sin + c₃ cos 2 + c₄ sin 2, without those far off.
using Oval = Terms<5>;
Oval terms_at(int k) {
  const auto twice = static_cast<std::size_t>(2 * k % candidate::directions);
  const auto once = static_cast<std::size_t>(k);
  return {1.0, all_around.cosine[once], all_around.sine[once], all_around.cosine[twice],
          all_around.sine[twice]};
}

Oval fit_oval(Look& l, double typical) {
  Oval oval{};
  std::vector<double> places;
  for (const Step& s : l.at) {
    if (s.contrast > 0.35 * typical) places.push_back(s.at);
  }
  if (places.size() < 16) return oval;
  oval[0] = quantile(places, 0.5);
  for (int round = 0; round < 5; ++round) {
    const double scale = round == 0 ? 0.25 : round == 1 ? 0.15 : 0.10;
    NormalEquations<5> normal(1e-3, oval);
    for (int k = 0; k < candidate::directions; ++k) {
      const Step& s = l.at[static_cast<std::size_t>(k)];
      if (!(s.contrast > 0.35 * typical)) continue;
      const Oval t = terms_at(k);
      const double scaled = (s.at - dot(t, oval)) / scale;
      if (std::abs(scaled) > 1.0) continue;
      const double weight = (1.0 - scaled * scaled) * (1.0 - scaled * scaled);
      normal.add(t, s.at, weight);
    }
    oval = normal.solve();
  }
  for (int k = 0; k < candidate::directions; ++k) {
    Step& s = l.at[static_cast<std::size_t>(k)];
    s.residual = s.at - dot(terms_at(k), oval);
    s.fits = s.contrast > 0.35 * typical && std::abs(s.residual) < 0.11;
  }
  return oval;
}

double typical_contrast(const Look& l) {
  std::vector<double> all;
  for (const Step& s : l.at) all.push_back(s.contrast);
  return quantile(all, 0.6);
}

// Not even roughly an edge all around, or hardly brighter than what is around.
bool hopeless(const Look& l, const Oval& oval, double typical, double noise) {
  if (!(typical > 2.5 * noise)) return true;
  int near = 0;
  for (int k = 0; k < candidate::directions; ++k) {
    const Step& s = l.at[static_cast<std::size_t>(k)];
    near += s.contrast > 0.3 * typical && std::abs(s.at - dot(terms_at(k), oval)) < 0.2 ? 1 : 0;
  }
  return near < candidate::directions / 2;
}

// Whether it is longest at right angles to the way to the picture's middle, and far from there: so
// the lens's barrel cuts discs.
bool lies_across(const GreyImage& plane, const Candidate& c, const Oval& oval) {
  const double right = c.x - 0.5 * plane.width;
  const double up = 0.5 * plane.height - c.y;
  const double reach = 0.5 * std::hypot(plane.width, plane.height);
  if (std::hypot(right, up) < 0.35 * reach) return false;
  const double longest = 0.5 * std::atan2(oval[4], oval[3]);
  return std::abs(std::sin(longest - std::atan2(up, right))) > 0.9;
}

}  // namespace

CheckedCandidate probe(const GreyImage& plane, const Candidate& candidate, double noise) {
  CheckedCandidate out;
  out.disc = candidate;
  if (!worth_a_look(plane, candidate, noise)) {
    out.why = "it is as bright a little farther out";
    return out;
  }
  if (!steps_all_around(plane, candidate, noise)) {
    out.why = "no edge all around";
    return out;
  }
  Look l;
  Oval oval{};
  double typical = 0.0;
  for (int round = 0; round < 3; ++round) {
    l = look(plane, out.disc);
    typical = typical_contrast(l);
    if (!(typical > 0.0)) break;
    oval = fit_oval(l, typical);
    if (!(oval[0] > 0.3)) break;
    if (round == 2) break;
    // Most candidates show at the first look that nothing will come of them.
    if (round == 0 && hopeless(l, oval, typical, noise)) break;
    Candidate& c = out.disc;
    c.x += std::clamp(oval[1], -0.4, 0.4) * c.radius * c.aspect;
    c.y -= std::clamp(oval[2], -0.4, 0.4) * c.radius;
    const double shape = std::clamp(oval[3] / oval[0], -0.15, 0.15);
    c.radius *= std::clamp(oval[0], 0.75, 1.35) * (1.0 - shape);
    c.aspect *= (1.0 + shape) / (1.0 - shape);
  }
  out.contrast = typical;
  const auto refuse = [&](const char* why) {
    out.why = why;
    return out;
  };
  if (!(typical > 4.0 * noise)) return refuse("hardly brighter than what is around it");
  if (!(oval[0] > 0.3)) return refuse("no edge all around");
  int fits = 0;
  int darker = 0;
  double residual2 = 0.0;
  for (const Step& s : l.at) {
    if (s.fits) {
      ++fits;
      residual2 += s.residual * s.residual;
    }
    // A letter's eye has a dark ring, and beyond it is as bright as within.
    if (s.outside < l.inside - 0.5 * typical && s.far < l.inside - 0.35 * typical) ++darker;
  }
  out.quality = static_cast<double>(fits) / candidate::directions;
  if (out.quality < 0.68) return refuse("its edge is no oval");
  const double scaled = std::sqrt(residual2 / fits);
  if (scaled > 0.062) return refuse("its edge is no oval");
  if (std::abs(oval[4]) > (lies_across(plane, out.disc, oval) ? 0.3 : 0.12) * oval[0]) {
    return refuse("it leans, which no squeeze does");
  }
  if (darker < 0.68 * candidate::directions) return refuse("it is as bright a little farther out");
  if (l.uneven > std::max(0.28 * typical, 2.5 * noise)) return refuse("it is not even within");
  if (out.disc.aspect < 0.35 || out.disc.aspect > 1.6) return refuse("it is too long");
  out.is_disc = true;
  return out;
}

}  // namespace jolly_iris::measuring
