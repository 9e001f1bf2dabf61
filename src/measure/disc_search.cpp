#include "disc_search.hpp"

#include <tbb/enumerable_thread_specific.h>

#include <array>
#include <cmath>
#include <cstdint>
#include <mutex>
#include <numbers>
#include <unordered_map>

#include "measure/constants.hpp"
#include "picture/parallel.hpp"
#include "picture/to_size.hpp"

namespace jolly_iris::measuring {

namespace {

using std::numbers::pi;

struct Gradients {
  GreyImage x, y, size;
};

Gradients gradients_of(const GreyImage& p) {
  Gradients g{GreyImage(p.width, p.height), GreyImage(p.width, p.height),
              GreyImage(p.width, p.height)};
  parallel_for(1, p.height - 1, [&](int y) {
    const float* above = p.row(y - 1);
    const float* here = p.row(y);
    const float* below = p.row(y + 1);
    for (int x = 1; x < p.width - 1; ++x) {
      // Scharr's weights: directions within a degree.
      const float gx = 3.0F * (above[x + 1] - above[x - 1] + below[x + 1] - below[x - 1]) +
                       10.0F * (here[x + 1] - here[x - 1]);
      const float gy = 3.0F * (below[x - 1] - above[x - 1] + below[x + 1] - above[x + 1]) +
                       10.0F * (below[x] - above[x]);
      g.x.at(x, y) = gx;
      g.y.at(x, y) = gy;
      g.size.at(x, y) = std::sqrt(gx * gx + gy * gy);
    }
  });
  return g;
}

// Ridges of the gradient: an edge is one pixel wide.
std::vector<EdgePixel> ridges_of(const Gradients& g) {
  std::vector<float> some;
  const std::size_t every = std::max<std::size_t>(1, g.size.values.size() / 100000);
  for (std::size_t i = 0; i < g.size.values.size(); i += every) some.push_back(g.size.values[i]);
  const float min = std::max(votes::over_median * quantile(some, 0.5), 1e-6F);
  std::vector<std::vector<EdgePixel>> rows(to_size(g.size.height));
  parallel_for(2, std::max(2, g.size.height - 2), [&](int y) {
    for (int x = 2; x < g.size.width - 2; ++x) {
      const float size = g.size.at(x, y);
      if (size < min) continue;
      const float nx = g.x.at(x, y) / size;
      const float ny = g.y.at(x, y) / size;
      const int dx = nx > 0.3827F ? 1 : nx < -0.3827F ? -1 : 0;
      const int dy = ny > 0.3827F ? 1 : ny < -0.3827F ? -1 : 0;
      if (size < g.size.at(x + dx, y + dy) || size < g.size.at(x - dx, y - dy)) continue;
      rows[to_size(y)].push_back(
          {static_cast<std::int16_t>(x), static_cast<std::int16_t>(y), nx, ny});
    }
  });
  std::vector<EdgePixel> all;
  for (const auto& r : rows) all.insert(all.end(), r.begin(), r.end());
  return all;
}

// Votes of one tile, a plane a radius, with a margin for smoothing.
class Tile {
 public:
  void collect(const std::vector<EdgePixel>& edges, const std::vector<std::size_t>& first_of_row,
               int left, int top, int width, int height, double aspect,
               std::vector<Candidate>& out) {
    left_ = left - votes::blur - 1;
    top_ = top - votes::blur - 1;
    width_ = width + 2 * (votes::blur + 1);
    height_ = height + 2 * (votes::blur + 1);
    const int reach = votes::largest + 2;
    const int reach_x = static_cast<int>(std::ceil(votes::largest * aspect)) + 2;
    for (auto& v : votes_) v.assign(to_size(width_) * to_size(height_), 0.0F);
    for (int k = 0; k < votes::radii; ++k) {
      share_[to_size(k)] = 1.0F / circumference(votes::smallest + k, aspect);
    }
    const int rows = static_cast<int>(first_of_row.size()) - 1;
    for (int y = std::max(0, top_ - reach); y < std::min(rows, top_ + height_ + reach); ++y) {
      for (std::size_t i = first_of_row[to_size(y)]; i < first_of_row[to_size(y) + 1]; ++i) {
        const EdgePixel& e = edges[i];
        if (e.x < left_ - reach_x) continue;
        if (e.x >= left_ + width_ + reach_x) break;
        vote(e, aspect);
      }
    }
    for (auto& v : votes_) smooth(v);
    peaks(left, top, width, height, aspect, out);
  }

