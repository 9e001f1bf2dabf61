#include "jolly_iris/measure/edge_blur.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <numbers>

#include "grey_image.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "measure/constants.hpp"
#include "normal_equations.hpp"
#include "picture/parallel.hpp"

namespace jolly_iris {

namespace {

namespace edges = measuring::edges;

using measuring::GreyImage;

using std::numbers::pi;

GreyImage roots_of(const Picture& picture) {
  GreyImage p(picture.width(), picture.height());
  parallel_for(0, picture.height(), [&](int y) {
    for (int x = 0; x < picture.width(); ++x) {
      const Rgba& c = picture.at(x, y);
      const float light = (c[0] + c[1] + c[2]) / 3.0F;
      p.at(x, y) = std::sqrt(std::clamp(light, 0.0F, 1.0F));
    }
  });
  return p;
}

struct Profile {
  std::vector<double> at{};
  std::vector<double> value{};
};

// Means along the edge, across it from −reach to reach.
Profile across(const GreyImage& p, double x, double y, double angle, double reach) {
  Profile out;
  const double c = std::cos(angle);
  const double s = std::sin(angle);
  for (double t = -reach; t <= reach + 1e-9; t += edges::step) {
    double sum = 0.0;
    for (int k = -edges::along; k <= edges::along; ++k) {
      sum += static_cast<double>(p.between(x + t * c - k * s, y + t * s + k * c));
    }
    out.at.push_back(t);
    out.value.push_back(sum / (2 * edges::along + 1));
  }
  return out;
}

struct Step {
  double dark = 0.0;
  double contrast = 0.0;
  double middle = 0.0;
  double sigma = 1.0;
  double residual = 0.0;  // root mean square, of the contrast
  double sigma_sigma = 0.0;
};

// dark + contrast Φ((t − middle)/σ), by Gauss-Newton.
std::optional<Step> fit_step(const Profile& p, double sigma) {
  const std::size_t n = p.at.size();
  Step s;
  s.dark = p.value.front();
  s.contrast = p.value.back() - p.value.front();
  s.sigma = sigma;
  if (!(s.contrast > 0.0)) return std::nullopt;
  measuring::NormalEquations<4> normal;
  double sum = 0.0;
  for (int round = 0; round < 25; ++round) {
    normal = measuring::NormalEquations<4>();
    sum = 0.0;
    for (std::size_t i = 0; i < n; ++i) {
      const double z = (p.at[i] - s.middle) / s.sigma;
      const double phi = 0.5 * std::erfc(-z / std::numbers::sqrt2);
      const double psf_sigma = std::exp(-0.5 * z * z) / std::sqrt(2.0 * pi);
      const double r = s.dark + s.contrast * phi - p.value[i];
      normal.add(
          {1.0, phi, -s.contrast * psf_sigma / s.sigma, -s.contrast * psf_sigma * z / s.sigma}, r);
      sum += r * r;
    }
    normal.damp(1.0 + 1e-6);
    const measuring::Terms<4> d = normal.solve();
    s.dark -= d[0];
    s.contrast -= d[1];
    s.middle -= std::clamp(d[2], -2.0, 2.0);
    s.sigma = std::clamp(s.sigma - d[3], 0.5 * s.sigma, 2.0 * s.sigma);
    if (!std::isfinite(s.sigma + s.middle) || s.sigma < 0.05 || s.sigma > 2.0 * edges::max_blur) {
      return std::nullopt;
    }
    if (std::abs(d[2]) + std::abs(d[3]) < 1e-5) break;
  }
  if (!(s.contrast > 0.0)) return std::nullopt;
  s.residual = std::sqrt(sum / static_cast<double>(n)) / s.contrast;
  const double variance = sum / static_cast<double>(n - 4);
  // Neighbouring samples share pixels: they count half.
  s.sigma_sigma = std::sqrt(2.0 * std::max(0.0, variance * normal.variance(3)));
  return s;
}

// Measured with a reach that goes with the blur: far enough to see both sides even, and no farther.
std::optional<EdgeBlur> measured(const GreyImage& p, double x, double y, double angle) {
  double sigma = 1.0;
  for (double reach = 4.0; reach <= 3.2 * edges::max_blur; reach *= 1.6) {
    const double far = reach + edges::along + 1.0;
    if (x < far || y < far || x > p.width - far || y > p.height - far) return std::nullopt;
    const auto s = fit_step(across(p, x, y, angle, reach), sigma);
    if (!s) continue;
    sigma = s->sigma;
    if (3.0 * s->sigma > reach || std::abs(s->middle) > 0.4 * reach) continue;
    if (s->residual > edges::max_residual || s->contrast < edges::min_contrast ||
        s->sigma > edges::max_blur) {
      return std::nullopt;
    }
    EdgeBlur e;
    e.at = {x + s->middle * std::cos(angle), y + s->middle * std::sin(angle)};
    e.across_deg = angle * 180.0 / pi;
    // Values between pixels are means of them, which softens the profile.
    e.width_px = std::sqrt(std::max(s->sigma * s->sigma - edges::between_px2, 0.01));
    e.margin_px = 2.0 * std::hypot(s->sigma_sigma, 0.02 * s->sigma);
    e.contrast = s->contrast;
    return e;
  }
  return std::nullopt;
}

// The mean slope of the picture over a few pixels, per px, by Scharr's weights: noise makes no
// edges, and directions are right within a degree.
std::array<double, 2> slope_at(const GreyImage& p, int x, int y, int r) {
  double gx = 0.0;
  double gy = 0.0;
  for (int v = y - r + 1; v < y + r; ++v) {
    const float* above = p.row(v - 1);
    const float* here = p.row(v);
    const float* below = p.row(v + 1);
    for (int u = x - r + 1; u < x + r; ++u) {
      const float left = 3.0F * (above[u - 1] + below[u - 1]) + 10.0F * here[u - 1];
      const float right = 3.0F * (above[u + 1] + below[u + 1]) + 10.0F * here[u + 1];
      const float up = 3.0F * (above[u - 1] + above[u + 1]) + 10.0F * above[u];
      const float down = 3.0F * (below[u - 1] + below[u + 1]) + 10.0F * below[u];
      gx += static_cast<double>(right - left);
      gy += static_cast<double>(down - up);
    }
  }
  const double n = 32.0 * (2.0 * r - 1.0) * (2.0 * r - 1.0);
  return {gx / n, gy / n};
}

// Whether the edge goes on straight: its slope has the same direction a little along it.
bool straight(const GreyImage& p, int x, int y, double angle, int r) {
  for (const int k : {-edges::along - 1, edges::along + 1}) {
    const int u = static_cast<int>(std::lround(x - k * std::sin(angle)));
    const int v = static_cast<int>(std::lround(y + k * std::cos(angle)));
    if (u < r || v < r || u >= p.width - r || v >= p.height - r) return false;
    const auto g = slope_at(p, u, v, r);
    const double turn = std::remainder(std::atan2(g[1], g[0]) - angle, 2.0 * pi);
    if (std::abs(turn) > 0.25) return false;
  }
  return true;
}

double noise_of(const GreyImage& p) {
  std::vector<float> off;
  for (int y = 1; y < p.height - 1; y += 3) {
    for (int x = 1; x < p.width - 1; x += 3) {
      off.push_back(std::abs(p.at(x, y) - 0.25F * (p.at(x - 1, y) + p.at(x + 1, y) +
                                                   p.at(x, y - 1) + p.at(x, y + 1))));
    }
  }
  return 1.7 * static_cast<double>(quantile(off, 0.4));
}

}  // namespace

std::vector<EdgeBlur> edge_blurs(const Picture& picture, int apart_px) {
  if (picture.width() < 24 || picture.height() < 24) {
    throw PictureError(fmt::format("edges are looked for in pictures of 24 px or more, not {} x {}",
                                   picture.width(), picture.height()));
  }
  const GreyImage p = roots_of(picture);
  const double min =
      std::max(edges::steepest_fraction * edges::min_contrast, edges::clearly * noise_of(p) / 8.0);
  const int across_cells = (p.width + apart_px - 1) / apart_px;
  const int down_cells = (p.height + apart_px - 1) / apart_px;
  std::vector<std::optional<EdgeBlur>> cells(static_cast<std::size_t>(across_cells * down_cells));
  constexpr int r = 3;
  parallel_for(0, across_cells * down_cells, [&](int i) {
    const int x0 = i % across_cells * apart_px;
    const int y0 = i / across_cells * apart_px;
    struct Place {
      int x, y;
      double steep, angle;
    };
    std::vector<Place> places;
    for (int y = std::max(y0, 9); y < std::min(y0 + apart_px, p.height - 9); ++y) {
      for (int x = std::max(x0, 9); x < std::min(x0 + apart_px, p.width - 9); ++x) {
        const auto g = slope_at(p, x, y, r);
        const double steep = std::hypot(g[0], g[1]);
        if (steep > min) places.push_back({x, y, steep, std::atan2(g[1], g[0])});
      }
    }
    std::sort(places.begin(), places.end(),
              [](const Place& a, const Place& b) { return a.steep > b.steep; });
    for (std::size_t k = 0; k < std::min<std::size_t>(places.size(), 12); ++k) {
      const Place& at = places[k];
      if (!straight(p, at.x, at.y, at.angle, r)) continue;
      auto edge = measured(p, at.x + 0.5, at.y + 0.5, at.angle);
      if (!edge) continue;
      // A soft edge's direction is told better from farther away.
      const int width = std::clamp(static_cast<int>(std::lround(edge->width_px)), r, 7);
      if (width > r) {
        const auto g = slope_at(p, at.x, at.y, width);
        edge = measured(p, at.x + 0.5, at.y + 0.5, std::atan2(g[1], g[0]));
        if (!edge) continue;
      }
      cells[static_cast<std::size_t>(i)] = edge;
      return;
    }
  });
  std::vector<EdgeBlur> out;
  for (const auto& c : cells) {
    if (c) out.push_back(*c);
  }
  return out;
}

std::vector<std::optional<EdgeBlur>> same_edges(const Picture& picture,
                                                const std::vector<EdgeBlur>& edges) {
  const GreyImage p = roots_of(picture);
  std::vector<std::optional<EdgeBlur>> out(edges.size());
  parallel_for(std::size_t{0}, edges.size(), [&](std::size_t i) {
    const EdgeBlur& e = edges[i];
    out[i] = measured(p, e.at[0], e.at[1], e.across_deg * pi / 180.0);
  });
  return out;
}

double without_floor(double width_px, double floor_px) {
  return std::sqrt(std::max(0.0, width_px * width_px - floor_px * floor_px));
}

}  // namespace jolly_iris
