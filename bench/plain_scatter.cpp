#include "plain_scatter.hpp"

#include <tbb/parallel_for.h>

#include <algorithm>
#include <cmath>

namespace jolly_iris::blur {

namespace {

using V4 = float __attribute__((vector_size(16), aligned(4), may_alias));
using V8 = float __attribute__((vector_size(32), aligned(4), may_alias));

std::size_t to_size(int v) { return static_cast<std::size_t>(v); }

// A disc with every weight told: rows of weights, and where each row is full.
struct Mask {
  struct Row {
    int x = 0;
    int full_from = 0;  // index into the weights
    int full_to = 0;
    std::vector<float> weights{};
  };
  int top = 0;
  float full = 0.0F;
  std::vector<Row> rows{};
};

Mask mask_of(const Disc& disc) {
  Mask mask{disc.top, 0.0F, {}};
  for (std::size_t i = 0; i < disc.rows.size(); ++i) {
    Mask::Row row;
    row.x = weights_of_row(disc, i, row.weights);
    for (const float w : row.weights) mask.full = std::max(mask.full, w);
    mask.rows.push_back(std::move(row));
  }
  for (Mask::Row& row : mask.rows) {
    const auto whole = [&](float w) { return w > 0.99999F * mask.full; };
    const auto first = std::find_if(row.weights.begin(), row.weights.end(), whole);
    const auto last = std::find_if_not(first, row.weights.end(), whole);
    row.full_from = static_cast<int>(first - row.weights.begin());
    row.full_to = static_cast<int>(last - row.weights.begin());
  }
  return mask;
}

// ---- spans --------------------------------------------------------------------------------------

[[gnu::always_inline]] inline void edge_pixels(float* to, const Mask::Row& row, int from, int end,
                                               const V4& source) {
  for (int i = from; i < end; ++i) {
    *reinterpret_cast<V4*>(to + std::ptrdiff_t{4} * i) += row.weights[to_size(i)] * source;
  }
}

[[gnu::always_inline]] inline void fill_row(float* to, const Mask::Row& row, float full,
                                            const V4& source) {
  edge_pixels(to, row, 0, row.full_from, source);
  const V4 value = full * source;
  for (int i = row.full_from; i < row.full_to; ++i) {
    *reinterpret_cast<V4*>(to + std::ptrdiff_t{4} * i) += value;
  }
  edge_pixels(to, row, row.full_to, static_cast<int>(row.weights.size()), source);
}

void fill_plain(float* to, const Mask::Row& row, float full, const V4& source) {
  fill_row(to, row, full, source);
}

[[gnu::target("avx2,fma")]] void fill_avx2(float* to, const Mask::Row& row, float full,
                                           const V4& source) {
  edge_pixels(to, row, 0, row.full_from, source);
  const V4 value = full * source;
  const V8 two{value[0], value[1], value[2], value[3], value[0], value[1], value[2], value[3]};
  int i = row.full_from;
  for (; i + 2 <= row.full_to; i += 2) {
    *reinterpret_cast<V8*>(to + std::ptrdiff_t{4} * i) += two;
  }
  for (; i < row.full_to; ++i) *reinterpret_cast<V4*>(to + std::ptrdiff_t{4} * i) += value;
  edge_pixels(to, row, row.full_to, static_cast<int>(row.weights.size()), source);
}

// ---- the shape test -----------------------------------------------------------------------------

struct Circle {
  double x = 0.0, y = 0.0, radius = 0.0;
};

// The pupil as circles that a point must be within: one a blade, one a rim.
class Shape {
 public:
  Shape(const Pupil& pupil, int blades) : pupil_(pupil) {
    const Contour outline = pupil.opening().outline(1e-4);
    const std::size_t n = outline.size() / to_size(blades);
    for (std::size_t i = 0; i < to_size(blades); ++i) {
      blades_.push_back(
          through(outline[i * n], outline[i * n + n / 2], outline[(i * n + n) % outline.size()]));
    }
    inner_ = 1.0;
    for (const Circle& c : blades_) inner_ = std::min(inner_, c.radius - std::hypot(c.x, c.y));
  }

