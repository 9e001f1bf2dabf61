#include "drawn_thing.hpp"

#include <algorithm>
#include <cmath>
#include <limits>
#include <numbers>

#include "normal_equations.hpp"
#include "optics/quantile.hpp"

namespace jolly_iris::measuring {

namespace {

using std::numbers::pi;

constexpr int around_px = 7;  // beside a thing, where its ground is seen
constexpr int largest_window_px =
    260;  // of a window: larger things take too long, and are no lamps
constexpr double largest_of_picture = 0.15;  // the same, of its diagonal
constexpr double most_others = 0.2;          // of a window
// What no model of a lamp tells better than: its own unevenness, of its light.
constexpr double uneven = 0.015;
// Of a large thing every so many pixels tell enough: about so many in all.
constexpr double enough_pixels = 2500.0;
constexpr double least_softness = 0.3;  // px: of a pixel's box alone
constexpr double least_radius = 0.2;    // px
constexpr int most_steps = 40;
constexpr std::size_t unknowns = 10;

using Unknowns = Terms<unknowns>;
// Ground and its slopes; logarithms of all of its light, of its radius and of its softness; where
// it is; its way.
struct Of {
  enum : std::size_t { ground, slope_x, slope_y, flux, radius, softness, at_x, at_y, way_x, way_y };
};

// What codecs leave beside and on bright things: of their light there, and of their peak.
constexpr double coded_share = 0.035;
constexpr double coded_floor = 0.004;
// What is as bright may have been cut off: codecs leave some values open.
constexpr double cut_from = 0.96;

// The channel in which the fewest of a thing's pixels are cut off; none: all of them together.
std::optional<std::size_t> channel_of(const Picture& plate, const BrightThing& thing,
                                      double clips_at) {
  if (!thing.clipped || !(clips_at > 0.0)) return std::nullopt;
  std::array<std::size_t, 3> cut{};
  for (const std::uint32_t i : thing.pixels) {
    for (std::size_t c = 0; c < 3; ++c) {
      cut[c] += static_cast<double>(plate.pixels()[i][c]) >= cut_from * clips_at;
    }
  }
  // Green is what codecs keep best.
  std::size_t best = 1;
  for (const std::size_t c : {std::size_t{0}, std::size_t{2}}) {
    if (4 * cut[c] < 3 * cut[best]) best = c;
  }
  return best;
}

// exp(−x) I₀(x) (Abramowitz and Stegun 9.8.1, 9.8.2).
double scaled_bessel(double x) {
  if (x < 3.75) {
    const double t = x * x / (3.75 * 3.75);
    return std::exp(-x) *
           (1.0 + t * (3.5156229 +
                       t * (3.0899424 +
                            t * (1.2067492 + t * (0.2659732 + t * (0.0360768 + t * 0.0045813))))));
  }
  const double t = 3.75 / x;
  return (0.39894228 +
          t * (0.01328592 +
               t * (0.00225319 +
                    t * (-0.00157565 +
                         t * (0.00916281 +
                              t * (-0.02057706 +
                                   t * (0.02635537 + t * (-0.01647633 + t * 0.00392377)))))))) /
         std::sqrt(x);
}

// A disc of light 1 in all, softened by a Gaussian, by the distance from its middle.
class SoftDisc {
 public:
  SoftDisc(double r, double s) : reach_(r + 5.0 * s), per_px_((places - 1) / reach_) {
    for (int i = 0; i < places; ++i)
      values_[static_cast<std::size_t>(i)] = at_distance(i / per_px_, r, s);
  }
  double at(double distance) const {
    if (distance >= reach_) return 0.0;
    const double x = distance * per_px_;
    const auto i = std::min(static_cast<std::size_t>(x), static_cast<std::size_t>(places - 2));
    const double t = x - static_cast<double>(i);
    return (1.0 - t) * values_[i] + t * values_[i + 1];
  }

 private:
  static constexpr int places = 160;

