#include "jolly_iris/picture/bokeh.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <numbers>

#include "disc.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/optics/sharpness.hpp"

namespace jolly_iris {

namespace {

using std::numbers::pi;
constexpr double max_px = 8192.0;
constexpr float hardly_lit = 0.02F;  // of an even disc's light: less is a soft edge's end

// One colour's disc, and how far beside green it lies.
struct Channel {
  blur::Disc disc{};
  double right_px = 0.0;
  double down_px = 0.0;
  double light = 1.0;
};

class Drawing {
 public:
  Drawing(const VirtualCamera& camera, FramePlace place, Length z, double scale,
          const GlassCamera* glass)
      : pupil_(camera),
        pitch_(camera.pixel_pitch().m() / scale),
        pitch_x_(camera.pixel_pitch_x().m() / scale),
        maker_(pupil_, pitch_x_, pitch_, glass),
        colouring_(camera.colouring),
        plain_pitch_(camera.pixel_pitch().m()) {
    at_.right = (0.5 * place.right * camera.picture.width + camera.shift_right).m();
    at_.up = (0.5 * place.up * camera.picture.height + camera.shift_up).m();
    const LensSampler& lens = pupil_.lens();
    const double plain = circle_of_confusion(camera, z).m();
    for (std::size_t c = 0; c < 3; ++c) {
      at_.colour = c;
      const double power = lens.power_at(at_.right, at_.up, c) - lens.inverse_focus;
      coc_[c] = plain + 2.0 * lens.radius * lens.focal * power;
      require_drawable((std::abs(coc_[c]) + 2.0 * beyond_disc(lens, c)) / pitch_);
    }
  }

  double coc(std::size_t colour) const { return coc_[colour]; }
  double light() const { return maker_.light(place_of(1)); }
  double pitch() const { return pitch_; }

  Picture draw() const {
    std::array<Channel, 3> channels;
    const LensSampler& lens = pupil_.lens();
    double reach = 1.0;
    for (std::size_t c = 0; c < 3; ++c) {
      Channel& ch = channels[c];
      ch.disc = maker_.make(place_of(c));
      ch.light = maker_.light(place_of(c));
      const double aside = lens.magnification[c] / lens.magnification[1] - 1.0;
      ch.right_px = aside * at_.right / pitch_x_;
      ch.down_px = -aside * at_.up / pitch_;
      reach = std::max({reach, ch.disc.reach() + std::abs(ch.right_px) + 1.0,
                        ch.disc.reach() + std::abs(ch.down_px) + 1.0});
    }
    const int half = static_cast<int>(std::ceil(reach));
    Picture picture({2 * half + 1, 2 * half + 1}, {0, 0, 0, 1});
    for (std::size_t c = 0; c < 3; ++c) lay(channels[c], c, half, picture);
    if (colouring_.any()) colour(picture);
    return picture;
  }

 private:
  // How far the lens's faults bring light beyond an even disc's edge, at most, m: the outermost ray
  // lands a/3 beside its place, a corner's (by at most 1.3 radii) 1.4 a; coma a third of itself and
  // more on each side; colours beside each other.
  double beyond_disc(const LensSampler& lens, std::size_t colour) const {
    const double height = std::hypot(at_.right, at_.up);
    return 1.4 * std::abs(lens.spherical) + 1.7 * std::abs(lens.coma) * height +
           std::abs(lens.magnification[colour] / lens.magnification[1] - 1.0) * height;
  }

  // What the shot wishes discs to be coloured like here, as defocus and trace do it.
  void colour(Picture& picture) const {
    const auto wish = disc_colour(colouring_, Length::from_m(at_.right), Length::from_m(at_.up));
    const double fraction = colour_fraction(coc_[1] / plain_pitch_);
    for (Rgba& p : picture.pixels()) {
      for (std::size_t c = 0; c < 3; ++c) {
        p[c] *= static_cast<float>(1.0 + fraction * (wish[c] - 1.0));
      }
    }
  }

  static void require_drawable(double px) {
    if (std::abs(px) <= max_px) return;
    throw UsageError(fmt::format("a disc of {:.0f} px is too large to draw; at most {:.0f} px",
                                 std::abs(px), max_px));
  }
  blur::DiscPlace place_of(std::size_t colour) const {
    return {at_.right, at_.up, coc_[colour], colour};
  }

