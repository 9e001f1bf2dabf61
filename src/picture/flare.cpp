#include "jolly_iris/picture/flare.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <mutex>
#include <numeric>

#include "disc_table.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/optics/memory.hpp"
#include "jolly_iris/optics/undistort.hpp"
#include "light_raster.hpp"
#include "parallel.hpp"
#include "require_finite.hpp"
#include "to_size.hpp"

namespace jolly_iris {

namespace {

using namespace blur;

// Lamps that are larger are several, px of a side.
constexpr int largest_lamp = 64;
// A lattice that tells how much light a pair has, without drawing it.
constexpr int weighing_side = 24;
// Less of a lamp's light than this arrives in the picture: what it had before is guesswork.
constexpr double hardly_there = 0.02;

// A ghost wider than so many heights of the picture is a veil: nobody sees its edge.
constexpr double veil_heights = 0.6;

struct Sums {
  double all = 0.0;  // light in the frame, mean of the colours
  double x = 0.0, y = 0.0, square = 0.0;
  double peak = 0.0;
  void add(const Sums& o) {
    all += o.all;
    x += o.x;
    y += o.y;
    square += o.square;
    peak = std::max(peak, o.peak);
  }
};

// Of an even disc whose light is spread as wide.
double wide(const Sums& s) {
  if (!(s.all > 0.0)) return 0.0;
  const double square = s.square / s.all - (s.x * s.x + s.y * s.y) / (s.all * s.all);
  return 2.0 * std::sqrt(2.0 * std::max(0.0, square));
}

double mean_of(const std::array<double, 3>& l) { return (l[0] + l[1] + l[2]) / 3.0; }

// Whose light it is, seen from the entrance pupil, and how much it has before the lens.
struct GhostLamp {
  PupilPlace from{};
  std::array<double, 3> light{};
};

class GhostDrawing {
 public:
  GhostDrawing(const Picture& picture, const VirtualCamera& camera, const GlassCamera& glass,
               const GhostLight& ghosts, const FlareSettings& settings)
      : size_(picture.size()),
        map_(gate_map(camera, size_)),
        glass_(glass),
        ghosts_(ghosts),
        settings_(settings) {
    if (camera.distortion.any()) {
      VirtualCamera of_this = camera;
      of_this.pixels = size_;
      bend_.emplace(of_this);
    }
  }

  // @return nothing for a lamp whose light hardly comes through
  std::optional<GhostLamp> lamp(const FlareLamp& found) const {
    std::array<double, 2> at{found.x, found.y};
    if (settings_.bent && bend_) at = bend_->undistorted(at);
    const double v = glass_.scene_focal().m();
    GhostLamp out;
    out.from.right = (at[0] - map_.axis_x) * map_.pixel_width / v;
    out.from.up = (map_.axis_y - at[1]) * map_.pixel_height / v;
    const PointLight direct(glass_, out.from);
    const double light = direct.reaches() ? direct.light() : 0.0;
    if (!(light > hardly_there)) return std::nullopt;
    for (std::size_t c = 0; c < 3; ++c) out.light[c] = found.light[c] / light;
    return out;
  }

  // Where a piece's corner is in the picture, px.
  Point2 place(Point2 gate) const {
    std::array<double, 2> at{map_.axis_x + gate.x / map_.pixel_width,
                             map_.axis_y - gate.y / map_.pixel_height};
    if (!settings_.bent && bend_) at = bend_->undistorted(at);
    return {at[0], at[1]};
  }

  // What a pair makes of a lamp: its sums, and, where it shall be drawn, its light.
  Sums follow(const GhostPath& path, const GhostLamp& lamp, std::size_t colour, int side,
              FineAreaRaster* on) const {
    thread_local std::vector<LightPiece> pieces;
    ghosts_.pieces(path, lamp.from, colour, side, pieces);
    Sums sums;
    const double px = map_.pixel_width * map_.pixel_height;
    for (LightPiece& p : pieces) {
      p.light *= lamp.light[colour];
      Point2 sum{};
      double film = 0.0;
      double there = 0.0;
      std::array<Point2, LightPiece::most> at{};
      for (std::size_t i = 0; i < p.count; ++i) {
        at[i] = place(p.corners[i]);
        sum = {sum.x + at[i].x, sum.y + at[i].y};
      }
      for (std::size_t i = 0; i < p.count; ++i) {
        const std::size_t k = i + 1 == p.count ? 0 : i + 1;
        film += p.corners[i].x * p.corners[k].y - p.corners[i].y * p.corners[k].x;
        there += at[i].x * at[k].y - at[i].y * at[k].x;
      }
      const auto n = static_cast<double>(p.count);
      const Point2 middle{sum.x / n, sum.y / n};
      // A picture that is straightened keeps its brightness, not its light.
      if (!settings_.bent && bend_ && film != 0.0) p.light *= std::abs(there * px / film);
      if (!(std::abs(middle.x) < 1e6) || !(std::abs(middle.y) < 1e6)) continue;
      const bool inside =
          middle.x >= 0.0 && middle.y >= 0.0 && middle.x < size_.width && middle.y < size_.height;
      if (inside) {
        sums.all += p.light;
        sums.x += p.light * middle.x;
        sums.y += p.light * middle.y;
        sums.square += p.light * (middle.x * middle.x + middle.y * middle.y);
        sums.peak = std::max(sums.peak, p.light / std::max(0.5 * std::abs(there), 1.0));
      }
      if (on == nullptr) continue;
      p.corners = at;
      draw_light(
          p, [](Point2 q) { return q; }, *on);
    }
    return sums;
  }

