#include "jolly_iris/match/value_curve.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <limits>
#include <optional>
#include <random>

#include "jolly_iris/optics/errors.hpp"

namespace jolly_iris {

namespace {

// Of the t distribution that points scatter by: heavy enough that one in twenty may be wrong.
constexpr double freedom = 4.0;
constexpr int reweighted = 4;
constexpr int adapted = 12;  // times that the unrest along the way is looked at anew
// Of a value that nobody saw yet, against all that is seen of it: as good as nothing known.
constexpr double unknown = 1e4;

// The value and its speed, and how surely.
struct Gauss {
  double f = 0.0;
  double v = 0.0;
  double ff = 0.0;
  double fv = 0.0;
  double vv = 0.0;
};

// What moves comes to rest: a speed is forgotten within so many frames (a second of film) unless
// points say otherwise. Without it a gap would be bridged by going on for ever.
constexpr double forgotten = 24.0;

// Later by dt: an Ornstein–Uhlenbeck speed (1930), disturbed with power q.
struct Step {
  double ahead;  // what a speed of 1 adds to the value
  double kept;   // of the speed
};
Step step_of(double dt) {
  const double kept = std::exp(-dt / forgotten);
  return {forgotten * (1.0 - kept), kept};
}

Gauss later(const Gauss& g, double dt, double q) {
  const auto [a, k] = step_of(dt);
  Gauss out;
  out.f = g.f + a * g.v;
  out.v = k * g.v;
  // What the disturbances add, integrated; of short times the series, since terms cancel.
  const double t = dt / forgotten;
  const double ff =
      t < 1e-2 ? dt * dt * dt / 3.0 * (1.0 - 0.75 * t)
               : forgotten * forgotten * forgotten * (t - 2.0 * (1.0 - k) + 0.5 * (1.0 - k * k));
  out.ff = g.ff + 2.0 * a * g.fv + a * a * g.vv + q * ff;
  out.fv = k * (g.fv + a * g.vv) + q * 0.5 * a * a;
  out.vv = k * k * g.vv + q * 0.5 * forgotten * (1.0 - k * k);
  return out;
}

Gauss told(const Gauss& g, double value, double variance) {
  const double s = g.ff + variance;
  const double kf = g.ff / s;
  const double kv = g.fv / s;
  const double off = value - g.f;
  return {g.f + kf * off, g.v + kv * off, g.ff * (variance / s), g.fv * (variance / s),
          g.vv - kv * g.fv};
}

// A time at which something was told, or is asked.
struct Tick {
  double frame = 0.0;
  std::optional<std::size_t> point{};
  std::optional<std::size_t> asked{};
};

std::vector<Tick> ticks_of(const std::vector<CurvePoint>& points,
                           const std::vector<double>& frames) {
  std::vector<Tick> out;
  std::size_t p = 0;
  std::size_t a = 0;
  while (p < points.size() || a < frames.size()) {
    const double inf = std::numeric_limits<double>::infinity();
    const double at =
        std::min(p < points.size() ? points[p].frame : inf, a < frames.size() ? frames[a] : inf);
    Tick t;
    t.frame = at;
    if (p < points.size() && points[p].frame == at) t.point = p++;
    if (a < frames.size() && frames[a] == at) t.asked = a++;
    out.push_back(t);
  }
  return out;
}

struct ValueExtent {
  double middle = 0.0;  // of the values
  double spread = 1.0;  // and how far they reach, never nothing
};

ValueExtent extent_of(const std::vector<CurvePoint>& points) {
  double low = points.front().value;
  double high = low;
  double sigma = 0.0;
  for (const CurvePoint& p : points) {
    low = std::min(low, p.value);
    high = std::max(high, p.value);
    sigma = std::max(sigma, p.sigma);
  }
  return {0.5 * (low + high), std::max(high - low, sigma)};
}

struct Filtered {
  std::vector<Gauss> before{};  // what is expected at each tick
  std::vector<Gauss> after{};   // with what it told
  double surprise = 0.0;        // −2 log likelihood, but for the scatter
  double misfit = 0.0;          // Σ of squares
  int told = 0;
};

// @param unrest of the way to each tick; of the first it does not count
Filtered filter(const std::vector<CurvePoint>& points, const std::vector<Tick>& ticks,
                const std::vector<double>& weight, const std::vector<double>& unrest) {
  const ValueExtent extent = extent_of(points);
  const double wide = unknown * extent.spread;
  Filtered out;
  Gauss g{extent.middle, 0.0, wide * wide, 0.0, extent.spread * extent.spread};
  double when = ticks.front().frame;
  for (std::size_t i = 0; i < ticks.size(); ++i) {
    const Tick& t = ticks[i];
    g = later(g, t.frame - when, unrest[i]);
    when = t.frame;
    out.before.push_back(g);
    if (t.point) {
      const CurvePoint& p = points[*t.point];
      const double variance = p.sigma * p.sigma / weight[*t.point];
      const double s = g.ff + variance;
      const double off = p.value - g.f;
      if (out.told > 0) {  // the first is no surprise, wherever it lies
        out.surprise += std::log(s);
        out.misfit += off * off / s;
      }
      ++out.told;
      g = told(g, p.value, variance);
    }
    out.after.push_back(g);
  }
  return out;
}

// The scatter that is the likeliest, within what can be; few points tell little of it.
double scatter2_of(const Filtered& f) {
  constexpr double believed = 6.0;  // points' worth that they scatter as they say
  const double n = std::max(0, f.told - 1);
  return std::clamp((f.misfit + believed) / (n + believed), 0.04, 100.0);
}

double cost_of(const Filtered& f) {
  const double n = std::max(0, f.told - 1);
  const double s2 = scatter2_of(f);
  return f.surprise + n * std::log(s2) + f.misfit / s2;
}

// In units of the scatter: q here is the unrest over scatter².
double likeliest_unrest(const std::vector<CurvePoint>& points, const std::vector<Tick>& ticks,
                        const std::vector<double>& weight) {
  double sigma = 0.0;
  for (const CurvePoint& p : points) sigma += p.sigma / static_cast<double>(points.size());
  const double unit = sigma * sigma;
  // From a straight line over thousands of frames to a value that jumps from frame to frame.
  double best = 0.0;
  double least = std::numeric_limits<double>::infinity();
  const auto look = [&](double exponent) {
    const std::vector<double> even(ticks.size(), unit * std::pow(10.0, exponent));
    const double c = cost_of(filter(points, ticks, weight, even));
    if (c >= least) return;
    least = c;
    best = exponent;
  };
  for (double e = -10.0; e <= 5.0; e += 0.5) look(e);
  const double middle = best;
  for (double e = middle - 0.4; e <= middle + 0.41; e += 0.1) look(e);
  return unit * std::pow(10.0, best);
}

// How a tick follows from the one after it: G = P Fᵀ P'⁻¹ with F = [1 a; 0 k].
struct Gain {
  double a, b, c, d;          // P Fᵀ
  double g00, g01, g10, g11;  // G
};

Gain gain_of(const Gauss& g, const Gauss& ahead, double dt) {
  const auto [a, kept] = step_of(dt);
  Gain k{g.ff + a * g.fv, kept * g.fv, g.fv + a * g.vv, kept * g.vv, 0.0, 0.0, 0.0, 0.0};
  const double det = std::max(ahead.ff * ahead.vv - ahead.fv * ahead.fv, 1e-300);
  k.g00 = (k.a * ahead.vv - k.b * ahead.fv) / det;
  k.g01 = (k.b * ahead.ff - k.a * ahead.fv) / det;
  k.g10 = (k.c * ahead.vv - k.d * ahead.fv) / det;
  k.g11 = (k.d * ahead.ff - k.c * ahead.fv) / det;
  return k;
}

// Backwards: what the later ones tell of the earlier ones.
struct Smoothed {
  std::vector<Gauss> at{};
  /// Of the way to each tick: the square of how the speed changed, and its variance in units of the
  /// scatter.
  std::vector<double> turned2{};
  std::vector<double> unsure2{};
};

Smoothed smooth(const Filtered& f, const std::vector<Tick>& ticks) {
  Smoothed both{f.after, std::vector<double>(ticks.size(), 0.0),
                std::vector<double>(ticks.size(), 0.0)};
  std::vector<Gauss>& out = both.at;
  for (std::size_t i = ticks.size() - 1; i-- > 0;) {
    const Gauss& g = f.after[i];
    const Gauss& ahead = f.before[i + 1];
    const Gauss& s = out[i + 1];
    const Gain k = gain_of(g, ahead, ticks[i + 1].frame - ticks[i].frame);
    const double of = s.f - ahead.f;
    const double ov = s.v - ahead.v;
    const double ff = s.ff - ahead.ff;
    const double fv = s.fv - ahead.fv;
    const double vv = s.vv - ahead.vv;
    Gauss r;
    r.f = g.f + k.g00 * of + k.g01 * ov;
    r.v = g.v + k.g10 * of + k.g11 * ov;
    r.ff =
        std::max(0.0, g.ff + k.g00 * (k.g00 * ff + k.g01 * fv) + k.g01 * (k.g00 * fv + k.g01 * vv));
    r.fv = g.fv + k.g00 * (k.g10 * ff + k.g11 * fv) + k.g01 * (k.g10 * fv + k.g11 * vv);
    r.vv =
        std::max(0.0, g.vv + k.g10 * (k.g10 * ff + k.g11 * fv) + k.g11 * (k.g10 * fv + k.g11 * vv));
    out[i] = r;
    // Cov(x', x) = P'ₛ Gᵀ.
    const double together = s.fv * k.g10 + s.vv * k.g11;
    const double kept = step_of(ticks[i + 1].frame - ticks[i].frame).kept;
    const double turn = s.v - kept * r.v;
    both.turned2[i + 1] = turn * turn;
    both.unsure2[i + 1] = std::max(0.0, s.vv + kept * kept * r.vv - 2.0 * kept * together);
  }
  return both;
}

// What a point counts, by how far it lies from where the others want it.
std::vector<double> weights_of(const std::vector<CurvePoint>& points,
                               const std::vector<Tick>& ticks, const std::vector<Gauss>& smoothed,
                               const std::vector<double>& weight, double scatter2) {
  std::vector<double> out = weight;
  for (std::size_t i = 0; i < ticks.size(); ++i) {
    if (!ticks[i].point) continue;
    const CurvePoint& p = points[*ticks[i].point];
    const double variance = p.sigma * p.sigma / weight[*ticks[i].point];
    const double own = smoothed[i].ff / variance;  // share of the curve here that is this point's
    const double off = (p.value - smoothed[i].f) / std::max(1.0 - own, 1e-3);
    const double of_others = smoothed[i].ff / std::max(1.0 - own, 1e-3);
    const double r2 = off * off / (scatter2 * (p.sigma * p.sigma + of_others));
    out[*ticks[i].point] = (freedom + 1.0) / (freedom + r2);
  }
  return out;
}

// A hand stands still and moves: how much the speed changes differs along the way, and what lies
// within a few frames tells it. Expectation and maximisation (Dempster, Laird and Rubin 1977):
// where nothing was seen it stays as it was.
std::vector<double> nearby_unrest(const std::vector<Tick>& ticks, const Smoothed& smoothed,
                                  double scatter2, const std::vector<double>& unrest) {
  constexpr double near = 3.0;  // frames, one deviation
  constexpr double reach = 3.0 * near;
  double most = 0.0;
  for (const double q : unrest) most = std::max(most, q);
  std::vector<double> out = unrest;
  std::size_t from = 1;
  for (std::size_t i = 1; i < ticks.size(); ++i) {
    while (ticks[from].frame < ticks[i].frame - reach) ++from;
    double sum = 0.0;
    double time = 0.0;
    for (std::size_t k = from; k < ticks.size() && ticks[k].frame <= ticks[i].frame + reach; ++k) {
      const double apart = (ticks[k].frame - ticks[i].frame) / near;
      const double w = std::exp(-0.5 * apart * apart);
      sum += w * (smoothed.turned2[k] / scatter2 + smoothed.unsure2[k]);
      time += w * (ticks[k].frame - ticks[k - 1].frame);
    }
    out[i] = std::max(sum / time, 1e-9 * most);
  }
  return out;
}

void check_curve(const std::vector<CurvePoint>& points, const std::vector<double>& frames) {
  for (std::size_t i = 0; i < points.size(); ++i) {
    const CurvePoint& p = points[i];
    if (!std::isfinite(p.frame + p.value + p.sigma) || !(p.sigma > 0.0)) {
      throw UsageError(
          fmt::format("frame {:g} says {:g} within {:g}; a value is a number and its "
                      "deviation is above zero",
                      p.frame, p.value, p.sigma));
    }
    if (i > 0 && !(p.frame > points[i - 1].frame)) {
      throw UsageError(fmt::format("frame {:g} comes after frame {:g}; frames have to rise",
                                   p.frame, points[i - 1].frame));
    }
  }
  for (std::size_t i = 1; i < frames.size(); ++i) {
    if (frames[i] > frames[i - 1]) continue;
    throw UsageError(
        fmt::format("the curve is asked for at frame {:g} after frame {:g}; frames "
                    "have to rise",
                    frames[i], frames[i - 1]));
  }
}

ValueCurve level(const std::vector<CurvePoint>& points, const std::vector<double>& frames) {
  double w = 0.0;
  double sum = 0.0;
  for (const CurvePoint& p : points) {
    w += 1.0 / (p.sigma * p.sigma);
    sum += p.value / (p.sigma * p.sigma);
  }
  const double mean = sum / w;
  double off = 0.0;
  for (const CurvePoint& p : points) off = std::max(off, std::abs(p.value - mean));
  ValueCurve out;
  out.frames = frames;
  out.value.assign(frames.size(), mean);
  out.speed.assign(frames.size(), 0.0);
  out.sigma.assign(frames.size(), std::hypot(1.0 / std::sqrt(w), off));
  out.weight.assign(points.size(), 1.0);
  return out;
}

// Where nothing was seen it may have been as restless as on either side of that.
void bridge_unrest(const std::vector<Tick>& ticks, std::vector<double>& unrest) {
  constexpr double alone = 2.0;  // frames without a point that are no gap yet
  std::optional<std::size_t> before;
  for (std::size_t i = 0; i < ticks.size(); ++i) {
    if (!ticks[i].point) continue;
    if (before && ticks[i].frame - ticks[*before].frame > alone) {
      const double most = std::max(unrest[*before], unrest[i]);
      for (std::size_t k = *before + 1; k <= i; ++k) unrest[k] = std::max(unrest[k], most);
    }
    before = i;
  }
}

// Before the first point and after the last one it may as well have stood where that one saw it.
void widen_outside(const std::vector<CurvePoint>& points, ValueCurve& curve) {
  const auto at = [&](double frame) {
    const auto i = std::lower_bound(curve.frames.begin(), curve.frames.end(), frame);
    return curve.value[std::min(static_cast<std::size_t>(i - curve.frames.begin()),
                                curve.value.size() - 1)];
  };
  const double first = at(points.front().frame);
  const double last = at(points.back().frame);
  for (std::size_t i = 0; i < curve.frames.size(); ++i) {
    const bool before = curve.frames[i] < points.front().frame;
    if (!before && curve.frames[i] <= points.back().frame) continue;
    const double off = curve.value[i] - (before ? first : last);
    curve.sigma[i] = std::hypot(curve.sigma[i], 0.5 * off);
  }
}

}  // namespace

ValueCurve smooth_curve(const std::vector<CurvePoint>& points, const std::vector<double>& frames) {
  check_curve(points, frames);
  if (points.empty()) return {};
  if (points.size() < 3) return level(points, frames);
  const std::vector<Tick> ticks = ticks_of(points, frames);
  ValueCurve out;
  out.frames = frames;
  out.weight.assign(points.size(), 1.0);
  double scatter2 = 1.0;
  std::vector<double> unrest;
  Smoothed smoothed;
  const auto look = [&] {
    const Filtered f = filter(points, ticks, out.weight, unrest);
    scatter2 = scatter2_of(f);
    smoothed = smooth(f, ticks);
  };
  // What goes with none of the others is found while the curve is equally restless everywhere: one
  // that may turn where it likes turns after each of them.
  for (int round = 0; round < reweighted; ++round) {
    unrest.assign(ticks.size(), likeliest_unrest(points, ticks, out.weight));
    look();
    out.weight = weights_of(points, ticks, smoothed.at, out.weight, scatter2);
  }
  for (int pass = 0; pass < adapted; ++pass) {
    look();
    unrest = nearby_unrest(ticks, smoothed, scatter2, unrest);
  }
  bridge_unrest(ticks, unrest);
  look();
  out.scatter = std::sqrt(scatter2);
  for (std::size_t i = 0; i < ticks.size(); ++i) {
    out.unrest.push_back(unrest[i] * scatter2);
    if (!ticks[i].asked) continue;
    out.value.push_back(smoothed.at[i].f);
    out.speed.push_back(smoothed.at[i].v);
    out.sigma.push_back(std::sqrt(scatter2 * smoothed.at[i].ff));
  }
  widen_outside(points, out);
  return out;
}

std::vector<std::vector<double>> possible_curves(const std::vector<CurvePoint>& points,
                                                 const ValueCurve& curve, std::size_t count,
                                                 std::uint32_t seed) {
  std::vector<std::vector<double>> out;
  if (curve.empty()) return out;
  std::mt19937 random(seed);
  // Box and Muller (1958): a library's own distribution differs from one to the next.
  const auto normal = [&] {
    const double u = (static_cast<double>(random()) + 1.0) / 4294967297.0;
    const double w = static_cast<double>(random()) / 4294967296.0;
    return std::sqrt(-2.0 * std::log(u)) * std::cos(2.0 * 3.14159265358979323846 * w);
  };
  if (points.size() < 3) {
    for (std::size_t k = 0; k < count; ++k) {
      const double off = normal();
      std::vector<double> one;
      for (std::size_t i = 0; i < curve.frames.size(); ++i) {
        one.push_back(curve.value[i] + off * curve.sigma[i]);
      }
      out.push_back(std::move(one));
    }
    return out;
  }
  const std::vector<Tick> ticks = ticks_of(points, curve.frames);
  const double s = curve.scatter;
  std::vector<double> unrest = curve.unrest;
  for (double& q : unrest) q /= s * s;
  const Filtered f = filter(points, ticks, curve.weight, unrest);
  // Backwards, each drawn given the one after it (Frühwirth-Schnatter 1994, Carter and Kohn 1994).
  const auto drawn = [&](const Gauss& g) {
    const double a = std::sqrt(std::max(0.0, g.ff));
    const double n0 = normal();
    const double n1 = normal();
    const double c = a > 0.0 ? g.fv / a : 0.0;
    const double d = std::sqrt(std::max(0.0, g.vv - c * c));
    return std::array<double, 2>{g.f + s * a * n0, g.v + s * (c * n0 + d * n1)};
  };
  for (std::size_t k = 0; k < count; ++k) {
    std::vector<double> one(curve.frames.size());
    std::array<double, 2> now = drawn(f.after.back());
    for (std::size_t i = ticks.size(); i-- > 0;) {
      if (i + 1 < ticks.size()) {
        // What comes after tells of this one as two exact readings with q's scatter.
        const Gauss& g = f.after[i];
        const Gauss& ahead = f.before[i + 1];
        const Gain m = gain_of(g, ahead, ticks[i + 1].frame - ticks[i].frame);
        const double of = now[0] - ahead.f;
        const double ov = now[1] - ahead.v;
        Gauss r;
        r.f = g.f + m.g00 * of + m.g01 * ov;
        r.v = g.v + m.g10 * of + m.g11 * ov;
        r.ff = std::max(0.0, g.ff - m.g00 * m.a - m.g01 * m.b);
        r.fv = g.fv - m.g10 * m.a - m.g11 * m.b;
        r.vv = std::max(0.0, g.vv - m.g10 * m.c - m.g11 * m.d);
        now = drawn(r);
      }
      if (ticks[i].asked) one[*ticks[i].asked] = now[0];
    }
    out.push_back(std::move(one));
  }
  return out;
}

}  // namespace jolly_iris