  void lay(const Channel& ch, std::size_t c, int half, Picture& picture) const {
    // Near the focus a lens's faults make the disc: an even one is as large as they.
    const LensSampler& lens = pupil_.lens();
    const double faults =
        2.0 / 3.0 * std::abs(lens.spherical) + std::abs(lens.coma) * std::hypot(at_.right, at_.up);
    double d = std::max(std::abs(coc_[c]), faults) / pitch_;
    if (maker_.traced()) d = std::max(d, even_diameter(ch.disc));
    const double even = std::max(1.0, pi / 4.0 * d * d * pupil_.lens().aspect * pitch_ / pitch_x_);
    const int x0 = static_cast<int>(std::floor(ch.right_px));
    const int y0 = static_cast<int>(std::floor(ch.down_px));
    const double fx = ch.right_px - x0;
    const double fy = ch.down_px - y0;
    std::vector<float> weights;
    const auto add = [&](int x, int y, double v) {
      for (int k = 0; k < 4; ++k) {
        const int i = k & 1;
        const int j = k >> 1;
        const double fraction = (i == 1 ? fx : 1.0 - fx) * (j == 1 ? fy : 1.0 - fy);
        if (fraction <= 0.0) continue;
        picture.at(half + x + x0 + i, half + y + y0 + j)[c] +=
            static_cast<float>(v * fraction * even * ch.light);
      }
    };
    for (std::size_t row = 0; row < ch.disc.rows.size(); ++row) {
      const int y = ch.disc.top + static_cast<int>(row);
      if (ch.disc.tint.empty()) {
        const int x = blur::weights_of_row(ch.disc, row, weights);
        for (std::size_t i = 0; i < weights.size(); ++i) {
          add(x + static_cast<int>(i), y, static_cast<double>(weights[i]));
        }
        continue;
      }
      const blur::Disc::Row& r = ch.disc.rows[row];
      for (int k = r.first; k < r.first + r.count; ++k) {
        const auto tap = static_cast<std::size_t>(k);
        add(ch.disc.taps[tap].x, y,
            static_cast<double>(ch.disc.taps[tap].step * ch.disc.tint[tap][c]));
      }
    }
  }

  // Of an even disc whose light lies as far from its middle as this one's does, px down.
  double even_diameter(const blur::Disc& disc) const {
    double square = 0.0;
    for (std::size_t row = 0; row < disc.rows.size(); ++row) {
      const double y = disc.top + static_cast<int>(row);
      const blur::Disc::Row& r = disc.rows[row];
      for (int k = r.first; k < r.first + r.count; ++k) {
        const blur::Disc::Tap& tap = disc.taps[static_cast<std::size_t>(k)];
        const double x = tap.x * pitch_x_ / pitch_;
        square += static_cast<double>(tap.step) * (x * x + y * y);
      }
    }
    return 2.0 * std::sqrt(2.0 * square);
  }