  // For one source: what a point in radii is tested against.
  void set(const DiscPlace& place, double disc_px) {
    const LensSampler& lens = pupil_.lens();
    band_ = 0.75 / disc_px * 2.0;
    rims_.clear();
    const double inverse_z = std::max(0.0, lens.power_at(place.right, place.up, 1) -
                                               place.coc / (2.0 * lens.radius * lens.focal));
    for (const LensSampler::Rim& rim : lens.rims) {
      const double k = 1.0 / ((1.0 - rim.ahead * inverse_z) * lens.radius);
      rims_.push_back({-place.right / lens.focal * rim.ahead * k,
                       -place.up / lens.focal * rim.ahead * k, rim.radius * k});
    }
  }
  // −1 outside, 1 inside, 0 within a pixel of an edge.
  int test(double x, double y) const {
    int result = 1;
    const double r2 = x * x + y * y;
    const double far = pupil_.opening().corner_radius() + band_;
    if (r2 > far * far) return -1;
    const double safe = inner_ - band_;
    if (safe < 0.0 || r2 > safe * safe) result = std::min(result, within(blades_, x, y));
    return result < 0 ? result : std::min(result, within(rims_, x, y));
  }

 private:
  int within(const std::vector<Circle>& circles, double x, double y) const {
    int result = 1;
    for (const Circle& c : circles) {
      const double d2 = (x - c.x) * (x - c.x) + (y - c.y) * (y - c.y);
      if (d2 > (c.radius + band_) * (c.radius + band_)) return -1;
      if (d2 > (c.radius - band_) * (c.radius - band_)) result = 0;
    }
    return result;
  }
  static Circle through(Point2 a, Point2 b, Point2 c) {
    const double bx = b.x - a.x, by = b.y - a.y, cx = c.x - a.x, cy = c.y - a.y;
    const double d = 2.0 * (bx * cy - by * cx);
    const double x = (cy * (bx * bx + by * by) - by * (cx * cx + cy * cy)) / d;
    const double y = (bx * (cx * cx + cy * cy) - cx * (bx * bx + by * by)) / d;
    return {a.x + x, a.y + y, std::hypot(x, y)};
  }

  const Pupil& pupil_;
  std::vector<Circle> blades_{};
  std::vector<Circle> rims_{};
  double inner_ = 1.0;
  double band_ = 0.0;
};

// ---- the common part ----------------------------------------------------------------------------

class Scatter {
 public:
  Scatter(const Preparation& ready, const Pass& pass, Plain way, int blades)
      : ready_(ready), pass_(pass), way_(way), blades_(blades) {
    masks_.resize(pass.table.discs().size());
    tbb::parallel_for(std::size_t{0}, masks_.size(),
                      [&](std::size_t i) { masks_[i] = mask_of(pass.table.discs()[i]); });
  }

  void operator()(StripLayers& layers, int top, int bottom) const {
    const PixelSize size = pass_.spread.size;
    const int reach = pass_.table.reach();
    Shape shape(ready_.maker().pupil(), blades_);
    for (int y = top - reach; y < bottom + reach; ++y) {
      const int sy = std::clamp(y, 0, size.height - 1);
      for (int x = -reach; x < size.width + reach; ++x) {
        source(layers, top, bottom, x, y, std::clamp(x, 0, size.width - 1), sy, shape);
      }
    }
    for (const Lamp& lamp : pass_.spread.lamps) lamp_rows(layers, top, bottom, lamp);
  }