  static double at_distance(double d, double r, double s) {
    if (r > 12.0 * s) return 0.5 * std::erfc((d - r) / (s * std::numbers::sqrt2)) / (pi * r * r);
    // Over rings of the disc, no thinner than need be for the Gaussian.
    const int rings = 8 + static_cast<int>(3.0 * r / s);
    double sum = 0.0;
    for (int k = 0; k < rings; ++k) {
      const double ring = r * (k + 0.5) / rings;
      const double off = (d - ring) / s;
      sum += ring * std::exp(-0.5 * off * off) * scaled_bessel(d * ring / (s * s));
    }
    return sum * (r / rings) / (s * s) / (pi * r * r);
  }

  double reach_;
  double per_px_;
  std::array<double, places> values_{};
};

// Between −half and half, softened: what is within.
double soft_box(double at, double half, double s) {
  const double k = 1.0 / (s * std::numbers::sqrt2);
  return 0.5 * (std::erfc((at - half) * k) - std::erfc((at + half) * k));
}

class ShapeModel {
 public:
  ShapeModel(const ThingPixels& pixels, ThingShape shape) : px_(pixels), shape_(shape) {}

  // What the model has for each pixel; with so many discs along the way.
  std::vector<double> light(const Unknowns& u, int discs) const {
    const double s = std::exp(u[Of::softness]);
    const double r = std::exp(u[Of::radius]);
    const double all = std::exp(u[Of::flux]);
    std::vector<double> out(px_.light.size());
    std::vector<std::array<double, 3>> places;  // and share
    double shares = 0.0;
    for (int k = 0; k < discs; ++k) {
      const double t = (k + 0.5) / discs - 0.5;
      const double share = shape_ == ThingShape::oval ? std::sqrt(1.0 - 4.0 * t * t) : 1.0;
      shares += share;
      places.push_back({u[Of::at_x] + t * u[Of::way_x], u[Of::at_y] + t * u[Of::way_y], share});
    }
    const SoftDisc disc(r, s);
    const double length = std::hypot(u[Of::way_x], u[Of::way_y]);
    const double cos = length > 1e-9 ? u[Of::way_x] / length : 1.0;
    const double sin = length > 1e-9 ? u[Of::way_y] / length : 0.0;
    std::size_t i = 0;
    for (int y = 0; y < px_.height; ++y) {
      for (int x = 0; x < px_.width; ++x, ++i) {
        if (!(px_.weight[i] > 0.0F)) continue;
        const double right = x + 0.5 - 0.5 * px_.width;
        const double down = y + 0.5 - 0.5 * px_.height;
        double shape = 0.0;
        if (shape_ == ThingShape::window) {
          const double across = std::sqrt(pi) * r;  // as a disc of its area
          const double a = right - u[Of::at_x];
          const double b = down - u[Of::at_y];
          shape = soft_box(a * cos + b * sin, 0.5 * (across + length), s) *
                  soft_box(-a * sin + b * cos, 0.5 * across, s) / (across * (across + length));
        } else {
          for (const auto& p : places) {
            const double dx = right - p[0];
            const double dy = down - p[1];
            shape += p[2] * disc.at(std::sqrt(dx * dx + dy * dy));
          }
          shape /= shares;
        }
        out[i] = u[Of::ground] + u[Of::slope_x] * right / px_.width +
                 u[Of::slope_y] * down / px_.height + all * shape;
      }
    }
    return out;
  }

  // So many that their distance is no more than what smooths them.
  static int discs_for(const Unknowns& u) {
    const double length = std::hypot(u[Of::way_x], u[Of::way_y]);
    const double smooth = std::exp(u[Of::softness]) + 0.15 * std::exp(u[Of::radius]);
    return std::clamp(static_cast<int>(std::ceil(length / (0.35 * smooth))) + 1, 2, 240);
  }

  // What is cut off in both is no difference.
  double difference(std::size_t i, double model) const {
    const auto seen = static_cast<double>(px_.light[i]);
    if (px_.clip > 0.0 && seen >= px_.clip) return model >= px_.clip ? 0.0 : seen - model;
    return seen - (px_.clip > 0.0 ? std::min(model, 1.02 * px_.clip) : model);
  }

  double misfit(const std::vector<double>& model) const {
    double sum = 0.0;
    for (std::size_t i = 0; i < model.size(); ++i) {
      const double d = difference(i, model[i]);
      sum += static_cast<double>(px_.weight[i]) * d * d;
    }
    return sum;
  }