 private:
  void vote(const EdgePixel& e, double aspect) {
    const auto a = static_cast<float>(aspect);
    const float q = std::sqrt(a * a * e.nx * e.nx + e.ny * e.ny);
    const float ux = a * a * e.nx / q;
    const float uy = e.ny / q;
    // What lies before the tile is no less than this: rounded towards zero, as casts do, is down.
    constexpr int before = 1024;
    const float from_x = static_cast<float>(e.x - left_ + before) + 0.5F;
    const float from_y = static_cast<float>(e.y - top_ + before) + 0.5F;
    for (int k = 0; k < votes::radii; ++k) {
      const auto r = static_cast<float>(votes::smallest + k);
      const int x = static_cast<int>(from_x + r * ux) - before;
      const int y = static_cast<int>(from_y + r * uy) - before;
      if (x < 0 || y < 0 || x >= width_ || y >= height_) continue;
      votes_[to_size(k)][to_size(y) * to_size(width_) + to_size(x)] += 1.0F;
    }
  }

  // Sums over (2 blur + 1)², where they fit. Written out, so that compilers take several at once.
  void smooth(std::vector<float>& v) {
    static_assert(votes::blur == 2);
    line_.resize(v.size());
    const std::size_t wide = to_size(width_);
    const std::size_t count = wide - 2 * to_size(votes::blur);
    for (int y = 0; y < height_; ++y) {
      const float* from = v.data() + to_size(y) * wide;
      float* to = line_.data() + to_size(y) * wide + votes::blur;
      for (std::size_t x = 0; x < count; ++x) {
        to[x] = from[x] + from[x + 1] + from[x + 2] + from[x + 3] + from[x + 4];
      }
    }
    for (int y = votes::blur; y < height_ - votes::blur; ++y) {
      const float* from = line_.data() + to_size(y - votes::blur) * wide + votes::blur;
      float* to = v.data() + to_size(y) * wide + votes::blur;
      for (std::size_t x = 0; x < count; ++x) {
        to[x] =
            from[x] + from[x + wide] + from[x + 2 * wide] + from[x + 3 * wide] + from[x + 4 * wide];
      }
    }
  }

  void peaks(int left, int top, int width, int height, double aspect,
             std::vector<Candidate>& out) const {
    for (int y = top - top_; y < top - top_ + height; ++y) {
      for (int x = left - left_; x < left - left_ + width; ++x) {
        const std::size_t i = to_size(y) * to_size(width_) + to_size(x);
        float best = 0.0F;
        for (std::size_t k = 0; k < votes_.size(); ++k) {
          best = std::max(best, votes_[k][i] * share_[k]);
        }
        if (best < votes::min_score) continue;
        int at = 0;
        while (votes_[to_size(at)][i] * share_[to_size(at)] < best) ++at;
        const std::vector<float>& v = votes_[to_size(at)];
        bool top_of_all = true;
        for (int dy = -1; dy <= 1 && top_of_all; ++dy) {
          for (int dx = -1; dx <= 1; ++dx) {
            const std::size_t j = to_size(y + dy) * to_size(width_) + to_size(x + dx);
            // cppcheck-suppress arrayIndexThenCheck ; not a check of a limit: ties go to the first
            if (v[j] > v[i] || (v[j] == v[i] && j < i)) top_of_all = false;
          }
        }
        if (!top_of_all) continue;
        out.push_back({left_ + x + 0.5, top_ + y + 0.5, static_cast<double>(votes::smallest + at),
                       aspect, static_cast<double>(best)});
      }
    }
  }

  // Edge pixels that an oval has.
  static float circumference(int radius, double aspect) {
    return static_cast<float>(2.0 * pi * radius * std::sqrt(0.5 * (1.0 + aspect * aspect)) * 0.9);
  }