  Pupil pupil_;
  double pitch_;    // m that are one px of the drawing, down
  double pitch_x_;  // and across: another where the squeeze is not the nominal one
  blur::DiscMaker maker_;
  DiscColouring colouring_;
  double plain_pitch_;
  blur::DiscPlace at_{};
  std::array<double, 3> coc_{};
};

double mean_of(const Rgba& p) { return static_cast<double>(p[0] + p[1] + p[2]) / 3.0; }

// Mean light of what lies between two shares of the way from the middle to the edge, in stops
// against what lies within 0.4 of it.
double rim_of(const Picture& p, double radius_x, double radius_y) {
  double edge = 0.0;
  double middle = 0.0;
  int at_edge = 0;
  int in_middle = 0;
  for (int y = 0; y < p.height(); ++y) {
    for (int x = 0; x < p.width(); ++x) {
      const double r = std::hypot((x + 0.5 - 0.5 * p.width()) / radius_x,
                                  (y + 0.5 - 0.5 * p.height()) / radius_y);
      const double v = mean_of(p.at(x, y));
      if (v <= static_cast<double>(hardly_lit)) continue;
      if (r > 0.82 && r < 0.92) {
        edge += v;
        ++at_edge;
      } else if (r < 0.4) {
        middle += v;
        ++in_middle;
      }
    }
  }
  if (at_edge == 0 || in_middle == 0) return 0.0;
  return std::log2(edge / at_edge * in_middle / middle);
}

}  // namespace

BokehDisc bokeh_disc(const VirtualCamera& camera, FramePlace place, Length z, double scale,
                     const GlassCamera* glass) {
  if (!(scale > 0.0)) throw UsageError(fmt::format("a scale of {:g}; it is above zero", scale));
  const Drawing drawing(camera, place, z, scale, glass);
  BokehDisc disc;
  disc.coc_px = drawing.coc(1) / drawing.pitch() / scale;
  disc.light_stops = std::log2(std::max(drawing.light(), 1e-6));
  disc.picture = drawing.draw();
  const Picture& p = disc.picture;
  int left = p.width();
  int right = -1;
  int top = p.height();
  int bottom = -1;
  int count = 0;
  for (int y = 0; y < p.height(); ++y) {
    for (int x = 0; x < p.width(); ++x) {
      if (mean_of(p.at(x, y)) <= static_cast<double>(hardly_lit)) continue;
      left = std::min(left, x);
      right = std::max(right, x);
      top = std::min(top, y);
      bottom = std::max(bottom, y);
      ++count;
    }
  }
  disc.width_px = std::max(0, right - left + 1) / scale;
  disc.height_px = std::max(0, bottom - top + 1) / scale;
  disc.area_px = count / (scale * scale);
  const double radius = 0.5 * std::abs(disc.coc_px) * scale;
  const double shape = camera.pixel_pitch() / camera.pixel_pitch_x();
  if (radius > 4.0)
    disc.edge_falloff_stops = rim_of(p, radius * camera.pupil_aspect() * shape, radius);
  return disc;
}

Picture kernel_picture(const VirtualCamera& camera, FramePlace place, Length z, int size,
                       const GlassCamera* glass) {
  if (size < 8 || size > 8192) {
    throw UsageError(fmt::format("a picture of the iris {} px wide; it takes 8 to 8192", size));
  }
  const BokehDisc once = bokeh_disc(camera, place, z, 1.0, glass);
  // A lens with faults has a disc even in the focus.
  if (std::abs(once.coc_px) < 0.05 && !camera.aberrations.bends() && glass == nullptr) {
    throw UsageError(
        fmt::format("something at {:.4g} m is in focus: it has no disc to draw; ask "
                    "for another distance",
                    z.m()));
  }
  // Twice drawn: the first tells how large it comes out. Near the focus the faults are larger than
  // the disc.
  const double wanted = size - 2.0;
  const double about = std::max({std::abs(once.coc_px), once.width_px, once.height_px});
  double scale = wanted / (1.3 * about);
  for (int i = 0; i < 3; ++i) {
    const BokehDisc d = bokeh_disc(camera, place, z, scale, glass);
    const double far = 2.0 * std::max(0.5 * std::max(d.width_px, d.height_px) * scale, 1.0);
    if (far < 0.02 * wanted) {
      throw UsageError(fmt::format(
          "something at {:.4g} m is so near the focus that its disc has no edge to draw it by; ask "
          "for another distance",
          z.m()));
    }
    scale *= (wanted - 1.0) / far;
  }
  const Picture disc = bokeh_disc(camera, place, z, scale, glass).picture;
  // Its lit box in the middle.
  int left = disc.width();
  int right = 0;
  int top = disc.height();
  int bottom = 0;
  for (int y = 0; y < disc.height(); ++y) {
    for (int x = 0; x < disc.width(); ++x) {
      if (mean_of(disc.at(x, y)) <= 1e-4) continue;
      left = std::min(left, x);
      right = std::max(right, x);
      top = std::min(top, y);
      bottom = std::max(bottom, y);
    }
  }
  Picture out({size, size}, {0, 0, 0, 1});
  const int dx = (left + right + 1) / 2 - size / 2;
  const int dy = (top + bottom + 1) / 2 - size / 2;
  double sum = 0.0;
  for (int y = 0; y < size; ++y) {
    for (int x = 0; x < size; ++x) {
      if (x + dx < 0 || y + dy < 0 || x + dx >= disc.width() || y + dy >= disc.height()) continue;
      const Rgba& from = disc.at(x + dx, y + dy);
      out.at(x, y) = {from[0], from[1], from[2], 1.0F};
      sum += mean_of(from);
    }
  }
  for (Rgba& p : out.pixels()) {
    for (std::size_t c = 0; c < 3; ++c) p[c] = static_cast<float>(static_cast<double>(p[c]) / sum);
  }
  return out;
}

OpeningFigures opening_figures(const VirtualCamera& camera) {
  const Pupil pupil(camera);
  OpeningFigures f;
  const double r = camera.aperture_radius.mm();
  f.area_mm2 = pupil.opening().open_area() * r * r * camera.pupil_aspect();
  Point2 low;
  Point2 high;
  double near = 1e9;
  double far = 0.0;
  const Contour outline = pupil.opening().outline(1e-4);
  for (std::size_t i = 0; i < outline.size(); ++i) {
    const Point2 a = outline[i];
    const Point2 b = outline[(i + 1) % outline.size()];
    low = {std::min(low.x, a.x), std::min(low.y, a.y)};
    high = {std::max(high.x, a.x), std::max(high.y, a.y)};
    far = std::max(far, std::hypot(a.x, a.y));
    near = std::min(near, std::hypot(0.5 * (a.x + b.x), 0.5 * (a.y + b.y)));
  }
  f.height_over_width = (high.y - low.y) / ((high.x - low.x) * camera.pupil_aspect());
  f.flattened = 1.0 - near / far;
  const OpeningLightGrid& light = pupil.lens().light;
  if (light.side > 0) {
    double edge = 0.0;
    double middle = 0.0;
    constexpr int n = 256;
    for (int i = 0; i < n; ++i) {
      const double a = 2.0 * pi * i / n;
      for (const auto& [at, to] : {std::pair{0.87 * near, &edge}, std::pair{0.2 * near, &middle}}) {
        const auto l = light.at({at * std::cos(a), at * std::sin(a)});
        *to += static_cast<double>(l[0] + l[1] + l[2]);
      }
    }
    f.edge_falloff_stops = std::log2(std::max(edge, 1e-9) / std::max(middle, 1e-9));
  }
  return f;
}

}  // namespace jolly_iris
