#include "disc.hpp"

#include <algorithm>
#include <cmath>

#include "area_raster.hpp"

namespace jolly_iris::blur {

namespace {

constexpr float finest = 1e-7F;    // a change below it is a rounding
constexpr double point_px = 2e-3;  // a disc this small is a point

}  // namespace

// The pixels a disc may touch, around its centre.
struct DiscMaker::Box {
  int reach_x = 0;
  int reach_y = 0;
  int width() const { return 2 * reach_x + 1; }
  int height() const { return 2 * reach_y + 1; }
};

DiscMaker::DiscMaker(const Pupil& pupil, double pixel_width, double pixel_height,
                     const GlassCamera* glass)
    : pupil_(pupil),
      pixel_width_(pixel_width),
      pixel_height_(pixel_height),
      bent_(pupil.lens().spherical != 0.0 || pupil.lens().coma != 0.0) {
  if (glass != nullptr) {
    glass_.emplace(*glass, pixel_width, pixel_height);
    return;
  }
  for (int level = 0; level < 16; ++level) {
    outlines_.push_back(pupil.whole(std::ldexp(0.05, -level)));
  }
  const OpeningLightGrid& grid = pupil.lens().light;
  if (grid.side == 0) return;
  const auto n = static_cast<std::size_t>(grid.side);
  sums_.assign((n + 1) * (n + 1), {0.0, 0.0, 0.0});
  for (std::size_t y = 0; y < n; ++y) {
    std::array<double, 3> row{};
    for (std::size_t x = 0; x < n; ++x) {
      for (std::size_t c = 0; c < 3; ++c) {
        row[c] += static_cast<double>(grid.light[y * n + x][c]);
        sums_[(y + 1) * (n + 1) + x + 1][c] = sums_[y * (n + 1) + x + 1][c] + row[c];
      }
    }
  }
}

bool DiscMaker::depends_on_place() const {
  return glass_ || pupil_.has_vignetting() || pupil_.lens().coma != 0.0;
}

PupilPlace DiscMaker::seen_from(const DiscPlace& place) const {
  const LensSampler& lens = pupil_.lens();
  const double power = lens.power_at(place.right, place.up, place.colour);
  return {place.right / lens.focal, place.up / lens.focal,
          std::max(0.0, power - place.coc / (2.0 * lens.radius * lens.focal))};
}

double DiscMaker::light(const PupilPlace& place) const {
  return glass_ ? glass_->light(place) : pupil_.light(place);
}

bool DiscMaker::cut(const DiscPlace& place) const {
  return glass_ || pupil_.cuts(seen_from(place));
}

// From a point of the opening (radii, squeezed) to px beside the disc's centre, y down.
Point2 DiscMaker::on_picture(Point2 p, const DiscPlace& place) const {
  Point2 at{0.5 * place.coc * p.x, 0.5 * place.coc * p.y};
  if (bent_) {
    const LensSampler& lens = pupil_.lens();
    const Point2 deviation = lens.deviation({p.x / lens.aspect, p.y}, place.right, place.up);
    at = {at.x + deviation.x, at.y + deviation.y};
  }
  return {at.x / pixel_width_, -at.y / pixel_height_};
}

// Whether two zones of the opening land in one place: then its outline is not the disc's.
bool DiscMaker::folds(double coc) const {
  const LensSampler& lens = pupil_.lens();
  if (lens.coma != 0.0) return true;
  const double r = pupil_.opening().corner_radius();
  const double middle = 0.5 * coc - lens.spherical * 2.0 / 3.0;
  const double edge = 0.5 * coc + lens.spherical * (3.0 * r * r - 2.0 / 3.0);
  return !(middle * edge > 0.0) || std::min(std::abs(middle), std::abs(edge)) <
                                       0.02 * std::max(std::abs(middle), std::abs(edge));
}

Disc DiscMaker::make(const DiscPlace& place) const {
  if (glass_) return glass_->make(seen_from(place), std::abs(place.coc));
  const double scale = 0.5 * std::abs(place.coc) / std::min(pixel_width_, pixel_height_);
  if (bent_ && folds(place.coc)) return scattered(place);
  if (scale < 0.5 * point_px && !bent_) return point_disc(even());
  // A chord within 1/100 px of its arc cannot be told from it.
  const int level = std::clamp(static_cast<int>(std::ceil(std::log2(0.05 * scale / 0.01))), 0,
                               static_cast<int>(outlines_.size()) - 1);
  const auto contours = pupil_.cut(outlines_[static_cast<std::size_t>(level)], seen_from(place),
                                   std::ldexp(0.05, -level));
  if (contours.empty()) return point_disc(even());  // its light is 0
  return even() ? outlined(place, contours) : shaded(place, contours);
}

namespace {

// The contours on pixels; the raster's pixel (box.reach_x, box.reach_y) is the disc's centre.
struct Placed {
  std::vector<Contour> contours{};
  double far_x = 0.0;
  double far_y = 0.0;
};

thread_local AreaRaster raster;

}  // namespace

namespace {

template <class Map>
Placed placed_by(const std::vector<Contour>& contours, const Map& map) {
  Placed out{contours, 0.0, 0.0};
  for (Contour& c : out.contours) {
    for (Point2& p : c) {
      p = map(p);
      out.far_x = std::max(out.far_x, std::abs(p.x));
      out.far_y = std::max(out.far_y, std::abs(p.y));
    }
  }
  return out;
}

// @return all areas together, px², with the raster's sign
double draw(const Placed& placed, int reach_x, int reach_y, AreaRaster& on) {
  on.start(2 * reach_x + 1, 2 * reach_y + 1);
  const Point2 middle{reach_x + 0.5, reach_y + 0.5};
  double twice = 0.0;
  for (const Contour& c : placed.contours) {
    if (c.empty()) continue;
    twice += signed_area_twice(c);
    Point2 a{c.back().x + middle.x, c.back().y + middle.y};
    for (const Point2& p : c) {
      const Point2 b{p.x + middle.x, p.y + middle.y};
      on.edge(a, b);
      a = b;
    }
  }
  return -0.5 * twice;  // the raster counts contours that run with y down
}

}  // namespace

Disc DiscMaker::outlined(const DiscPlace& place, const std::vector<Contour>& contours) const {
  const Placed placed = placed_by(contours, [&](Point2 p) { return on_picture(p, place); });
  const Box box{static_cast<int>(std::ceil(placed.far_x + 0.5)),
                static_cast<int>(std::ceil(placed.far_y + 0.5))};
  AreaRaster& on = raster;
  const double fraction = 1.0 / draw(placed, box.reach_x, box.reach_y, on);
  Disc disc;
  disc.top = -box.reach_y;
  disc.rows.reserve(static_cast<std::size_t>(box.height()));
  for (int y = 0; y < box.height(); ++y) {
    const float* row = on.row(y);
    Disc::Row r{static_cast<int>(disc.taps.size()), 0};
    float sum = 0.0F;
    for (int x = 0; x <= box.width(); ++x) {
      if (std::abs(row[x]) < finest) continue;
      const auto step = static_cast<float>(static_cast<double>(row[x]) * fraction);
      disc.taps.push_back({x - box.reach_x, step});
      sum += step;
    }
    r.count = static_cast<int>(disc.taps.size()) - r.first;
    if (r.count > 0) disc.taps.back().step -= sum;  // beyond the disc nothing is left
    disc.rows.push_back(r);
  }
  return disc;
}

// Mean of the opening's light over a box around one of its points (radii, not squeezed).
std::array<double, 3> DiscMaker::light_around(Point2 middle, double half_width,
                                              double half_height) const {
  const OpeningLightGrid& grid = pupil_.lens().light;
  if (grid.side == 0) return {1.0, 1.0, 1.0};
  const auto n = static_cast<std::size_t>(grid.side);
  const auto cell = [&](double v) {
    return std::clamp((v / grid.reach + 1.0) * 0.5 * grid.side, 0.0,
                      static_cast<double>(grid.side));
  };
  const auto sum_to = [&](double x, double y) {
    const std::size_t i = std::min(static_cast<std::size_t>(x), n - 1);
    const std::size_t j = std::min(static_cast<std::size_t>(y), n - 1);
    const double fx = x - static_cast<double>(i);
    const double fy = y - static_cast<double>(j);
    const auto* low = sums_.data() + j * (n + 1) + i;
    const auto* high = low + n + 1;
    std::array<double, 3> s{};
    for (std::size_t c = 0; c < 3; ++c) {
      s[c] = (1.0 - fy) * ((1.0 - fx) * low[0][c] + fx * low[1][c]) +
             fy * ((1.0 - fx) * high[0][c] + fx * high[1][c]);
    }
    return s;
  };
  // At least one cell wide: beyond the grid's edge its last cell goes on.
  const double min = 2.0 * grid.reach / grid.side;
  const double limit = grid.reach - min;
  const double mx = std::clamp(middle.x, -limit, limit);
  const double my = std::clamp(middle.y, -limit, limit);
  const double w = std::max(half_width, 0.5 * min);
  const double h = std::max(half_height, 0.5 * min);
  const double x0 = cell(mx - w);
  const double x1 = cell(mx + w);
  const double y0 = cell(my - h);
  const double y1 = cell(my + h);
  const auto a = sum_to(x0, y0);
  const auto b = sum_to(x1, y0);
  const auto c = sum_to(x0, y1);
  const auto d = sum_to(x1, y1);
  std::array<double, 3> mean{};
  for (std::size_t k = 0; k < 3; ++k) {
    mean[k] = std::max(0.0, d[k] - b[k] - c[k] + a[k]) / ((x1 - x0) * (y1 - y0));
  }
  return mean;
}

// Where each place of the disc has light from one place of the opening alone: its outline's exact
// areas times the light there, times how much the zone is drawn out.
Disc DiscMaker::shaded(const DiscPlace& place, const std::vector<Contour>& contours) const {
  const LensSampler& lens = pupil_.lens();
  const Placed placed = placed_by(contours, [&](Point2 p) { return on_picture(p, place); });
  const Box box{static_cast<int>(std::ceil(placed.far_x + 0.5)),
                static_cast<int>(std::ceil(placed.far_y + 0.5))};
  const double sign = draw(placed, box.reach_x, box.reach_y, raster) < 0.0 ? -1.0 : 1.0;
  std::vector<std::array<double, 3>> light(static_cast<std::size_t>(box.width()) *
                                           static_cast<std::size_t>(box.height()));
  const double half = 0.5 * place.coc;
  const double corner = pupil_.opening().corner_radius();
  for (int y = 0; y < box.height(); ++y) {
    const float* row = raster.row(y);
    double area = 0.0;
    for (int x = 0; x < box.width(); ++x) {
      area += static_cast<double>(row[x]);
      const double covered = sign * area;
      if (covered < 1e-6) continue;
      // On the gate, in the opening's own proportions.
      const double gx = (x - box.reach_x) * pixel_width_ / lens.aspect;
      const double gy = -(y - box.reach_y) * pixel_height_;
      double k = half;     // radius on the gate / ρ
      double drawn = 1.0;  // area on the gate against the opening's, without half²
      if (lens.spherical != 0.0) {
        // r = ρ (c/2 + a (ρ² − 2/3)), by Newton's steps from the perfect lens's ρ.
        const double r = std::hypot(gx, gy) * (half < 0.0 ? -1.0 : 1.0);
        const double a = lens.spherical;
        double rho = std::min(r / (half - a * 2.0 / 3.0), corner);
        for (int i = 0; i < 12; ++i) {
          const double miss = rho * (half + a * (rho * rho - 2.0 / 3.0)) - r;
          const double slope = half + a * (3.0 * rho * rho - 2.0 / 3.0);
          rho = std::clamp(rho - miss / slope, 0.0, 1.05 * corner);
        }
        rho = std::min(rho, corner);
        k = half + a * (rho * rho - 2.0 / 3.0);
        drawn = k * (half + a * (3.0 * rho * rho - 2.0 / 3.0)) / (half * half);
      }
      const auto l = light_around({gx / k, gy / k}, 0.5 * pixel_width_ / std::abs(k) / lens.aspect,
                                  0.5 * pixel_height_ / std::abs(k));
      auto& to = light[static_cast<std::size_t>(y) * static_cast<std::size_t>(box.width()) +
                       static_cast<std::size_t>(x)];
      for (std::size_t c = 0; c < 3; ++c) to[c] = covered * l[c] / drawn;
    }
  }
  return disc_of(box.reach_x, box.reach_y, light);
}

// Zones that land on each other: light is followed from points of the opening, many to a pixel.
Disc DiscMaker::scattered(const DiscPlace& place) const {
  const LensSampler& lens = pupil_.lens();
  const PupilPlace seen = seen_from(place);
  const double r = pupil_.opening().corner_radius();
  const double deviation = 2.0 * std::abs(lens.spherical) * r * r * r +
                           1.5 * std::abs(lens.coma) * std::hypot(place.right, place.up) * r * r;
  const double far = 0.5 * std::abs(place.coc) * r + deviation;
  const Box box{static_cast<int>(std::ceil(far / pixel_width_ + 1.5)),
                static_cast<int>(std::ceil(far / pixel_height_ + 1.5))};
  std::vector<std::array<double, 3>> light(static_cast<std::size_t>(box.width()) *
                                           static_cast<std::size_t>(box.height()));
  const int n = std::clamp(static_cast<int>(8.0 * far / pixel_height_), 64, 768);
  for (int i = 0; i < n; ++i) {
    for (int j = 0; j < n; ++j) {
      const Point2 p = lens.point((i + 0.5) / n, (j + 0.5) / n);
      if (pupil_.opening().blocked(p)) continue;
      const double px = p.x * lens.radius * lens.aspect;
      const double py = p.y * lens.radius;
      const auto w = lens.weight_of(p, px, py, seen.right - px * seen.inverse_z,
                                    seen.up - py * seen.inverse_z);
      if (w[0] + w[1] + w[2] <= 0.0F) continue;
      const Point2 at = on_picture({p.x * lens.aspect, p.y}, place);
      // Shared among the four pixels around it: the centre of light stays exact.
      const double x = at.x + box.reach_x;
      const double y = at.y + box.reach_y;
      const int ix = std::clamp(static_cast<int>(std::floor(x)), 0, box.width() - 2);
      const int iy = std::clamp(static_cast<int>(std::floor(y)), 0, box.height() - 2);
      const double fx = std::clamp(x - ix, 0.0, 1.0);
      const double fy = std::clamp(y - iy, 0.0, 1.0);
      auto* cell = light.data() +
                   static_cast<std::size_t>(iy) * static_cast<std::size_t>(box.width()) +
                   static_cast<std::size_t>(ix);
      for (std::size_t c = 0; c < 3; ++c) {
        const auto v = static_cast<double>(w[c]);
        cell[0][c] += v * (1.0 - fx) * (1.0 - fy);
        cell[1][c] += v * fx * (1.0 - fy);
        cell[box.width()][c] += v * (1.0 - fx) * fy;
        cell[box.width() + 1][c] += v * fx * fy;
      }
    }
  }
  return disc_of(box.reach_x, box.reach_y, light);
}

double coc_of_step(int step) {
  return std::copysign(2.0 * std::expm1(step_fraction * std::abs(step)), static_cast<double>(step));
}

}  // namespace jolly_iris::blur