  int left_ = 0;
  int top_ = 0;
  int width_ = 0;
  int height_ = 0;
  std::array<std::vector<float>, votes::radii> votes_{};
  std::array<float, votes::radii> share_{};  // of a circumference, of one vote
  std::vector<float> line_{};
};

// Of several candidates for one disc, the best.
std::vector<Candidate> thinned(std::vector<Candidate> all) {
  std::sort(all.begin(), all.end(), [](const Candidate& a, const Candidate& b) {
    return a.score != b.score ? a.score > b.score : a.y != b.y ? a.y < b.y : a.x < b.x;
  });
  // Kept ones by squares, so that only neighbours are asked.
  constexpr double square = 8.0;
  std::unordered_map<std::int64_t, std::vector<Candidate>> squares;
  const auto key = [](int column, int row) {
    return (static_cast<std::int64_t>(row) << 32) + column;
  };
  const auto cell = [](double v) { return static_cast<int>(std::floor(v / square)); };
  std::vector<Candidate> kept;
  for (const Candidate& c : all) {
    bool again = false;
    const double beside = votes::farthest * c.aspect;
    for (int row = cell(c.y - votes::farthest); row <= cell(c.y + votes::farthest) && !again;
         ++row) {
      for (int column = cell(c.x - beside); column <= cell(c.x + beside) && !again; ++column) {
        const auto there = squares.find(key(column, row));
        if (there == squares.end()) continue;
        again = std::any_of(there->second.begin(), there->second.end(), [&](const Candidate& k) {
          const double dx = (c.x - k.x) / c.aspect;
          const double dy = c.y - k.y;
          return dx * dx + dy * dy < 0.35 * 0.35 * k.radius * k.radius &&
                 std::abs(c.radius - k.radius) < 2.5;
        });
      }
    }
    if (again) continue;
    kept.push_back(c);
    squares[key(cell(c.x), cell(c.y))].push_back(c);
  }
  return kept;
}

}  // namespace

GreyImage halved(const GreyImage& fine) {
  GreyImage half(std::max(1, fine.width / 2), std::max(1, fine.height / 2));
  parallel_for(0, half.height, [&](int y) {
    const float* a = fine.row(std::min(2 * y, fine.height - 1));
    const float* b = fine.row(std::min(2 * y + 1, fine.height - 1));
    float* to = half.row(y);
    for (int x = 0; x < half.width; ++x) {
      const int i = std::min(2 * x, fine.width - 1);
      const int j = std::min(2 * x + 1, fine.width - 1);
      to[x] = 0.25F * (a[i] + a[j] + b[i] + b[j]);
    }
  });
  return half;
}

EdgePixels edges_of(const GreyImage& plane) {
  EdgePixels out;
  out.size = {plane.width, plane.height};
  if (plane.width < 16 || plane.height < 16) return out;
  out.all = ridges_of(gradients_of(plane));
  out.first_of_row.assign(to_size(plane.height) + 1, out.all.size());
  std::size_t i = 0;
  for (int y = 0; y < plane.height; ++y) {
    out.first_of_row[to_size(y)] = i;
    while (i < out.all.size() && out.all[i].y == y) ++i;
  }
  return out;
}

std::vector<Candidate> search(const EdgePixels& found_edges, double aspect) {
  const std::vector<EdgePixel>& edges = found_edges.all;
  const std::vector<std::size_t>& first = found_edges.first_of_row;
  const PixelSize plane = found_edges.size;
  if (first.empty()) return {};
  const int columns = (plane.width + votes::tile - 1) / votes::tile;
  const int rows = (plane.height + votes::tile - 1) / votes::tile;
  std::vector<std::vector<Candidate>> found(to_size(columns) * to_size(rows));
  tbb::enumerable_thread_specific<Tile> tiles;
  parallel_for(0, columns * rows, [&](int k) {
    const int left = k % columns * votes::tile;
    const int top = k / columns * votes::tile;
    tiles.local().collect(edges, first, left, top, std::min(votes::tile, plane.width - left),
                          std::min(votes::tile, plane.height - top), aspect, found[to_size(k)]);
  });
  std::vector<Candidate> all;
  for (const auto& f : found) all.insert(all.end(), f.begin(), f.end());
  return thinned(std::move(all));
}

}  // namespace jolly_iris::measuring
