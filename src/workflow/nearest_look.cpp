#include "jolly_iris/workflow/nearest_look.hpp"

#include <algorithm>
#include <array>
#include <cmath>

#include "jolly_iris/glass/glass_camera.hpp"
#include "jolly_iris/glass/nearest_lens.hpp"
#include "jolly_iris/optics/camera.hpp"
#include "jolly_iris/picture/bokeh.hpp"

namespace jolly_iris {

namespace {

// Shares of the way to the corner, and of the blur that infinity has (of one dioptre, focused
// there); what is in focus has no disc.
constexpr std::array shares{0.0, 0.35, 0.65, 0.95};
constexpr std::array blurs{-1.0, -0.5, 0.5, 1.0};
// Discs are compared so large, px.
constexpr double compared_px = 48.0;
// A picture of so many px across stands for the gate.
constexpr int picture_width = 2000;

// What both have at the same places, each colour's light counted as 1; sources lie in the middles.
double overlap_of(const Picture& a, const Picture& b) {
  const int width = std::max(a.width(), b.width());
  const int height = std::max(a.height(), b.height());
  std::array<double, 3> sum_a{};
  std::array<double, 3> sum_b{};
  for (const Rgba& p : a.pixels()) {
    for (std::size_t c = 0; c < 3; ++c) sum_a[c] += static_cast<double>(p[c]);
  }
  for (const Rgba& p : b.pixels()) {
    for (std::size_t c = 0; c < 3; ++c) sum_b[c] += static_cast<double>(p[c]);
  }
  const auto at = [&](const Picture& p, int x, int y, std::size_t c) {
    const int u = x - (width - p.width()) / 2;
    const int v = y - (height - p.height()) / 2;
    if (u < 0 || v < 0 || u >= p.width() || v >= p.height()) return 0.0;
    return static_cast<double>(p.at(u, v)[c]);
  };
  double both = 0.0;
  for (int y = 0; y < height; ++y) {
    for (int x = 0; x < width; ++x) {
      for (std::size_t c = 0; c < 3; ++c) {
        if (sum_a[c] > 0.0 && sum_b[c] > 0.0) {
          both += std::min(at(a, x, y, c) / sum_a[c], at(b, x, y, c) / sum_b[c]) / 3.0;
        }
      }
    }
  }
  return both;
}

}  // namespace

NearestLook nearest_to(const GlassLook& look) {
  NearestLook out;
  const Prescription& p = look.prescription;
  out.f_number = look.request.f_number.value_or(look.widest);
  const Length pupil = -look.up.entrance_pupil;
  out.focus =
      look.request.distance.is_finite() ? look.request.distance - pupil : look.request.distance;
  const double side = std::sqrt(2.0) * look.circle.mm();
  out.gate = look.request.gate.value_or(Extent{Length::from_mm(side), Length::from_mm(side)});
  out.lens = nearest_lens(p, {out.focus, out.f_number, out.gate});
  Body body;
  body.gate = out.gate;
  body.pixels = {
      picture_width,
      std::max(1, static_cast<int>(std::lround(picture_width * out.gate.height.mm() /
                                               (out.gate.width.mm() * out.lens.squeeze))))};
  Take take;
  take.stop = f_number(out.f_number);
  const VirtualCamera camera = resolve(body, out.lens, take, out.focus);
  const Length half = Length::from_mm(0.5 * std::hypot(out.gate.width.mm(), out.gate.height.mm()));
  const GlassCamera glass(p, out.focus, out.f_number, half, camera.squeeze);
  const double inverse_focus = out.focus.is_finite() ? 1.0 / out.focus.m() : 0.0;
  out.worst.overlap = 2.0;
  for (const double blur : blurs) {
    const double inverse_z =
        inverse_focus > 1e-9 ? std::max(0.0, inverse_focus * (1.0 - blur)) : -blur;
    if (inverse_z < 0.0) continue;  // beyond infinity
    const Length z = inverse_z > 0.0 ? Length::from_m(1.0 / inverse_z) : Length::infinity();
    for (const double share : shares) {
      const FramePlace place{share, share};
      const double px = std::abs(bokeh_disc(camera, place, z).coc_px);
      const double scale = compared_px / std::max(px, 1.0);
      const BokehDisc traced = bokeh_disc(camera, place, z, scale, &glass);
      const BokehDisc thin = bokeh_disc(camera, place, z, scale);
      NearestPlace one;
      one.share = share;
      one.z = z;
      one.overlap = overlap_of(traced.picture, thin.picture);
      const double right = 0.5 * share * camera.picture.width.mm() / camera.focal.mm();
      const double up = 0.5 * share * camera.picture.height.mm() / camera.focal.mm();
      // cos⁴ of the angle off the axis.
      const double natural = -2.0 * std::log2(1.0 + right * right + up * up);
      one.light_stops = thin.light_stops + natural - traced.light_stops;
      if (one.overlap < out.worst.overlap) out.worst = one;
      if (std::abs(one.light_stops) > std::abs(out.worst_light)) out.worst_light = one.light_stops;
      out.mean_overlap += one.overlap;
      out.places.push_back(one);
    }
  }
  out.mean_overlap /= static_cast<double>(out.places.size());
  return out;
}

}  // namespace jolly_iris
