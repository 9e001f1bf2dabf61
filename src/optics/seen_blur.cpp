#include "jolly_iris/optics/seen_blur.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <numbers>
#include <vector>

#include "jolly_iris/optics/errors.hpp"

namespace jolly_iris {

namespace {

constexpr double share_of_light = 0.8;
constexpr int rings = 24;   // of equal area
constexpr int angles = 12;  // of half the opening: faults are alike on both sides of their plane
// Of the least blur the range of sharpness is looked for by, in limits to either side: the faults
// move what is sharpest by less than their own blur, and what is farther off is not sharp.
constexpr int steps_a_limit = 24;
constexpr double limits = 4.0;

}  // namespace

LensSampler faults_of(const VirtualCamera& camera) {
  LensSampler lens;
  lens.radius = camera.aperture_radius.m();
  lens.aspect = camera.pupil_aspect();
  lens.focal = camera.focal.m();
  lens.inverse_focus = 1.0 / camera.focus.m();
  const Aberrations& f = camera.aberrations;
  const double open = camera.open_against_widest;
  lens.spherical = f.spherical.m() * open * open * open;
  if (f.height.m() > 0.0) {
    lens.coma = f.coma.m() * open * open / f.height.m();
    lens.curvature = f.curvature.dioptres() / (f.height.m() * f.height.m());
  }
  for (std::size_t c = 0; c < 3; ++c) {
    lens.focus_shift[c] = f.focus_shift[c].dioptres();
    lens.magnification[c] = f.magnification[c];
  }
  return lens;
}

SeenBlur::SeenBlur(const VirtualCamera& camera)
    : camera_(camera),
      lens_(faults_of(camera)),
      faulty_(camera.aberrations.bends() || camera.aberrations.coloured() ||
              camera.aberrations.focus_shift[1].dioptres() != 0.0 || lens_.curvature != 0.0) {
  lens_.aspect = 1.0;  // as the circle of confusion: the vertical one
}

double SeenBlur::seen(double coc, const GatePlace& at) const {
  const double right = at.right.m();
  const double up = at.up.m();
  const double height = std::hypot(right, up);
  const std::size_t colours = lens_.coloured() ? 3 : 1;
  // Nothing turns around the axis where only spherical aberration and colour are left.
  const bool even_around = lens_.coma == 0.0 || height == 0.0;
  const int around = even_around ? 1 : angles;
  struct Ray {
    double x, y;
  };
  std::vector<Ray> rays;
  rays.reserve(static_cast<std::size_t>(rings * around) * colours);
  double middle = 0.0;  // along the direction off the axis
  const bool aside = lens_.magnification != std::array<double, 3>{1.0, 1.0, 1.0} && height > 0.0;
  const int turn = even_around && aside ? angles : around;
  for (std::size_t k = 0; k < colours; ++k) {
    const std::size_t c = colours == 1 ? 1 : k;
    const double d = 0.5 * coc + lens_.radius * lens_.focal *
                                     (lens_.power_at(right, up, c) - lens_.inverse_focus);
    const double off = (lens_.magnification[c] / lens_.magnification[1] - 1.0) * height;
    for (int i = 0; i < rings; ++i) {
      const double r = std::sqrt((i + 0.5) / rings);
      for (int j = 0; j < turn; ++j) {
        // In a frame whose first axis points off the picture's axis.
        const double a = std::numbers::pi * (j + 0.5) / turn;
        const Point2 p{r * std::cos(a), r * std::sin(a)};
        const Point2 aside_by = lens_.deviation(p, height, 0.0);
        const double x = p.x * d + aside_by.x + off;
        const double y = p.y * d + aside_by.y;
        rays.push_back({x, y});
        middle += x;
      }
    }
  }
  const bool centred = even_around && !aside;
  middle = centred ? 0.0 : middle / static_cast<double>(rays.size());
  std::vector<double> squares;
  squares.reserve(rays.size());
  for (const Ray& ray : rays) {
    squares.push_back((ray.x - middle) * (ray.x - middle) + ray.y * ray.y);
  }
  // Each ray stands for its ring: the square of its distance at the share of light, between two.
  const double at_share = share_of_light * static_cast<double>(squares.size()) - 0.5;
  const auto low = squares.begin() + static_cast<std::ptrdiff_t>(at_share);
  std::nth_element(squares.begin(), low, squares.end());
  const double below = *low;
  const double above = low + 1 == squares.end() ? below : *std::min_element(low + 1, squares.end());
  const double square = below + (above - below) * (at_share - std::floor(at_share));
  return 2.0 * std::sqrt(square / share_of_light);
}

Length SeenBlur::of(Length z, const GatePlace& at) const {
  const Length plain = circle_of_confusion(camera_, z);
  if (!faulty_) return plain;
  return Length::from_m(std::copysign(seen(plain.m(), at), plain.m()));
}

Length SeenBlur::least() const {
  if (!faulty_) return {};
  double least = seen(0.0, {});
  // Colours and spherical aberration leave the least blur near the focus, but not in it.
  const double reach = least;
  for (int i = -steps_a_limit; i <= steps_a_limit; ++i) {
    least = std::min(least, seen(reach * i / steps_a_limit, {}));
  }
  return Length::from_m(least);
}

std::optional<SharpRange> SeenBlur::sharp_range(Length limit) const {
  const SharpRange plain = jolly_iris::sharp_range(camera_, limit);
  if (!faulty_ || camera_.blur_override.from || camera_.blur_override.at_most) return plain;
  const double step = limit.m() / steps_a_limit;
  const int reach = static_cast<int>(limits * steps_a_limit);
  int best = 0;
  double least = seen(0.0, {});
  for (int i = -reach; i <= reach; ++i) {
    const double here = seen(step * i, {});
    if (here < least) {
      least = here;
      best = i;
    }
  }
  if (least > limit.m()) return std::nullopt;
  const auto edge = [&](int direction) {
    int i = best;
    while (std::abs(i - best) < reach && seen(step * (i + direction), {}) <= limit.m()) {
      i += direction;
    }
    double in = step * i;
    double out = step * (i + direction);
    for (int k = 0; k < 30; ++k) {
      const double middle = 0.5 * (in + out);
      (seen(middle, {}) <= limit.m() ? in : out) = middle;
    }
    return in;
  };
  // c = D v (1/s − 1/z)
  const double strength = 2.0 * lens_.radius * lens_.focal;
  const auto at = [&](double coc) {
    const double inverse = lens_.inverse_focus - coc / strength;
    return inverse > 0.0 ? Length::from_m(1.0 / inverse) : Length::infinity();
  };
  return SharpRange{at(edge(-1)), at(edge(1))};
}

}  // namespace jolly_iris
