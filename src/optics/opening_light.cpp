#include "jolly_iris/optics/opening_light.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <numbers>

#include "jolly_iris/optics/errors.hpp"
#include "seeded.hpp"

namespace jolly_iris {

namespace {

using std::numbers::pi;
constexpr int cells_a_side = 512;

void require(bool good, const char* key, const std::string& what) {
  if (!good) throw OpticsError(what, std::string("lens.iris.") + key);
}

void check(const Iris& iris) {
  require(std::abs(iris.edge_falloff) <= 8.0, "rim",
          fmt::format("a rim of {:g} stops; it is −8 (dark edge) to 8 (bright edge)",
                      iris.edge_falloff));
  require(iris.rings >= 0 && iris.rings <= 64, "rings",
          fmt::format("{} rings; an opening shows 0 to 64", iris.rings));
  require(iris.ring_strength >= 0.0 && iris.ring_strength <= 8.0, "ring_strength",
          fmt::format("rings of {:g} stops; they have 0 to 8", iris.ring_strength));
  require(iris.dust >= 0 && iris.dust <= 10000, "dust",
          fmt::format("{} specks of dust; write 0 to 10000", iris.dust));
  require(iris.dust_size > 0.0 && iris.dust_size <= 0.5, "dust_size",
          fmt::format("specks of {:g} of the opening's diameter; write more than 0, at most 0.5",
                      iris.dust_size));
  require(iris.scratches >= 0 && iris.scratches <= 1000, "scratches",
          fmt::format("{} scratches; write 0 to 1000", iris.scratches));
  if (!iris.picture) return;
  const OpeningPicture& p = *iris.picture;
  require(
      p.width > 0 && p.height > 0 &&
          p.light.size() == static_cast<std::size_t>(p.width) * static_cast<std::size_t>(p.height),
      "picture", "the opening's picture has no pixels");
  for (std::size_t i = 0; i < p.light.size(); ++i) {
    for (const float v : p.light[i]) {
      require(std::isfinite(v) && v >= 0.0F, "picture",
              fmt::format("the opening's picture holds {:g} at pixel {}, {}, which is no share of "
                          "light; write 0 (dark) or more",
                          v, i % static_cast<std::size_t>(p.width),
                          i / static_cast<std::size_t>(p.width)));
    }
  }
}

// How far the outline reaches in a direction.
class EdgeDistance {
 public:
  explicit EdgeDistance(const Opening& opening) : far_(angles, 0.0) {
    if (opening.is_round()) {
      far_.assign(angles, 1.0);
      return;
    }
    const Contour outline = opening.outline(1e-4);
    for (std::size_t i = 0; i < outline.size(); ++i) {
      const Point2 a = outline[i];
      const Point2 b = outline[(i + 1) % outline.size()];
      const double first = std::atan2(a.y, a.x);
      const double turn = std::atan2(a.x * b.y - a.y * b.x, a.x * b.x + a.y * b.y);
      const double low = std::min(first, first + turn) / step;
      const double high = std::max(first, first + turn) / step;
      for (int k = static_cast<int>(std::ceil(low)); k <= static_cast<int>(std::floor(high)); ++k) {
        const double c = std::cos(k * step);
        const double s = std::sin(k * step);
        const double det = c * (b.y - a.y) - s * (b.x - a.x);
        if (std::abs(det) < 1e-12) continue;
        double& far = far_[static_cast<std::size_t>((k % angles + angles) % angles)];
        far = std::max(far, (a.x * b.y - a.y * b.x) / det);
      }
    }
  }
  // ρ: 0 in the middle, 1 at the edge, more beyond.
  double fraction(Point2 p) const {
    const double at = std::atan2(p.y, p.x) / step + angles;
    const auto k = static_cast<int>(at);
    const double t = at - k;
    const double far = (1.0 - t) * far_[static_cast<std::size_t>(k % angles)] +
                       t * far_[static_cast<std::size_t>((k + 1) % angles)];
    return std::hypot(p.x, p.y) / std::max(far, 1e-3);
  }

 private:
  static constexpr int angles = 2048;
  static constexpr double step = 2.0 * pi / angles;
  std::vector<double> far_;
};

class Painter {
 public:
  Painter(const Iris& iris, const Opening& opening)
      : iris_(iris), opening_(opening), random_(iris.seed + 0x5eedULL) {
    grid_.side = cells_a_side;
    grid_.reach = opening.corner_radius() * (1.0 + 2.0 / cells_a_side);
    grid_.light.assign(static_cast<std::size_t>(cells_a_side) * cells_a_side, {1.0F, 1.0F, 1.0F});
  }

  OpeningLightGrid paint() {
    if (iris_.edge_falloff != 0.0 || (iris_.rings > 0 && iris_.ring_strength > 0.0)) radial();
    if (iris_.picture) picture(*iris_.picture);
    for (int i = 0; i < iris_.dust; ++i) speck();
    for (int i = 0; i < iris_.scratches; ++i) scratch();
    normalise();
    return std::move(grid_);
  }

 private:
  double cell_size() const { return 2.0 * grid_.reach / cells_a_side; }
  double place(int i) const { return (i + 0.5) * cell_size() - grid_.reach; }
  std::array<float, 3>& cell(int i, int j) {
    return grid_.light[static_cast<std::size_t>(j) * cells_a_side + static_cast<std::size_t>(i)];
  }

