#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <functional>
#include <numbers>

#include "codec_step.hpp"
#include "fit_together.hpp"
#include "grey_image.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "kernel_choice.hpp"
#include "measure/constants.hpp"
#include "picture/parallel.hpp"
#include "plate_clip.hpp"
#include "plate_iris.hpp"
#include "plate_search.hpp"
#include "plate_vignetting.hpp"
#include "population.hpp"
#include "rejection.hpp"
#include "robust_mean.hpp"

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

// What all discs say together.
template <class What>
Measured common(const std::vector<DiscItem>& items, const What& what) {
  std::vector<Measured> all;
  for (const DiscItem& i : items) {
    if (i.fit.good) all.push_back(what(i.fit));
  }
  return robust_mean(std::move(all), 0.2);
}

// However many discs agree, an outline is known to a part of a pixel: codecs and clipping shift all
// of them alike. An edge's sagitta, r (1 − cos π/n) if it is straight, is what curvature is read
// from.
void doubt_curvature(const std::vector<DiscItem>& items, PlateIris& iris) {
  if (!iris.known || iris.blades < 3) return;
  std::vector<double> radius;
  std::size_t clipped = 0;
  for (const DiscItem& i : items) {
    if (!i.fit.good) continue;
    radius.push_back(0.5 * i.fit.disc.height);
    clipped += i.fit.clipped() ? 1U : 0U;
  }
  if (radius.empty()) return;
  double off = together::outline_px;
  if (2 * clipped > radius.size()) {
    off =
        std::hypot(together::outline_px_clipped, together::clipped_beside * usual_disc(items).soft);
  }
  // The larger ones tell most.
  const double sagitta = quantile(radius, 0.75) * (1.0 - std::cos(pi / iris.blades));
  iris.curvature.margin = std::hypot(iris.curvature.margin, 2.0 * off / sagitta);
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

// All discs and the iris, in turns: each round knows the other's last answer.
// What a plate leaves open of all its discs' sizes.
struct SizeDoubt {
  double scatter = 1.0;    // as usual_scatter() has it
  double kernel_px = 0.0;  // deviation
  bool codec = false;
};

struct Fitted {
  std::vector<DiscItem> items{};
  std::vector<PooledDisc> pooled{};  // of each
  PlateIris iris{};
  BladeShape shape{};
  FoundVignetting vignetting{};
  SizeDoubt doubt{};
};

// The rim that the lens tube lays over each disc, from how all of them are cut.
void find_vignetting(PixelSize plate, const BladeShape& shape, Fitted& fitted,
                     std::vector<DiscItem>& items) {
  std::vector<const FittedDisc*> discs;
  for (const DiscItem& i : items) discs.push_back(&i.fit);
  const bool odd = fitted.iris.known && fitted.iris.blades % 2 == 1;
  fitted.vignetting = vignetting_of(discs, shape, odd, plate);
  if (!fitted.vignetting.vignetting.known) return;
  for (std::size_t i = 0; i < items.size(); ++i) {
    lay_over(fitted.vignetting.vignetting, fitted.vignetting.in_front[i], plate, items[i].start);
  }
}

// What is 1 where nothing is clipped: a little brighter than the lamps are, so that noise is even.
double white_of(const Picture& plate, const std::vector<DiscItem>& items) {
  std::vector<double> lamps;
  for (const DiscItem& i : items) {
    const int x = std::clamp(static_cast<int>(i.start.x), 0, plate.width() - 1);
    const int y = std::clamp(static_cast<int>(i.start.y), 0, plate.height() - 1);
    const Rgba& p = plate.at(x, y);
    lamps.push_back(static_cast<double>(std::max({p[0], p[1], p[2]})));
  }
  const double bright = lamps.empty() ? 0.0 : quantile(lamps, 0.9);
  return bright > 0.0 ? 1.25 * bright : 1.0;
}

// By how much the iris may still change: of large discs that moves edges by more.
double settled_curvature(const std::vector<DiscItem>& items) {
  std::vector<double> radii;
  for (const DiscItem& i : items) radii.push_back(0.5 * i.fit.disc.height);
  const double usual = quantile(radii, 0.5);
  return together::settled_curvature * std::min(1.0, together::usual_radius_px / usual);
}

Fitted fit_in_turns(const Picture& plate, std::vector<DiscItem> items,
                    std::optional<double> clipped_at, std::vector<RejectedDisc>& rejected,
                    const Execution& execution) {
  FitSettings fit{.look = LumaModel(clipped_at, white_of(plate, items)), .stop = execution.stop};
  fit.codec = codec::off / 255.0 * codec_step(plate) /
              LumaModel({}, 1.0).coded(std::max(fit.look.white(), 1e-3));
  const GreyImage seen = fit.look.of(plate);
  BladeShape shape;
  Fitted out;
  fit_together(plate, seen, items, shape, fit, {.with_others = false});
  // Where a barrel cuts discs, they are seen whole only once it is known: one more round.
  int last = 2;
  for (int round = 0; round <= last; ++round) {
    std::erase_if(items, [&](const DiscItem& i) {
      const bool tile = i.fit.good && i.name.empty() && has_four_sides(i.fit.profile);
      if (i.fit.good && !tile) return false;
      rejected.push_back({{i.start.x, i.start.y},
                          i.start.height,
                          tile ? "it has four sides" : "no disc fits its pixels"});
      return true;
    });
    merge_duplicates(plate, fit.look, items);
    out.pooled.clear();
    // The first fits knew no iris: what they leave over would pass for softness.
    if (round > 0) {
      if (auto kernels = likely_kernels(items, fit.look); !kernels.empty()) {
        fit.kernels = std::move(kernels);
      }
    }
    for (const DiscItem& i : items) {
      PooledDisc d;
      d.profile = i.fit.profile;
      d.height = i.fit.disc.height;
      d.soft = i.fit.disc.soft;
      d.kernel = fit.edges().sigma_px();
      // As long as the shape is not known, what is left over is the shape.
      d.left_over = round == 0 ? 0.0 : i.fit.left_over;
      out.pooled.push_back(d);
    }
    const PlateIris before = out.iris;
    const PooledIris iris = pooled_iris(out.pooled);
    out.iris = iris.iris;
    shape = iris.shape;
    const bool settled =
        before.known && before.blades == out.iris.blades &&
        std::abs(before.curvature.value - out.iris.curvature.value) < settled_curvature(items);
    for (std::size_t i = 0; i < items.size(); ++i) {
      items[i].start = items[i].fit.disc;
      // Edges are told as the iris stands: what is turned against that is the other way up.
      items[i].start.turned = items[i].fit.disc.turned != out.pooled[i].turned;
    }
    if (round > 0) find_vignetting(plate.size(), shape, out, items);
    if (out.vignetting.vignetting.known) last = std::max(last, 3);
    // Edges are looked for near the outline that is known: of large discs with few blades, which
    // begin as circles, it takes some rounds to come near.
    // Where a barrel cuts them, sides would be told anew each time.
    if (round == last && out.iris.known && !settled && !out.vignetting.vignetting.known &&
        last < together::most_rounds) {
      ++last;
    }
    fit.lamp = usual_lamp(items, fit.edges().sigma_px());
    fit.rim = true;
    fit.again = true;
    fit.lights = round == last;
    fit.quick = round < last;
    fit_together(plate, seen, items, shape, fit,
                 {.afresh = round < 2, .alone_stay = round == 1 && settled && last == 2});
    execution.tell((round + 1.0) / (last + 1.0));
  }
  out.items = std::move(items);
  out.shape = shape;
  out.doubt = {usual_scatter(out.items), fit.edges().sigma_px(), fit.codec > 0.0};
  return out;
}

// A disc's size with all that leaves it open; `common` is what is off of all discs alike.
struct DiscSize {
  Measured height{};
  Measured width{};
  Measured high_over_wide{};
  double common = 0.0;     // of that, half a margin
  double common_px = 0.0;  // of the sizes, likewise
};
DiscSize size_of(const FittedDisc& f, const SizeDoubt& plate) {
  const DrawnDisc& d = f.disc;
  // What the drawing leaves over near the edge, beyond noise, is doubt of the edge's place.
  const double doubt = std::sqrt(plate.scatter) * std::max(1.0, f.left_over);
  const double height = doubt * f.height_sigma;
  const double aspect = doubt * f.aspect_sigma;
  // How far a bent edge's blur moves it is known to first order in softness over radius.
  const double bend = 0.5 * d.height * std::min(d.aspect * d.aspect, 1.0 / d.aspect);
  const double moves = d.soft * d.soft / bend * std::min(1.0, d.soft / bend);
  const double of_kernel =
      plate.codec ? together::clipped_of_kernel_codec : together::clipped_of_kernel;
  const double common =
      std::hypot(together::common_px, plate.codec ? together::common_px_codec : 0.0,
                 f.clipped() ? of_kernel * plate.kernel_px : 0.0);
  const double farther = std::hypot(std::hypot(f.lamp_sigma_px, f.kernel_sigma_px, common),
                                    std::hypot(moves, together::min_sigma_px));
  // What moves the edge as far in all directions changes the shape of an oval.
  const double a = d.aspect;
  const double shape = std::abs(1.0 - a) / (d.height * a * a);
  DiscSize out;
  out.height = {d.height, 2.0 * std::hypot(height, farther)};
  out.width = {d.height * a, 2.0 * std::hypot(height * a, aspect * d.height, farther)};
  out.high_over_wide = {1.0 / a, 2.0 * std::hypot(aspect / (a * a), shape * f.lamp_sigma_px)};
  // Lamps' sizes and brightnesses differ; what is believed of them beforehand is off for all.
  out.common_px = std::hypot(f.kernel_sigma_px, together::believed * f.lamp_sigma_px, common);
  out.common = shape * out.common_px;
  return out;
}

// How much higher than wide all of them are.
Measured common_shape(const std::vector<DiscItem>& items, const SizeDoubt& plate) {
  std::vector<double> off;
  for (const DiscItem& i : items) {
    if (i.fit.good) off.push_back(size_of(i.fit, plate).common);
  }
  Measured all = common(items, [&](const FittedDisc& f) {
    const Measured one = size_of(f, plate).high_over_wide;
    return Measured{one.value, 0.5 * one.margin};
  });
  if (!off.empty()) all.margin = std::hypot(all.margin, 2.0 * quantile(off, 0.5));
  return all;
}

PlateDisc plate_disc(const DiscItem& item, const PooledDisc& pooled, const SizeDoubt& plate) {
  const FittedDisc& f = item.fit;
  const DiscSize size = size_of(f, plate);
  PlateDisc d;
  d.name = item.name;
  d.at = {f.disc.x, f.disc.y};
  d.height_px = size.height;
  d.width_px = size.width;
  d.common_px = 2.0 * size.common_px;
  d.light = f.light;
  d.contrast = f.disc.contrast * (f.shares[0] + f.shares[1] + f.shares[2]) / 3.0;
  d.edge_sigma_px = f.disc.soft;
  d.edge_falloff_stops = f.disc.rim;
  d.clipped = f.clipped();
  d.fringe_px = f.fringe_px;
  d.cut = pooled.cut;
  d.residual = f.left_over;
  if (pooled.tells) d.facing = f.disc.turned ? Facing::turned : Facing::upright;
  d.outlier = f.left_over > together::max_left_over;
  if (d.outlier) d.why = "its edge is not that of one disc alone; something may overlap it";
  return d;
}

// Whether most of some values are about the same.
bool mostly_alike(const std::vector<double>& values) {
  const double usual = quantile(values, 0.5);
  const auto alike = std::count_if(values.begin(), values.end(), [&](double v) {
    return std::abs(v - usual) < iris::rows_alike * usual;
  });
  return 3 * alike > 2 * static_cast<std::ptrdiff_t>(values.size());
}

// Whether they are of one size and stand in rows at one distance, close by each other, as tiles and
// windows do.
bool stand_in_rows(const std::vector<PlateDisc>& discs) {
  std::vector<double> nearest;
  std::vector<double> heights;
  for (const PlateDisc& a : discs) {
    double least = std::numeric_limits<double>::infinity();
    for (const PlateDisc& b : discs) {
      if (&a == &b) continue;
      least = std::min(least, std::hypot(a.at[0] - b.at[0], a.at[1] - b.at[1]));
    }
    nearest.push_back(least);
    heights.push_back(std::max(a.height_px.value, a.width_px.value));
  }
  if (nearest.size() < 6) return false;
  return quantile(nearest, 0.5) < iris::rows_near * quantile(heights, 0.5) &&
         mostly_alike(nearest) && mostly_alike(heights);
}

// An iris is what discs share: whether enough of them do.
/// @param others what was refused for an outline of its own
void weigh_evidence(const std::vector<PlateDisc>& discs, const std::vector<PooledDisc>& pooled,
                    int others, double from_px, PlateIris& iris) {
  int could = others;
  int agree = 0;
  int for_it = 0;
  int against = 0;
  bool named = false;
  for (std::size_t i = 0; i < discs.size(); ++i) {
    if (discs[i].height_px.value < from_px) continue;
    ++could;
    // What is as soft as that is shaded, not lit evenly.
    const PooledDisc& p = pooled[i];
    const double lamp2 = p.soft * p.soft - p.kernel * p.kernel;
    const double largest = iris::largest_lamp * p.height;
    if (discs[i].outlier || p.agrees < iris::agrees || lamp2 > largest * largest) continue;
    ++agree;
    for_it += p.votes > iris::clear_vote ? 1 : 0;
    against += p.votes < -iris::clear_vote ? 1 : 0;
    named = named || !discs[i].name.empty();
  }
  iris.discs = agree;
  const bool rows = stand_in_rows(discs);
  const bool split = against > iris::contradict * (for_it + against) ||
                     (iris.blades > 0 && for_it < iris::enough_discs);
  const bool inward = iris.blades > 0 && iris.curvature.value < iris::most_inward;
  const int needed = from_px < iris::min_height ? iris::enough_small_discs : iris::enough_discs;
  const bool enough = agree >= needed && 2 * agree >= could;
  if (iris.known && (named || (!rows && !split && !inward && enough))) return;
  const PlateIris nothing;
  const Measured squeeze = iris.height_over_width;
  iris = nothing;
  iris.height_over_width = squeeze;
  iris.discs = agree;
  if (could == 0) {
    iris.why = fmt::format("no disc is {:.0f} px high or more, and smaller ones show no shape",
                           iris::min_height);
  } else if (rows) {
    iris.why =
        "they stand in rows like tiles or windows; one that is drawn and named would settle it";
  } else if (agree < needed) {
    iris.why = fmt::format(
        "{} of {} discs of {:.0f} px or more {} one outline; {} would settle it, or one that is "
        "drawn and named",
        agree, could, from_px, agree == 1 ? "shows" : "share", needed == 3 ? "three" : "six");
  } else if (2 * agree < could) {
    iris.why = fmt::format("only {} of {} that could be discs share one outline", agree, could);
  } else if (inward) {
    iris.why = "their outlines bend inward farther than blades do";
  } else if (split) {
    iris.why =
        fmt::format("{} discs show blades as most do, and {} show them turned", for_it, against);
  } else {
    iris.why = "their outlines fit no number of blades clearly";
  }
}

}  // namespace

FoundDiscs discs_in_plate(const Picture& plate, const DiscHints& hints,
                          const DiscSettings& settings) {
  FoundDiscs found;
  with_threads(settings.execution.threads, [&] {
    check(plate, hints, settings);
    found.clipped_at = settings.clipped_at;
    if (const auto clip = plate_clip(plate); clip && !found.clipped_at) found.clipped_at = *clip;
    const PlateSearch search = search_plate(plate, hints, settings);
    settings.execution.tell(0.3);
    found.rejected = search.rejected;
    found.noise = search.noise;
    const Fitted fitted = fit_in_turns(plate, items_of(search), found.clipped_at, found.rejected,
                                       settings.execution.part(0.3, 1.0));
    found.iris = fitted.iris;
    doubt_curvature(fitted.items, found.iris);
    found.iris.rotation_deg.margin *= together::turned_alike;
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
    found.iris.edge_falloff_stops = common(accepted, [](const FittedDisc& f) {
      return Measured{f.disc.rim, f.clipped() || f.disc.height < 16.0 ? 0.0 : f.edge_falloff_sigma};
    });
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
