#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <numbers>

#include "disc_size.hpp"
#include "fit_in_turns.hpp"
#include "iris_evidence.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/optics/memory.hpp"
#include "measure/constants.hpp"
#include "picture/parallel.hpp"
#include "plate_clip.hpp"
#include "plate_look.hpp"
#include "plate_search.hpp"
#include "rejection.hpp"

namespace jolly_iris {

using namespace measuring;

namespace {

using std::numbers::pi;

void check(const Picture& plate, const DiscHints& hints, const DiscSettings& settings) {
  if (plate.width() < 24 || plate.height() < 24) {
    throw PictureError(
        fmt::format("the plate is {} x {} px; discs are looked for in pictures of 24 "
                    "px or more on each side",
                    plate.width(), plate.height()));
  }
  if (!(settings.min_px >= 8.0) || !std::isfinite(settings.min_px)) {
    throw UsageError(
        fmt::format("the smallest disc is {:g} px; it is 8 px or more: smaller ones "
                    "have no shape",
                    settings.min_px));
  }
  if (!(settings.max_px == 0.0 || settings.max_px > settings.min_px)) {
    throw UsageError(fmt::format("the largest disc is {:g} px, and the smallest {:g} px",
                                 settings.max_px, settings.min_px));
  }
  for (const DrawnLamp& lamp : hints.lamps) {
    if (lamp.at[0] >= 0.0 && lamp.at[1] >= 0.0 && lamp.at[0] < plate.width() &&
        lamp.at[1] < plate.height()) {
      continue;
    }
    throw UsageError(fmt::format("the lamp drawn at {:g}, {:g} is outside the plate of {} x {} px",
                                 lamp.at[0], lamp.at[1], plate.width(), plate.height()));
  }
  if (settings.look && settings.look->size != plate.size()) {
    throw UsageError(fmt::format(
        "edges are known of plates of {} x {} px, and this one has {} x {}",
        settings.look->size.width, settings.look->size.height, plate.width(), plate.height()));
  }
  for (const Box& box : hints.boxes) require_within(box, plate.size());
  parallel_for(0, plate.height(), [&](int y) {
    for (int x = 0; x < plate.width(); ++x) {
      const Rgba& p = plate.at(x, y);
      if (std::isfinite(p[0] + p[1] + p[2])) continue;
      throw PictureError(
          fmt::format("the plate holds a value that is no light at pixel {}, {}", x, y));
    }
  });
}

// One for each place, and none where a disc was found after all.
std::vector<RejectedDisc> thinned(const std::vector<RejectedDisc>& all,
                                  const std::vector<PlateDisc>& discs) {
  std::vector<RejectedDisc> kept;
  const auto near = [](const std::array<double, 2>& a, const std::array<double, 2>& b, double px) {
    return std::hypot(a[0] - b[0], a[1] - b[1]) < px;
  };
  for (const RejectedDisc& r : all) {
    const bool known = std::any_of(discs.begin(), discs.end(),
                                   [&](const PlateDisc& d) {
                                     return near(d.at, r.at, 0.7 * d.height_px.value);
                                   }) ||
                       std::any_of(kept.begin(), kept.end(), [&](const RejectedDisc& k) {
                         return near(k.at, r.at, 0.7 * std::max(k.diameter_px, r.diameter_px));
                       });
    if (!known) kept.push_back(r);
  }
  return kept;
}

// Where discs are looked for, and which of them hints have named.
std::vector<DiscItem> items_of(const PlateSearch& search) {
  std::vector<DiscItem> items;
  const auto add = [&](const DetectedDisc& s) {
    DiscItem item;
    item.start.x = s.disc.x;
    item.start.y = s.disc.y;
    item.start.height = 2.0 * s.disc.radius;
    item.start.aspect = s.disc.aspect;
    item.seen = item.start;
    item.name = s.name;
    items.push_back(item);
  };
  for (const DetectedDisc& s : search.seen) add(s);
  for (const DetectedDisc& s : search.hinted) {
    const auto same = std::find_if(items.begin(), items.end(), [&](const DiscItem& i) {
      return std::hypot(i.start.x - s.disc.x, i.start.y - s.disc.y) < 0.4 * i.start.height;
    });
    if (same != items.end()) {
      same->name = s.name;
    } else {
      add(s);
    }
  }
  return items;
}

// For other frames, where enough discs tell it.
std::shared_ptr<const PlateLook> look_of(const Fitted& fitted, PixelSize size) {
  constexpr std::size_t enough = 3;
  if (fitted.items.size() < enough || !fitted.iris.known) return nullptr;
  auto out = std::make_shared<PlateLook>();
  out->size = size;
  out->kernels = fitted.kernels;
  out->iris = {fitted.iris, fitted.shape};
  out->vignetting = fitted.vignetting.vignetting.known;
  out->discs = fitted.items.size();
  std::vector<double> aspects;
  for (const DiscItem& i : fitted.items) aspects.push_back(i.fit.disc.aspect);
  out->aspect = quantile(aspects, 0.5);
  return out;
}

}  // namespace

FoundDiscs discs_in_plate(const Picture& plate, const DiscHints& hints,
                          const DiscSettings& settings) {
  FoundDiscs found;
  with_threads(settings.execution.threads, [&] {
    check(plate, hints, settings);
    // The plate, its light, and what votes for discs; measured.
    require_memory(
        36.0 * plate.width() * plate.height(),
        fmt::format("measuring a picture of {} x {} pixels", plate.width(), plate.height()));
    found.clipped_at = settings.clipped_at;
    if (const auto clip = plate_clip(plate); clip && !found.clipped_at) found.clipped_at = *clip;
    const PlateSearch search = search_plate(plate, hints, settings);
    settings.execution.tell(0.3);
    found.rejected = search.rejected;
    found.noise = search.noise;
    const Fitted fitted = fit_in_turns(plate, items_of(search), found.clipped_at, found.rejected,
                                       settings.look.get(), settings.execution.part(0.3, 1.0));
    found.iris = fitted.iris;
    found.look = look_of(fitted, plate.size());
    doubt_iris(fitted.items, found.iris);
    const Rejection rejection(plate, found.clipped_at, fitted.items, fitted.pooled,
                              fitted.doubt.kernel_px);
    std::vector<double> heights;
    for (const PooledDisc& p : fitted.pooled) heights.push_back(p.height);
    const double from_px = shape_from_px(heights);
    std::vector<DiscItem> accepted;
    std::vector<PooledDisc> outlines;
    int others = 0;
    for (std::size_t i = 0; i < fitted.items.size(); ++i) {
      const DiscItem& item = fitted.items[i];
      const std::string_view why = rejection.why(i);
      if (!why.empty()) {
        const DrawnDisc& d = item.fit.good ? item.fit.disc : item.start;
        found.rejected.push_back({{d.x, d.y}, d.height, std::string(why)});
        const bool outline = why == Rejection::other_outline || why == Rejection::hardly_fits;
        others += outline && d.height >= from_px ? 1 : 0;
        continue;
      }
      found.discs.push_back(plate_disc(item, fitted.pooled[i], fitted.doubt));
      accepted.push_back(item);
      outlines.push_back(fitted.pooled[i]);
      // Which side of the focus a disc is on shows in which side of it the barrel cuts.
      if (!fitted.vignetting.vignetting.known) continue;
      PlateDisc& disc = found.discs.back();
      disc.cut = std::max(disc.cut, hidden_of(item.fit.disc, fitted.shape));
      // Two rims cut both sides, and tell neither.
      if (fitted.vignetting.determined[i] && !fitted.vignetting.vignetting.unexplained) {
        disc.facing = fitted.vignetting.in_front[i] ? Facing::turned : Facing::upright;
        disc.side_known = true;
      }
    }
    found.vignetting = fitted.vignetting.vignetting;
    int cut = 0;  // of those that are told
    for (const PlateDisc& d : found.discs) cut += d.cut > 0.0 ? 1 : 0;
    if (cut < tube_rim::min_cut) found.vignetting = {};
    if (PlateVignetting& v = found.vignetting; v.unexplained) {
      v.known = false;
      v.radius = v.shift = {};
    }
    found.iris.height_over_width = common_shape(accepted, fitted.doubt);
    weigh_evidence(found.discs, outlines, others, from_px, found.iris);
    found.iris.edge_falloff_stops = common_falloff(accepted);
    std::sort(found.discs.begin(), found.discs.end(), [](const PlateDisc& a, const PlateDisc& b) {
      return a.height_px.value > b.height_px.value;
    });
    found.rejected = thinned(found.rejected, found.discs);
  });
  return found;
}

std::vector<std::array<double, 2>> outline_of(const PlateDisc& disc, const PlateIris& iris) {
  const BladeShape shape(iris.blades, iris.curvature.value, iris.rotation_deg.value * pi / 180.0);
  const double sign = disc.facing == Facing::turned ? -0.5 : 0.5;
  std::vector<std::array<double, 2>> out;
  constexpr int corners = 180;
  for (int i = 0; i < corners; ++i) {
    const double a = 2.0 * pi * i / corners;
    const double r = sign * shape.radius(a);
    out.push_back({disc.at[0] + r * disc.width_px.value * std::cos(a),
                   disc.at[1] - r * disc.height_px.value * std::sin(a)});
  }
  return out;
}

}  // namespace jolly_iris
