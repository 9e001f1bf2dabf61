#include "thing_model.hpp"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace jolly_iris::measuring {

namespace {

using std::numbers::pi;

constexpr int most_discs = 240;      // along a way
constexpr double small_step = 1e-3;  // of a logarithm, or px
// Deviations from which a Gaussian has nothing left that a double would hold beside its middle.
constexpr double nothing_left = 8.5;

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
  double reach() const { return reach_; }
  // Adds its light at a distance within reach, times a share; tells how that changes with it.
  double add(double distance, double share, double& sum) const {
    const double x = distance * per_px_;
    const auto i = std::min(static_cast<std::size_t>(x), static_cast<std::size_t>(places - 2));
    const double step = values_[i + 1] - values_[i];
    sum += share * (values_[i] + (x - static_cast<double>(i)) * step);
    return share * step * per_px_;
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
      if (std::abs(off) > nothing_left) continue;
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

// So many that their distance is no more than what smooths them.
int discs_for(const ThingUnknowns& u) {
  const double length = std::hypot(u[ThingOf::way_x], u[ThingOf::way_y]);
  const double smooth =
      std::exp(u[ThingOf::log_softness]) + 0.15 * std::exp(u[ThingOf::log_radius]);
  return std::clamp(static_cast<int>(std::ceil(length / (0.35 * smooth))) + 1, 2, most_discs);
}

}  // namespace

ThingModel::ThingModel(const ThingPixels& pixels, ThingShape shape)
    : shape_(shape), width_(pixels.width), height_(pixels.height), clip_(pixels.clip) {
  std::size_t i = 0;
  for (int y = 0; y < pixels.height; ++y) {
    for (int x = 0; x < pixels.width; ++x, ++i) {
      if (!(pixels.weight[i] > 0.0F)) continue;
      seen_.push_back({x + 0.5 - 0.5 * width_, y + 0.5 - 0.5 * height_,
                       static_cast<double>(pixels.light[i]),
                       static_cast<double>(pixels.weight[i])});
    }
  }
}

std::vector<double> ThingModel::window_of(const ThingUnknowns& u) const {
  const double s = std::exp(u[ThingOf::log_softness]);
  // As a disc of its area.
  const double across = std::sqrt(pi) * std::exp(u[ThingOf::log_radius]);
  const double length = std::hypot(u[ThingOf::way_x], u[ThingOf::way_y]);
  const double cos = length > 1e-9 ? u[ThingOf::way_x] / length : 1.0;
  const double sin = length > 1e-9 ? u[ThingOf::way_y] / length : 0.0;
  const double area = across * (across + length);
  std::vector<double> out;
  out.reserve(seen_.size());
  for (const Seen& p : seen_) {
    const double a = p.right - u[ThingOf::place_x];
    const double b = p.down - u[ThingOf::place_y];
    out.push_back(soft_box(a * cos + b * sin, 0.5 * (across + length), s) *
                  soft_box(-a * sin + b * cos, 0.5 * across, s) / area);
  }
  return out;
}

std::vector<double> ThingModel::shape_of(const ThingUnknowns& u, int discs,
                                         std::vector<Moved>* moved) const {
  if (shape_ == ThingShape::window) return window_of(u);
  struct Place {
    double x, y, along, share;
  };
  std::vector<Place> places;
  double shares = 0.0;
  for (int k = 0; k < discs; ++k) {
    const double t = (k + 0.5) / discs - 0.5;
    const double share = shape_ == ThingShape::oval ? std::sqrt(1.0 - 4.0 * t * t) : 1.0;
    shares += share;
    places.push_back({u[ThingOf::place_x] + t * u[ThingOf::way_x],
                      u[ThingOf::place_y] + t * u[ThingOf::way_y], t, share});
  }
  for (Place& p : places) p.share /= shares;
  const SoftDisc disc(std::exp(u[ThingOf::log_radius]), std::exp(u[ThingOf::log_softness]));
  const double reach2 = disc.reach() * disc.reach();
  std::vector<double> out(seen_.size());
  if (moved) moved->assign(seen_.size(), {});
  for (std::size_t i = 0; i < seen_.size(); ++i) {
    for (const Place& p : places) {
      const double dx = seen_[i].right - p.x;
      const double dy = seen_[i].down - p.y;
      const double d2 = dx * dx + dy * dy;
      if (d2 >= reach2) continue;
      const double distance = std::sqrt(d2);
      const double slope = disc.add(distance, p.share, out[i]);
      if (!moved || !(distance > 0.0)) continue;
      const double by_x = -slope * dx / distance;
      const double by_y = -slope * dy / distance;
      Moved& m = (*moved)[i];
      m[0] += by_x;
      m[1] += by_y;
      m[2] += p.along * by_x;
      m[3] += p.along * by_y;
    }
  }
  return out;
}

ThingPicture ThingModel::picture(const ThingUnknowns& u) const {
  ThingPicture out;
  out.discs = discs_for(u);
  out.shape = shape_of(u, out.discs, nullptr);
  const double all = std::exp(u[ThingOf::log_flux]);
  out.light.reserve(seen_.size());
  for (std::size_t i = 0; i < seen_.size(); ++i) {
    out.light.push_back(u[ThingOf::base] + u[ThingOf::base_x] * seen_[i].right / width_ +
                        u[ThingOf::base_y] * seen_[i].down / height_ + all * out.shape[i]);
  }
  return out;
}

// What is cut off in both is no difference.
double ThingModel::difference(const Seen& seen, double model) const {
  if (clip_ > 0.0 && seen.light >= clip_) return model >= clip_ ? 0.0 : seen.light - model;
  return seen.light - (clip_ > 0.0 ? std::min(model, 1.02 * clip_) : model);
}

double ThingModel::misfit(const ThingPicture& picture) const {
  double sum = 0.0;
  for (std::size_t i = 0; i < seen_.size(); ++i) {
    const double d = difference(seen_[i], picture.light[i]);
    sum += seen_[i].weight * d * d;
  }
  return sum;
}

NormalEquations<thing_unknowns> ThingModel::equations(const ThingUnknowns& u,
                                                      const ThingPicture& now) const {
  const double all = std::exp(u[ThingOf::log_flux]);
  std::vector<Moved> moved;
  if (shape_ != ThingShape::window) shape_of(u, now.discs, &moved);
  // The others by a small step.
  std::array<std::vector<double>, thing_unknowns> slopes;
  for (std::size_t k = ThingOf::log_radius; k <= ThingOf::way_y; ++k) {
    if (k >= ThingOf::place_x && !moved.empty()) break;
    ThingUnknowns more = u;
    more[k] += small_step;
    slopes[k] = shape_of(more, now.discs, nullptr);
    for (std::size_t i = 0; i < seen_.size(); ++i) {
      slopes[k][i] = (slopes[k][i] - now.shape[i]) / small_step;
    }
  }
  NormalEquations<thing_unknowns> out;
  for (std::size_t i = 0; i < seen_.size(); ++i) {
    const Seen& p = seen_[i];
    // What is cut off tells no slope.
    if (clip_ > 0.0 && now.light[i] >= clip_ && p.light >= clip_) continue;
    ThingUnknowns row{};
    row[ThingOf::base] = 1.0;
    row[ThingOf::base_x] = p.right / width_;
    row[ThingOf::base_y] = p.down / height_;
    row[ThingOf::log_flux] = all * now.shape[i];
    for (std::size_t k = ThingOf::log_radius; k <= ThingOf::way_y; ++k) {
      const bool known = k >= ThingOf::place_x && !moved.empty();
      row[k] = all * (known ? moved[i][k - ThingOf::place_x] : slopes[k][i]);
    }
    out.add(row, difference(p, now.light[i]), p.weight);
  }
  return out;
}

}  // namespace jolly_iris::measuring