 private:
  const ThingPixels& px_;
  ThingShape shape_;
};

struct Moments {
  double light = 0.0;
  std::array<double, 2> at{};
  double most = 0.0;  // variances along and across
  double least = 0.0;
  double angle = 0.0;  // of the longer one
};

Moments moments_of(const ThingPixels& px, double ground_light) {
  Moments m;
  double xx = 0.0, xy = 0.0, yy = 0.0;
  const auto for_all = [&](const auto& f) {
    std::size_t i = 0;
    for (int y = 0; y < px.height; ++y) {
      for (int x = 0; x < px.width; ++x, ++i) {
        const double v = static_cast<double>(px.light[i]) - ground_light;
        if (px.weight[i] > 0.0F && v > 0.08 * px.peak) {
          f(x + 0.5 - 0.5 * px.width, y + 0.5 - 0.5 * px.height, v);
        }
      }
    }
  };
  for_all([&](double x, double y, double v) {
    m.light += v;
    m.at[0] += v * x;
    m.at[1] += v * y;
  });
  if (!(m.light > 0.0)) return m;
  for (double& a : m.at) a /= m.light;
  for_all([&](double x, double y, double v) {
    xx += v * (x - m.at[0]) * (x - m.at[0]) / m.light;
    xy += v * (x - m.at[0]) * (y - m.at[1]) / m.light;
    yy += v * (y - m.at[1]) * (y - m.at[1]) / m.light;
  });
  const double half = std::hypot(0.5 * (xx - yy), xy);
  m.most = 0.5 * (xx + yy) + half;
  m.least = std::max(0.05, 0.5 * (xx + yy) - half);
  m.angle = 0.5 * std::atan2(2.0 * xy, xx - yy);
  return m;
}

void keep_in_reach(Unknowns& u, const ThingPixels& px) {
  u[Of::softness] = std::clamp(u[Of::softness], std::log(least_softness), std::log(12.0));
  u[Of::radius] = std::clamp(u[Of::radius], std::log(least_radius),
                             std::log(0.6 * std::max(px.width, px.height)));
}

}  // namespace

std::optional<ThingPixels> pixels_around(const Picture& plate, const BrightThings& bright,
                                         std::size_t thing, double clips_at, bool coded) {
  const auto width = static_cast<std::uint32_t>(plate.width());
  int x0 = plate.width();
  int y0 = plate.height();
  int x1 = 0;
  int y1 = 0;
  for (const std::uint32_t i : bright.things[thing].pixels) {
    const int x = static_cast<int>(i % width);
    const int y = static_cast<int>(i / width);
    x0 = std::min(x0, x);
    x1 = std::max(x1, x);
    y0 = std::min(y0, y);
    y1 = std::max(y1, y);
  }
  x0 = std::max(0, x0 - around_px);
  y0 = std::max(0, y0 - around_px);
  x1 = std::min(plate.width() - 1, x1 + around_px);
  y1 = std::min(plate.height() - 1, y1 + around_px);
  ThingPixels out;
  out.corner = {x0, y0};
  out.width = x1 - x0 + 1;
  out.height = y1 - y0 + 1;
  const int largest =
      std::min(largest_window_px,
               static_cast<int>(largest_of_picture * std::hypot(plate.width(), plate.height())));
  if (out.width > largest || out.height > largest) return std::nullopt;
  const auto channel = channel_of(plate, bright.things[thing], clips_at);
  std::size_t others = 0;
  std::vector<float> outside;
  for (int y = y0; y <= y1; ++y) {
    for (int x = x0; x <= x1; ++x) {
      const std::size_t i = static_cast<std::size_t>(y) * width + static_cast<std::size_t>(x);
      const Rgba& p = plate.pixels()[i];
      const float light = channel ? p[*channel] : (p[0] + p[1] + p[2]) / 3.0F;
      out.light.push_back(light);
      const int owner = bright.owner[i];
      const bool other = owner >= 0 && owner != static_cast<int>(thing);
      others += other;
      out.weight.push_back(other ? 0.0F : 1.0F);
      if (owner < 0) outside.push_back(light);
      if (!other) out.peak = std::max(out.peak, static_cast<double>(light));
    }
  }
  if (static_cast<double>(others) > most_others * static_cast<double>(out.light.size()) ||
      outside.size() < 16) {
    return std::nullopt;
  }
  // Noise of the ground, by what neighbours along rows differ: a slope is no noise.
  std::vector<float> steps;
  for (int y = 0; y < out.height; ++y) {
    for (int x = 1; x < out.width; ++x) {
      const std::size_t i = static_cast<std::size_t>(y) * static_cast<std::size_t>(out.width) +
                            static_cast<std::size_t>(x);
      const std::size_t at =
          static_cast<std::size_t>(y + y0) * width + static_cast<std::size_t>(x + x0);
      if (bright.owner[at] < 0 && bright.owner[at - 1] < 0)
        steps.push_back(std::abs(out.light[i] - out.light[i - 1]));
    }
  }
  const double noise = steps.size() < 8 ? 0.0 : static_cast<double>(upper_median(steps)) / 0.954;
  // What stands beside a lamp, a post or a wall's edge, is no misfit of the lamp.
  const double spread = 0.5 * (static_cast<double>(quantile(std::vector<float>(outside), 0.9)) -
                               static_cast<double>(quantile(std::vector<float>(outside), 0.1)));
  out.noise = std::max({noise, spread / 1.28, 2e-4 * out.peak});
  out.clip = channel ? cut_from * clips_at : 0.0;
  const double area = static_cast<double>(out.width) * out.height;
  const auto every =
      static_cast<std::size_t>(std::max(1.0, std::round(std::sqrt(area / enough_pixels))));
  const auto across = static_cast<std::size_t>(out.width);
  for (std::size_t i = 0; i < out.light.size(); ++i) {
    const bool counts = i % across % every == 0 && i / across % every == 0;
    if (!counts) out.weight[i] = 0.0F;
    const auto light = static_cast<double>(out.light[i]);
    const double marks = coded ? std::hypot(coded_share * light, coded_floor * out.peak) : 0.0;
    const double sigma = std::hypot(out.noise, uneven * light, marks);
    out.weight[i] = out.weight[i] > 0.0F ? static_cast<float>(1.0 / (sigma * sigma)) : 0.0F;
  }
  return out;
}

namespace {

// @param times how much more light than is seen it is begun with
std::optional<DrawnThing> fitted_from(const ThingPixels& px, ThingShape shape, double times) {
  std::vector<float> border;
  for (int y = 0; y < px.height; ++y) {
    for (int x = 0; x < px.width; ++x) {
      const bool inner = x > 1 && y > 1 && x < px.width - 2 && y < px.height - 2;
      const std::size_t i = static_cast<std::size_t>(y) * static_cast<std::size_t>(px.width) +
                            static_cast<std::size_t>(x);
      if (!inner && px.weight[i] > 0.0F) border.push_back(px.light[i]);
    }
  }
  if (border.empty()) return std::nullopt;
  const auto dark = static_cast<double>(upper_median(border));
  const Moments m = moments_of(px, dark);
  if (!(m.light > 0.0)) return std::nullopt;
  Unknowns u{};
  u[Of::ground] = dark;
  u[Of::flux] = std::log(times * m.light);
  u[Of::softness] = std::log(0.7);
  u[Of::radius] = std::log(std::max(0.6, std::sqrt(std::max(0.2, 4.0 * (m.least - 0.4)))));
  u[Of::at_x] = m.at[0];
  u[Of::at_y] = m.at[1];
  const double length = std::sqrt(std::max(0.3, 12.0 * (m.most - m.least)));
  u[Of::way_x] = length * std::cos(m.angle);
  u[Of::way_y] = length * std::sin(m.angle);
  keep_in_reach(u, px);
  const ShapeModel model(px, shape);
  double damping = 1e-3;
  int discs = ShapeModel::discs_for(u);
  std::vector<double> now = model.light(u, discs);
  double misfit = model.misfit(now);
  NormalEquations<unknowns> normal;
  for (int step = 0; step < most_steps; ++step) {
    normal = NormalEquations<unknowns>();
    std::vector<std::vector<double>> slopes;
    for (std::size_t k = 0; k < unknowns; ++k) {
      const double h = k <= Of::slope_y ? std::max(1e-6, 1e-3 * px.peak) : 1e-3;
      Unknowns more = u;
      more[k] += h;
      std::vector<double> there = model.light(more, discs);
      for (std::size_t i = 0; i < there.size(); ++i) there[i] = (there[i] - now[i]) / h;
      slopes.push_back(std::move(there));
    }
    for (std::size_t i = 0; i < now.size(); ++i) {
      if (!(px.weight[i] > 0.0F)) continue;
      // What is cut off tells no slope.
      if (px.clip > 0.0 && now[i] >= px.clip) {
        if (static_cast<double>(px.light[i]) >= px.clip) continue;
      }
      Unknowns row;
      for (std::size_t k = 0; k < unknowns; ++k) row[k] = slopes[k][i];
      normal.add(row, model.difference(i, now[i]), static_cast<double>(px.weight[i]));
    }
    bool better = false;
    double gain = 0.0;
    for (int tries = 0; tries < 6 && !better; ++tries) {
      NormalEquations<unknowns> damped = normal;
      damped.damp(1.0 + damping, 1e-14);
      const Unknowns d = damped.solve();
      Unknowns next = u;
      bool finite = true;
      for (std::size_t k = 0; k < unknowns; ++k) {
        const double most = k == Of::radius || k == Of::softness || k == Of::flux
                                ? 0.5
                                : 0.25 * std::max(px.width, px.height);
        next[k] += k <= Of::slope_y ? d[k] : std::clamp(d[k], -most, most);
        finite = finite && std::isfinite(next[k]);
      }
      if (!finite) break;
      keep_in_reach(next, px);
      const int more = ShapeModel::discs_for(next);
      std::vector<double> there = model.light(next, more);
      const double then = model.misfit(there);
      if (then < misfit) {
        better = true;
        gain = (misfit - then) / std::max(1e-9, misfit);
        misfit = then;
        u = next;
        now = std::move(there);
        discs = more;
        damping *= 0.2;
      } else {
        damping = std::max(1e-4, 6.0 * damping);
      }
    }
    if (!better || gain < 1e-5) break;
  }
  normal.damp(1.0, 1e-14);
  DrawnThing out;
  out.way = {u[Of::way_x], -u[Of::way_y]};
  out.misfit = misfit;
  for (std::size_t i = 0; i < now.size(); ++i) out.pixels += px.weight[i] > 0.0F ? 1.0 : 0.0;
  Unknowns x{};
  Unknowns y{};
  Unknowns both{};
  x[Of::way_x] = 1.0;
  y[Of::way_y] = 1.0;
  both[Of::way_x] = 1.0;
  both[Of::way_y] = 1.0;
  const double xx = normal.variance(x);
  const double yy = normal.variance(y);
  out.cov = {xx, -0.5 * (normal.variance(both) - xx - yy), yy};
  out.across_px = shape == ThingShape::window ? std::sqrt(pi) * std::exp(u[Of::radius])
                                              : 2.0 * std::exp(u[Of::radius]);
  out.softness_px = std::exp(u[Of::softness]);
  const bool finite =
      std::isfinite(misfit) && std::isfinite(out.cov[0]) && std::isfinite(out.cov[2]);
  const bool inside = std::hypot(u[Of::way_x], u[Of::way_y]) < std::hypot(px.width, px.height) &&
                      std::abs(u[Of::at_x]) < 0.5 * px.width &&
                      std::abs(u[Of::at_y]) < 0.5 * px.height;
  if (!finite || !inside || !(xx > 0.0) || !(yy > 0.0)) return std::nullopt;
  return out;
}

}  // namespace

std::optional<DrawnThing> fitted_thing(const ThingPixels& px, ThingShape shape) {
  if (!(px.clip > 0.0)) return fitted_from(px, shape, 1.0);
  // How much light is cut off nobody knows: from a little to a lot.
  std::optional<DrawnThing> best;
  for (const double times : {1.5, 5.0, 20.0}) {
    const auto fit = fitted_from(px, shape, times);
    if (fit && (!best || fit->misfit < best->misfit)) best = fit;
  }
  return best;
}

}  // namespace jolly_iris::measuring