  void radial() {
    const EdgeDistance edge(opening_);
    for (int j = 0; j < cells_a_side; ++j) {
      for (int i = 0; i < cells_a_side; ++i) {
        const double r = std::min(edge.fraction({place(i), place(j)}), 1.0);
        double stops = iris_.edge_falloff * std::pow(r, 6.0);
        stops += 0.5 * iris_.ring_strength * std::sin(2.0 * pi * iris_.rings * r);
        const auto light = static_cast<float>(std::exp2(stops));
        for (float& c : cell(i, j)) c *= light;
      }
    }
  }

  // What of a picture's row or column lies within a cell of the grid: first pixel, their shares.
  struct Overlap {
    int first = 0;
    std::vector<float> fraction{};
  };
  Overlap overlap(double low, double high, int count) const {
    // From radii (−1 … 1) to pixels.
    const double from = std::clamp((low + 1.0) * 0.5 * count, 0.0, static_cast<double>(count));
    const double to = std::clamp((high + 1.0) * 0.5 * count, 0.0, static_cast<double>(count));
    Overlap out{std::min(static_cast<int>(from), count - 1), {}};
    const double whole = (high - low) * 0.5 * count;
    for (int k = out.first; k < count && k < to; ++k) {
      out.fraction.push_back(static_cast<float>(
          (std::min(to, k + 1.0) - std::max(from, static_cast<double>(k))) / whole));
    }
    return out;
  }

  // Dark where the grid reaches beyond the picture.
  void picture(const OpeningPicture& p) {
    std::vector<Overlap> columns;
    for (int i = 0; i < cells_a_side; ++i) {
      columns.push_back(overlap(place(i) - cell_size() / 2, place(i) + cell_size() / 2, p.width));
    }
    for (int j = 0; j < cells_a_side; ++j) {
      const Overlap rows =
          overlap(-place(j) - cell_size() / 2, -place(j) + cell_size() / 2, p.height);
      for (int i = 0; i < cells_a_side; ++i) {
        const Overlap& column = columns[static_cast<std::size_t>(i)];
        std::array<float, 3> sum{};
        for (std::size_t y = 0; y < rows.fraction.size(); ++y) {
          const std::size_t line =
              (static_cast<std::size_t>(rows.first) + y) * static_cast<std::size_t>(p.width) +
              static_cast<std::size_t>(column.first);
          for (std::size_t x = 0; x < column.fraction.size(); ++x) {
            for (std::size_t c = 0; c < 3; ++c) {
              sum[c] += rows.fraction[y] * column.fraction[x] * p.light[line + x][c];
            }
          }
        }
        for (std::size_t c = 0; c < 3; ++c) cell(i, j)[c] *= sum[c];
      }
    }
  }

  // Darkens what lies within `half` of a curve given by its distance function.
  template <class Distance>
  void darken(Point2 middle, double reach, double half, double dark, const Distance& distance) {
    const auto index = [&](double v) {
      return std::clamp(static_cast<int>((v + grid_.reach) / cell_size()), 0, cells_a_side - 1);
    };
    const double soft = std::max(0.35 * half, 0.75 * cell_size());
    for (int j = index(middle.y - reach); j <= index(middle.y + reach); ++j) {
      for (int i = index(middle.x - reach); i <= index(middle.x + reach); ++i) {
        const double beyond = distance(Point2{place(i), place(j)}) - half;
        const double t = std::clamp(0.5 - beyond / (2.0 * soft), 0.0, 1.0);
        const double fraction = 1.0 - dark * t * t * (3.0 - 2.0 * t);
        for (float& c : cell(i, j)) c *= static_cast<float>(fraction);
      }
    }
  }

  void speck() {
    const double u = random_.next();
    const Point2 at = opening_.sample(u, random_.next());
    const double radius = iris_.dust_size * (0.5 + random_.next());
    const double dark = 0.3 + 0.6 * random_.next();
    darken(at, 2.0 * radius + 2.0 * cell_size(), radius, dark,
           [&](Point2 p) { return std::hypot(p.x - at.x, p.y - at.y); });
  }

  void scratch() {
    const double u = random_.next();
    const Point2 at = opening_.sample(u, random_.next());
    const double angle = pi * random_.next();
    const double length = 0.2 + 0.8 * random_.next();
    const double half = 0.002 + 0.005 * random_.next();
    const double dark = 0.2 + 0.5 * random_.next();
    const Point2 along{std::cos(angle), std::sin(angle)};
    darken(at, length + 0.05, half, dark, [&](Point2 p) {
      const double x = p.x - at.x;
      const double y = p.y - at.y;
      const double t = std::clamp(x * along.x + y * along.y, -length, length);
      return std::hypot(x - t * along.x, y - t * along.y);
    });
  }

  void normalise() {
    constexpr int n = 256;
    double sum = 0.0;
    int open = 0;
    for (int i = 0; i < n; ++i) {
      for (int j = 0; j < n; ++j) {
        const Point2 p = opening_.sample((i + 0.5) / n, (j + 0.5) / n);
        if (opening_.blocked(p)) continue;
        const auto light = grid_.at(p);
        for (const float c : light) sum += static_cast<double>(c);
        ++open;
      }
    }
    const double mean = sum / (3.0 * std::max(1, open));
    require(mean > 1e-6, "picture",
            "no light passes the opening: its picture is black within the outline");
    for (auto& c : grid_.light) {
      for (float& v : c) v = static_cast<float>(v / mean);
    }
  }

  const Iris& iris_;
  const Opening& opening_;
  Seeded random_;
  OpeningLightGrid grid_{};
};

}  // namespace

OpeningLightGrid opening_light(const Iris& iris, const Opening& opening) {
  check(iris);
  if (iris.even()) return {};
  return Painter(iris, opening).paint();
}

}  // namespace jolly_iris