 private:
  void source(StripLayers& layers, int top, int bottom, int x, int y, int sx, int sy,
              Shape& shape) const {
    const std::size_t at = to_size(sy) * to_size(pass_.spread.size.width) + to_size(sx);
    const int step = pass_.spread.step[at];
    const Mask& mask = masks_[to_size(pass_.table.index(sx, sy, step))];
    const int first = std::max(0, top - (y + mask.top));
    const int last = std::min(static_cast<int>(mask.rows.size()), bottom - (y + mask.top));
    if (first >= last) return;
    StripLayer& layer = layers.at(pass_.spread.layer_at(at));
    const V4 colour = *reinterpret_cast<const V4*>(pass_.spread.surface_at(sy, sx));
    const double px = coc_of_step(step);
    if (way_ == Plain::shape_test) {
      const int cell = DiscTable::cell_px;
      const GateMap& map = ready_.map();
      shape.set(map.place(std::min((sx / cell + 0.5) * cell, 1.0 * pass_.spread.size.width),
                          std::min((sy / cell + 0.5) * cell, 1.0 * pass_.spread.size.height),
                          px * map.pixel_height),
                std::max(std::abs(px), 0.5));
    }
    for (int row = first; row < last; ++row) {
      float* to = layers.direct(layer, y + mask.top + row - top) +
                  std::ptrdiff_t{4} * (x + layers.margin());
      const Mask::Row& r = mask.rows[to_size(row)];
      if (way_ == Plain::shape_test) {
        tested_row(to, mask, row, r, px, colour, shape);
      } else if (way_ == Plain::spans_avx2) {
        fill_avx2(to + std::ptrdiff_t{4} * r.x, r, mask.full, colour);
      } else {
        fill_plain(to + std::ptrdiff_t{4} * r.x, r, mask.full, colour);
      }
    }
  }

  // Every pixel of the box that the uncut opening has.
  void tested_row(float* to, const Mask& mask, int row, const Mask::Row& r, double px,
                  const V4& colour, const Shape& shape) const {
    const double corner = ready_.maker().pupil().opening().corner_radius();
    const int reach = static_cast<int>(std::ceil(0.5 * std::abs(px) * corner + 0.5));
    const double half = std::abs(px) < 0.5 ? 0.25 : 0.5 * px;
    const double v = -(mask.top + row) / half;
    for (int dx = -reach; dx <= reach; ++dx) {
      const int inside = std::abs(px) < 4.0 ? 0 : shape.test(dx / half, v);
      if (inside < 0) continue;
      float weight = mask.full;
      if (inside == 0) {
        const int i = dx - r.x;
        if (i < 0 || i >= static_cast<int>(r.weights.size())) continue;
        weight = r.weights[to_size(i)];
      }
      *reinterpret_cast<V4*>(to + std::ptrdiff_t{4} * dx) += weight * colour;
    }
  }

  void lamp_rows(StripLayers& layers, int top, int bottom, const Lamp& lamp) const {
    const Disc& disc = *lamp.disc;
    const int first = std::max(0, top - (lamp.y + disc.top));
    const int last = std::min(static_cast<int>(disc.rows.size()), bottom - (lamp.y + disc.top));
    std::vector<float> weights;
    for (int row = first; row < last; ++row) {
      const int x0 = lamp.x + weights_of_row(disc, to_size(row), weights);
      float* to = layers.lamps(layers.at(lamp.layer), lamp.y + disc.top + row - top);
      for (std::size_t i = 0; i < weights.size(); ++i) {
        const int x = x0 + static_cast<int>(i);
        if (x < 0 || x >= pass_.spread.size.width) continue;
        for (std::size_t c = 0; c < 3; ++c) to[4 * to_size(x) + c] += weights[i] * lamp.light[c];
      }
    }
  }

  const Preparation& ready_;
  const Pass& pass_;
  Plain way_;
  int blades_;
  std::vector<Mask> masks_{};
};

}  // namespace

Picture plain_defocus(const Frame& frame, const VirtualCamera& camera, Plain way) {
  const DefocusSettings settings;
  const FoundLight light = find_light(frame.colour);
  const Preparation ready(frame, light, camera, settings, gate_map(camera, frame.colour.size()));
  const auto pass = ready.pass(1);
  const Scatter scatter(ready, *pass, way, camera.iris.blades);
  return fill_open(gather_and_join(pass->spread, 2 * pass->table.reach(), scatter, {}),
                   pass->table.reach());
}

}  // namespace jolly_iris::blur
