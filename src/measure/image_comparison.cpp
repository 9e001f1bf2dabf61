#include "jolly_iris/measure/image_comparison.hpp"

#include <fmt/format.h>
#include <tbb/parallel_for.h>

#include <algorithm>
#include <cmath>

#include "common_ratio.hpp"
#include "grey_image.hpp"
#include "jolly_iris/measure/edge_blur.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/picture/psnr.hpp"
#include "jolly_iris/picture/region_light.hpp"
#include "jolly_iris/picture/warp.hpp"
#include "left_over.hpp"
#include "measure/constants.hpp"
#include "plate_clip.hpp"
#include "robust_mean.hpp"

namespace jolly_iris {

namespace {

namespace likeness = measuring::likeness;

// Means over what neither picture clips, where both have light.
std::vector<RegionPair> grid_of(const Picture& plate, const Picture& cg, const Box& part,
                                float clip) {
  std::vector<RegionPair> pairs;
  for (int row = 0; row < likeness::grid_rows; ++row) {
    for (int column = 0; column < likeness::grid_columns; ++column) {
      const int x0 = part.x + column * part.width / likeness::grid_columns;
      const int x1 = part.x + (column + 1) * part.width / likeness::grid_columns;
      const int y0 = part.y + row * part.height / likeness::grid_rows;
      const int y1 = part.y + (row + 1) * part.height / likeness::grid_rows;
      std::array<double, 3> a{};
      std::array<double, 3> b{};
      std::size_t count = 0;
      for (int y = y0; y < y1; ++y) {
        for (int x = x0; x < x1; ++x) {
          const Rgba& p = plate.at(x, y);
          const Rgba& q = cg.at(x, y);
          if (std::max({p[0], p[1], p[2], q[0], q[1], q[2]}) > 0.8F * clip) continue;
          for (std::size_t c = 0; c < 3; ++c) {
            a[c] += static_cast<double>(p[c]);
            b[c] += static_cast<double>(q[c]);
          }
          ++count;
        }
      }
      if (5 * count < static_cast<std::size_t>((x1 - x0) * (y1 - y0))) continue;
      const auto n = static_cast<double>(count);
      RegionPair pair{fmt::format("row {}, column {}", row + 1, column + 1), {}, {}};
      bool dark = false;
      for (std::size_t c = 0; c < 3; ++c) {
        pair.plate[c] = a[c] / n;
        pair.cg[c] = b[c] / n;
        dark = dark || !(pair.plate[c] > 1e-4) || !(pair.cg[c] > 1e-4);
      }
      if (!dark) pairs.push_back(pair);
    }
  }
  return pairs;
}

std::vector<RegionPair> regions_of(const Picture& plate, const Picture& cg,
                                   const ImageComparisonSettings& settings, double to_size) {
  std::vector<RegionPair> pairs;
  for (std::size_t i = 0; i < settings.regions.size(); ++i) {
    const Box& b = settings.regions[i];
    Box box{static_cast<int>(b.x * to_size), static_cast<int>(b.y * to_size),
            std::max(1, static_cast<int>(b.width * to_size)),
            std::max(1, static_cast<int>(b.height * to_size))};
    pairs.push_back({fmt::format("region {}", i + 1),
                     light_of_region(plate, box, settings.primaries).mean,
                     light_of_region(cg, box, settings.primaries).mean});
  }
  return pairs;
}

// Deviation of a pixel from the middle of its neighbours, as a share of its light, where the
// picture is quietest.
double grain_of(const Picture& p) {
  std::vector<double> off;
  const auto light = [&](int x, int y) {
    const Rgba& c = p.at(x, y);
    return static_cast<double>(c[0] + c[1] + c[2]) / 3.0;
  };
  for (int y = 1; y < p.height() - 1; y += 2) {
    for (int x = 1; x < p.width() - 1; x += 2) {
      const double around =
          0.25 * (light(x - 1, y) + light(x + 1, y) + light(x, y - 1) + light(x, y + 1));
      if (around < 0.01 || around > 0.7) continue;
      off.push_back(std::abs(light(x, y) - around) / around);
    }
  }
  // Of a bell, four tenths lie within 0.524 deviations; the neighbours' mean has noise of its own.
  return off.size() < 100 ? 0.0 : quantile(off, 0.4) / 0.524 / std::sqrt(1.25);
}

// What all pairs say together; of fewer than two, nothing.
template <class Value>
Measured together(const std::vector<DiscPair>& pairs, const Value& value) {
  std::vector<Measured> all;
  for (const DiscPair& p : pairs) {
    const Measured m = value(p);
    if (m.margin > 0.0) all.push_back(m);
  }
  return all.size() < 2 ? Measured{} : measuring::robust_mean(std::move(all), 0.3);
}

void pair_discs(ImageComparison& out) {
  for (const PlateDisc& p : out.plate_discs.discs) {
    const PlateDisc* best = nullptr;
    double nearest = likeness::one_place * p.height_px.value;
    for (const PlateDisc& c : out.cg_discs.discs) {
      const double apart = std::hypot(p.at[0] - c.at[0], p.at[1] - c.at[1]);
      if (apart >= nearest) continue;
      nearest = apart;
      best = &c;
    }
    if (best == nullptr || p.outlier || best->outlier) continue;
    DiscPair pair{p, *best, std::log(best->height_px.value / p.height_px.value), 0.0};
    const auto own = [](const PlateDisc& d) {
      const double margin2 = d.height_px.margin * d.height_px.margin - d.common_px * d.common_px;
      return 0.5 * std::sqrt(std::max(margin2, 0.0)) / d.height_px.value;
    };
    pair.sigma = std::hypot(own(p), own(*best));
    out.discs.push_back(pair);
  }
  const std::vector<DiscPair>& all = out.discs;
  const Measured larger = measuring::common_ratio(all);
  // What is off of all discs of a picture alike no number of pairs makes smaller.
  std::vector<double> common;
  for (const DiscPair& p : all) {
    common.push_back(std::hypot(p.plate.common_px, p.cg.common_px) / p.plate.height_px.value);
  }
  out.larger = {std::expm1(larger.value), larger.margin};
  // Nor what two outlines make of one size, where only one picture tells its blades.
  const PlateIris& iris = out.plate_discs.iris;
  const PlateIris& cg_iris = out.cg_discs.iris;
  const bool one_outline = iris.known == cg_iris.known && iris.blades == cg_iris.blades;
  const double outlines = one_outline ? 0.0 : 2.0 * measuring::ratios::other_outline;
  if (larger.margin > 0.0) {
    out.larger.margin = std::hypot(larger.margin, quantile(common, 0.5), outlines);
  }
  out.higher = together(all, [](const DiscPair& p) {
    const double a = std::log(p.cg.height_px.value / p.cg.width_px.value);
    const double b = std::log(p.plate.height_px.value / p.plate.width_px.value);
    return Measured{a - b, 1.4 * p.sigma};
  });
  const auto whole = [](const DiscPair& p) { return !p.plate.clipped && !p.cg.clipped; };
  out.edge_falloff_stops = together(all, [&](const DiscPair& p) {
    return Measured{p.cg.edge_falloff_stops - p.plate.edge_falloff_stops, whole(p) ? 0.15 : 0.0};
  });
  out.red_px = together(all, [&](const DiscPair& p) {
    return Measured{p.cg.fringe_px[0] - p.plate.fringe_px[0], whole(p) ? 0.1 : 0.0};
  });
  out.blue_px = together(all, [&](const DiscPair& p) {
    return Measured{p.cg.fringe_px[1] - p.plate.fringe_px[1], whole(p) ? 0.1 : 0.0};
  });
}

// By how much CG's iris is turned, as the discs of both show it. A picture's own discs are upright
// or turned by what most of them are, so one that the other shows the other way up is turned by
// half a blade in one of the two numbers.
Measured turned(const ImageComparison& like) {
  const PlateIris& p = like.plate_discs.iris;
  const PlateIris& c = like.cg_discs.iris;
  if (!p.sure() || !c.sure() || p.blades != c.blades || p.blades == 0) return {};
  if (!(p.rotation_deg.margin > 0.0) || !(c.rotation_deg.margin > 0.0)) return {};
  double off = c.rotation_deg.value - p.rotation_deg.value;
  if (p.blades % 2 == 1) {
    int same = 0;
    int opposite = 0;
    for (const DiscPair& d : like.discs) {
      if (d.plate.facing == Facing::unknown || d.cg.facing == Facing::unknown) continue;
      (d.plate.facing == d.cg.facing ? same : opposite) += 1;
    }
    if (same == opposite) return {};  // no pair tells
    if (opposite > same) off += 180.0 / p.blades;
  }
  return {std::remainder(off, 360.0 / p.blades),
          std::hypot(p.rotation_deg.margin, c.rotation_deg.margin)};
}

// Axial distance of the nearer side of an edge.
std::optional<Length> distance_at(const Frame& cg, const std::array<double, 2>& at, double to_cg) {
  if (!cg.has_depth()) return std::nullopt;
  const int w = cg.colour.width();
  const int h = cg.colour.height();
  const int x = static_cast<int>(at[0] * to_cg);
  const int y = static_cast<int>(at[1] * to_cg);
  float nearest = std::numeric_limits<float>::infinity();
  for (int v = std::max(0, y - 2); v <= std::min(h - 1, y + 2); ++v) {
    for (int u = std::max(0, x - 2); u <= std::min(w - 1, x + 2); ++u) {
      nearest =
          std::min(nearest, cg.depth[static_cast<std::size_t>(v) * static_cast<std::size_t>(w) +
                                     static_cast<std::size_t>(u)]);
    }
  }
  if (!std::isfinite(nearest) || !(nearest > 0.0F)) return std::nullopt;
  return Length::from_m(static_cast<double>(nearest));
}

bool within(const Box& box, const std::array<double, 2>& at) {
  return at[0] >= box.x && at[1] >= box.y && at[0] < box.x + box.width &&
         at[1] < box.y + box.height;
}

void pair_edges(const Picture& plate, const Picture& cg, const Frame& with_depth, const Box& part,
                ImageComparison& out) {
  const std::vector<EdgeBlur> edges = edge_blurs(plate);
  // Both from the same place and direction: a picture against itself has no other blur.
  const auto there = same_edges(plate, edges);
  const auto same = same_edges(cg, edges);
  const double to_cg = static_cast<double>(with_depth.colour.width()) / plate.width();
  for (std::size_t i = 0; i < edges.size(); ++i) {
    if (!there[i] || !same[i] || !within(part, edges[i].at)) continue;
    out.edges.push_back({edges[i].at, there[i]->width_px, same[i]->width_px,
                         distance_at(with_depth, edges[i].at, to_cg)});
  }
}

Picture times(const Picture& p, const Rgb& factors) {
  Picture out = p;
  for (Rgba& c : out.pixels()) {
    for (std::size_t k = 0; k < 3; ++k) c[k] = static_cast<float>(factors[k]) * c[k];
  }
  return out;
}

Picture clipped(Picture p, float at) {
  for (Rgba& c : p.pixels()) {
    for (std::size_t k = 0; k < 3; ++k) c[k] = std::min(c[k], at);
  }
  return p;
}

// The box that was asked for, in px of the compared size; else all.
Box part_of(const ImageComparisonSettings& settings, PixelSize plate, PixelSize size,
            double to_size) {
  if (!settings.box) return {0, 0, size.width, size.height};
  require_within(*settings.box, plate);
  const auto scaled = [&](int v) { return static_cast<int>(std::lround(v * to_size)); };
  Box part{scaled(settings.box->x), scaled(settings.box->y),
           std::max(1, scaled(settings.box->width)), std::max(1, scaled(settings.box->height))};
  part.width = std::min(part.width, size.width - part.x);
  part.height = std::min(part.height, size.height - part.y);
  return part;
}

// Places of a part, as places of the whole.
LeftOver left_in(const Picture& plate, const Picture& cg, const Box& part,
                 std::vector<DiscPair> discs) {
  for (DiscPair& d : discs) {
    d.plate.at[0] -= part.x;
    d.plate.at[1] -= part.y;
  }
  LeftOver left = measuring::left_over(plate, cg, discs);
  for (DifferingPlace& p : left.places) {
    p.box.x += part.x;
    p.box.y += part.y;
  }
  return left;
}

void check(const Picture& plate, const Picture& cg) {
  if (plate.empty() || cg.empty()) throw PictureError("one of the pictures has no pixels");
  const double a = static_cast<double>(plate.width()) / plate.height();
  const double b = static_cast<double>(cg.width()) / cg.height();
  if (std::abs(a / b - 1.0) > 0.01) {
    throw UsageError(fmt::format(
        "the plate is {} x {} px and CG is {} x {}: pictures of one framing have one shape. If one "
        "of them is still squeezed, desqueeze it first; if it has a margin, cut it off",
        plate.width(), plate.height(), cg.width(), cg.height()));
  }
}

}  // namespace

SameSizePair of_one_size(const Picture& plate, const Picture& cg) {
  check(plate, cg);
  const int width = std::min(plate.width(), cg.width());
  SameSizePair out{shrunk(plate, width), shrunk(cg, width), {}};
  // Shapes agree to a hundredth; a row more or less is cut off.
  const int height = std::min(out.plate.height(), out.cg.height());
  const Box all{0, 0, width, height};
  if (out.plate.height() != height) out.plate = crop({out.plate, {}}, all).colour;
  if (out.cg.height() != height) out.cg = crop({out.cg, {}}, all).colour;
  return out;
}

ImageComparison compare_images(const Picture& plate, const Frame& cg,
                               const ImageComparisonSettings& settings) {
  SameSizePair both = of_one_size(plate, cg.colour);
  for (const Picture* p : {&both.plate, &both.cg}) {
    for (int y = 0; y < p->height(); ++y) {
      for (int x = 0; x < p->width(); ++x) {
        const Rgba& c = p->at(x, y);
        if (std::isfinite(c[0] + c[1] + c[2])) continue;
        throw PictureError(fmt::format("{} holds a value that is no light at pixel {}, {}",
                                       p == &both.cg ? "CG" : "the plate", x, y));
      }
    }
  }
  ImageComparison out;
  out.size = both.plate.size();
  const double to_size = static_cast<double>(out.size.width) / plate.width();
  const std::optional<float> clip = measuring::plate_clip(both.plate);
  out.part = part_of(settings, plate.size(), out.size, to_size);
  const Box& part = out.part;
  const auto cut = [&](const Picture& p) { return settings.box ? crop({p, {}}, part).colour : p; };
  const Picture plate_part = cut(both.plate);
  out.psnr_db = psnr(plate_part, cut(both.cg));
  const std::vector<RegionPair> regions =
      settings.regions.empty() ? grid_of(both.plate, both.cg, part, clip.value_or(1.0F))
                               : regions_of(both.plate, both.cg, settings, to_size);
  if (!regions.empty()) out.light = match_to_plate(regions, settings.primaries);
  // What regions contradict each other about is no change for all.
  Picture lit = out.light.contradict ? both.cg : times(both.cg, out.light.factors);
  if (clip) lit = clipped(std::move(lit), *clip);
  const Picture lit_part = cut(lit);
  out.psnr_lit_db = psnr(plate_part, lit_part);
  DiscHints hints = settings.hints;
  for (DrawnLamp& lamp : hints.lamps) {
    for (double& v : lamp.at) v *= to_size;
    if (lamp.diameter) *lamp.diameter *= to_size;
  }
  if (settings.box) hints.boxes = {part};
  const DiscSettings discs{.min_px = settings.min_px,
                           .execution = settings.execution.part(0.0, 0.5)};
  out.plate_discs = discs_in_plate(both.plate, hints, discs);
  // Where the plate has a disc CG may have one that is smaller than what is looked for.
  DiscHints seen;
  seen.boxes = hints.boxes;
  for (const PlateDisc& d : out.plate_discs.discs) seen.lamps.push_back({d.at, {}, ""});
  out.cg_discs = discs_in_plate(
      lit, seen,
      {.min_px = likeness::smallest_px, .execution = settings.execution.part(0.5, 0.95)});
  pair_discs(out);
  out.turned_deg = turned(out);
  pair_edges(both.plate, lit, cg, part, out);
  settings.execution.check();
  out.plate_grain = grain_of(plate_part);
  out.cg_grain = grain_of(lit_part);
  out.left = left_in(plate_part, lit_part, part, out.discs);
  out.view_likeness = measuring::view_likeness(plate_part, lit_part);
  out.same_view = !out.view_likeness || *out.view_likeness > measuring::view::another ||
                  out.discs.size() >= measuring::view::enough_pairs;
  return out;
}

}  // namespace jolly_iris
