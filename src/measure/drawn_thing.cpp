#include "drawn_thing.hpp"

#include <algorithm>
#include <cmath>
#include <limits>
#include <numbers>

#include "normal_equations.hpp"
#include "optics/quantile.hpp"
#include "thing_model.hpp"

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

void keep_in_reach(ThingUnknowns& u, const ThingPixels& px) {
  u[ThingOf::log_softness] =
      std::clamp(u[ThingOf::log_softness], std::log(least_softness), std::log(12.0));
  u[ThingOf::log_radius] = std::clamp(u[ThingOf::log_radius], std::log(least_radius),
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
  ThingUnknowns u{};
  u[ThingOf::base] = dark;
  u[ThingOf::log_flux] = std::log(times * m.light);
  u[ThingOf::log_softness] = std::log(0.7);
  u[ThingOf::log_radius] = std::log(std::max(0.6, std::sqrt(std::max(0.2, 4.0 * (m.least - 0.4)))));
  u[ThingOf::place_x] = m.at[0];
  u[ThingOf::place_y] = m.at[1];
  const double length = std::sqrt(std::max(0.3, 12.0 * (m.most - m.least)));
  u[ThingOf::way_x] = length * std::cos(m.angle);
  u[ThingOf::way_y] = length * std::sin(m.angle);
  keep_in_reach(u, px);
  const ThingModel model(px, shape);
  double damping = 1e-3;
  ThingPicture now = model.picture(u);
  double misfit = model.misfit(now);
  NormalEquations<thing_unknowns> normal;
  for (int step = 0; step < most_steps; ++step) {
    normal = model.equations(u, now);
    bool better = false;
    double gain = 0.0;
    for (int tries = 0; tries < 6 && !better; ++tries) {
      NormalEquations<thing_unknowns> damped = normal;
      damped.damp(1.0 + damping, 1e-14);
      const ThingUnknowns d = damped.solve();
      ThingUnknowns next = u;
      bool finite = true;
      for (std::size_t k = 0; k < thing_unknowns; ++k) {
        const double most =
            k == ThingOf::log_radius || k == ThingOf::log_softness || k == ThingOf::log_flux
                ? 0.5
                : 0.25 * std::max(px.width, px.height);
        next[k] += k <= ThingOf::base_y ? d[k] : std::clamp(d[k], -most, most);
        finite = finite && std::isfinite(next[k]);
      }
      if (!finite) break;
      keep_in_reach(next, px);
      ThingPicture there = model.picture(next);
      const double then = model.misfit(there);
      if (then < misfit) {
        better = true;
        gain = (misfit - then) / std::max(1e-9, misfit);
        misfit = then;
        u = next;
        now = std::move(there);
        damping *= 0.2;
      } else {
        damping = std::max(1e-4, 6.0 * damping);
      }
    }
    if (!better || gain < 1e-5) break;
  }
  normal.damp(1.0, 1e-14);
  DrawnThing out;
  out.way = {u[ThingOf::way_x], -u[ThingOf::way_y]};
  out.misfit = misfit;
  out.pixels = static_cast<double>(now.light.size());
  ThingUnknowns x{};
  ThingUnknowns y{};
  ThingUnknowns both{};
  x[ThingOf::way_x] = 1.0;
  y[ThingOf::way_y] = 1.0;
  both[ThingOf::way_x] = 1.0;
  both[ThingOf::way_y] = 1.0;
  const double xx = normal.variance(x);
  const double yy = normal.variance(y);
  out.cov = {xx, -0.5 * (normal.variance(both) - xx - yy), yy};
  out.across_px = shape == ThingShape::window ? std::sqrt(pi) * std::exp(u[ThingOf::log_radius])
                                              : 2.0 * std::exp(u[ThingOf::log_radius]);
  out.softness_px = std::exp(u[ThingOf::log_softness]);
  const bool finite =
      std::isfinite(misfit) && std::isfinite(out.cov[0]) && std::isfinite(out.cov[2]);
  const bool inside =
      std::hypot(u[ThingOf::way_x], u[ThingOf::way_y]) < std::hypot(px.width, px.height) &&
      std::abs(u[ThingOf::place_x]) < 0.5 * px.width &&
      std::abs(u[ThingOf::place_y]) < 0.5 * px.height;
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