  PixelSize size() const { return size_; }

 private:
  PixelSize size_;
  GateMap map_;
  const GlassCamera& glass_;
  const GhostLight& ghosts_;
  const FlareSettings& settings_;
  std::optional<DistortionMap> bend_{};
};

void add_raster(const FineAreaRaster& raster, std::size_t colour, Picture& to) {
  parallel_for(0, to.height(), [&](int y) {
    const double* row = raster.row(y);
    double sum = 0.0;
    for (int x = 0; x < to.width(); ++x) {
      sum += row[x];
      to.at(x, y)[colour] += static_cast<float>(std::max(0.0, sum));
    }
  });
}

void check(const FlareSettings& s) {
  if (!(s.hold > 0.0 && s.hold <= 1.0)) {
    throw UsageError(
        fmt::format("a share of {:g} of the ghosts' light; it is above 0, at most 1", s.hold));
  }
  if (s.side < 8 || s.side > 512) {
    throw UsageError(fmt::format("a lattice of {} cells along a side; it takes 8 to 512", s.side));
  }
  if (s.layers < 0 || s.layers > 64) {
    throw UsageError(fmt::format("{} layers of ghosts; it makes 0 to 64", s.layers));
  }
}

}  // namespace

FoundLamps lamps_in(const Picture& picture, const LampSearch& search) {
  if (!(search.from > 0.0)) {
    throw UsageError(fmt::format("lamps from a brightness of {:g}; it is above zero", search.from));
  }
  if (search.most < 1) throw UsageError(fmt::format("{} lamps; at least 1", search.most));
  const int w = picture.width();
  const int h = picture.height();
  const auto bright = [&](int x, int y) {
    const Rgba& p = picture.at(x, y);
    return static_cast<double>(std::max({p[0], p[1], p[2]})) > search.from;
  };
  std::vector<char> seen(picture.pixels().size(), 0);
  FoundLamps out;
  std::vector<std::array<int, 2>> open;
  double all = 0.0;
  for (int y0 = 0; y0 < h; ++y0) {
    for (int x0 = 0; x0 < w; ++x0) {
      const std::size_t first = to_size(y0) * to_size(w) + to_size(x0);
      if (seen[first] != 0 || !bright(x0, y0)) continue;
      FlareLamp lamp;
      double weight = 0.0;
      seen[first] = 1;
      open.assign(1, {x0, y0});
      while (!open.empty()) {
        const auto [x, y] = open.back();
        open.pop_back();
        const Rgba& p = picture.at(x, y);
        const auto l = static_cast<double>(p[0] + p[1] + p[2]);
        for (std::size_t c = 0; c < 3; ++c) {
          lamp.light[c] += static_cast<double>(std::max(p[c], 0.0F));
        }
        lamp.x += l * (x + 0.5);
        lamp.y += l * (y + 0.5);
        weight += l;
        for (int v = std::max(0, y - 1); v <= std::min(h - 1, y + 1); ++v) {
          for (int u = std::max(0, x - 1); u <= std::min(w - 1, x + 1); ++u) {
            // Of what lies in the same part of the picture alone: a large one is several.
            if (u / largest_lamp != x0 / largest_lamp || v / largest_lamp != y0 / largest_lamp) {
              continue;
            }
            const std::size_t k = to_size(v) * to_size(w) + to_size(u);
            if (seen[k] != 0 || !bright(u, v)) continue;
            seen[k] = 1;
            open.push_back({u, v});
          }
        }
      }
      lamp.x /= weight;
      lamp.y /= weight;
      all += mean_of(lamp.light);
      out.lamps.push_back(lamp);
    }
  }
  std::stable_sort(out.lamps.begin(), out.lamps.end(), [](const FlareLamp& a, const FlareLamp& b) {
    return mean_of(a.light) > mean_of(b.light);
  });
  out.all = out.lamps.size();
  if (out.lamps.size() > to_size(search.most)) out.lamps.resize(to_size(search.most));
  double kept = 0.0;
  for (const FlareLamp& l : out.lamps) kept += mean_of(l.light);
  if (all > 0.0) out.share = kept / all;
  return out;
}

Flare flare_of(const Picture& picture, const std::vector<FlareLamp>& lamps,
               const VirtualCamera& camera, const GlassCamera& glass, const GhostLight& ghosts,
               const FlareSettings& settings) {
  check(settings);
  require_finite(picture);
  const PixelSize size = picture.size();
  require_memory((16.0 * (2.0 + settings.layers) + 16.0) * size.width * size.height,
                 fmt::format("ghosts over {} x {} pixels", size.width, size.height));
  Flare out;
  out.added = Picture(size, {0, 0, 0, 0});
  out.paths = ghosts.paths().size();
  with_threads(settings.execution.threads, [&] {
    const GhostDrawing drawing(picture, camera, glass, ghosts, settings);
    std::vector<GhostLamp> seen;
    double own = 0.0;
    for (const FlareLamp& l : lamps) {
      if (const auto lamp = drawing.lamp(l)) {
        seen.push_back(*lamp);
        own += mean_of(lamp->light);
        continue;
      }
      out.notes.push_back(fmt::format(
          "the lamp at {:.0f}, {:.0f} px is left out: the glass hardly lights that place, so what "
          "it had before is not known",
          l.x, l.y));
    }
    if (seen.empty() || !(own > 0.0)) return;
    // What each pair holds, by fewer rays.
    std::vector<double> holds(ghosts.paths().size());
    parallel_for(std::size_t{0}, holds.size(), [&](std::size_t k) {
      for (const GhostLamp& lamp : seen) {
        for (std::size_t c = 0; c < 3; ++c) {
          holds[k] += drawing.follow(ghosts.paths()[k], lamp, c, weighing_side, nullptr).all / 3.0;
        }
      }
    });
    settings.execution.tell(0.25);
    std::vector<std::size_t> order(holds.size());
    std::iota(order.begin(), order.end(), std::size_t{0});
    std::stable_sort(order.begin(), order.end(),
                     [&](std::size_t a, std::size_t b) { return holds[a] > holds[b]; });
    const double all = std::accumulate(holds.begin(), holds.end(), 0.0);
    double held = 0.0;
    std::size_t drawn = 0;
    while (drawn < order.size() && holds[order[drawn]] > 0.0 && held < settings.hold * all) {
      held += holds[order[drawn++]];
    }
    order.resize(drawn);
    std::vector<Sums> sums(drawn);
    const std::size_t apart = std::min(drawn, to_size(settings.layers));
    for (std::size_t k = 0; k < apart; ++k) out.layers.emplace_back(size, Rgba{0, 0, 0, 0});
    // The three colours side by side, and the pairs of each one after the other: a raster a colour.
    std::array<FineAreaRaster, 3> rasters;
    std::vector<std::array<std::vector<Sums>, 3>> by_colour(drawn);  // and by lamp
    const auto draw = [&](std::size_t k, std::size_t c, FineAreaRaster& on) {
      for (const GhostLamp& lamp : seen) {
        by_colour[k][c].push_back(
            drawing.follow(ghosts.paths()[order[k]], lamp, c, settings.side, &on));
      }
    };
    for (std::size_t k = 0; k < apart; ++k) {
      settings.execution.tell(0.25 + 0.5 * static_cast<double>(k) / static_cast<double>(drawn));
      for (std::size_t c = 0; c < 3; ++c) rasters[c].start(size.width, size.height);
      parallel_for(std::size_t{0}, std::size_t{3}, [&](std::size_t c) { draw(k, c, rasters[c]); });
      for (std::size_t c = 0; c < 3; ++c) add_raster(rasters[c], c, out.layers[k]);
      for (std::size_t i = 0; i < out.added.pixels().size(); ++i) {
        for (std::size_t c = 0; c < 3; ++c) {
          out.added.pixels()[i][c] += out.layers[k].pixels()[i][c];
        }
      }
    }
    for (std::size_t c = 0; c < 3; ++c) rasters[c].start(size.width, size.height);
    // Even and odd pairs apart, so that two cores share a colour's work evenly.
    std::array<FineAreaRaster, 3> others;
    for (std::size_t c = 0; c < 3; ++c) others[c].start(size.width, size.height);
    parallel_for(std::size_t{0}, std::size_t{6}, [&](std::size_t part) {
      const std::size_t c = part / 2;
      FineAreaRaster& on = part % 2 == 0 ? rasters[c] : others[c];
      for (std::size_t k = apart + part % 2; k < drawn; k += 2) {
        settings.execution.check();
        draw(k, c, on);
      }
    });
    for (std::size_t c = 0; c < 3; ++c) {
      add_raster(rasters[c], c, out.added);
      add_raster(others[c], c, out.added);
    }
    for (std::size_t k = 0; k < drawn; ++k) {
      Ghost g;
      g.path = ghosts.paths()[order[k]];
      for (std::size_t l = 0; l < seen.size(); ++l) {
        Sums sum;
        for (std::size_t c = 0; c < 3; ++c) sum.add(by_colour[k][c][l]);
        const double light = sum.all / 3.0 / own;
        g.light += light;
        if (wide(sum) > veil_heights * size.height) out.veil += light;
        if (l > 0 || !(sum.all > 0.0)) continue;
        g.x = sum.x / sum.all;
        g.y = sum.y / sum.all;
        g.size_px = wide(sum);
        g.peak = sum.peak;
      }
      out.light += g.light;
      out.ghosts.push_back(g);
    }
    settings.execution.tell(1.0);
  });
  return out;
}

}  // namespace jolly_iris
