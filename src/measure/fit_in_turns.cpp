#include "fit_in_turns.hpp"

#include <algorithm>
#include <cmath>
#include <numbers>
#include <utility>

#include "codec_step.hpp"
#include "grey_image.hpp"
#include "kernel_choice.hpp"
#include "measure/constants.hpp"
#include "population.hpp"

namespace jolly_iris::measuring {

namespace {

using std::numbers::pi;

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

// Whether an iris changes no disc any more by its own deviation; large discs' edges move farther.
bool is_settled(const PlateIris& before, const PlateIris& now, const std::vector<DiscItem>& items) {
  if (!before.known || before.blades != now.blades) return false;
  if (now.blades == 0) return true;  // what curvature is told of a round one means nothing
  std::vector<double> radii;
  for (const DiscItem& i : items) radii.push_back(0.5 * i.fit.disc.height);
  const double usual = quantile(radii, 0.5);
  return std::abs(before.curvature.value - now.curvature.value) <
         together::settled_curvature * std::min(1.0, together::usual_radius_px / usual);
}

// Where each round's fits are held near the outline they began from, the curvature creeps: by how
// many times its step is to be taken, from how steps shrink (a secant of the step's own curve).
class CreepingCurvature {
 public:
  // What to go on from, of a curvature that was begun from and what the fits then said.
  // @param most how far it may leap: an outline that lies beside the edge is not found again
  double next(double began, double said, double most) {
    constexpr double most_times = 8.0;
    const double step = said - began;
    double times = 1.0;
    if (known_ && step * step_ > 0.0 && std::abs(began - began_) > 1e-6) {
      const double slope = (step - step_) / (began - began_);
      times = slope < -1.0 / most_times ? std::max(1.0, -1.0 / slope) : most_times;
    }
    known_ = true;
    leapt_ = times > 1.0;
    const double leap = std::max(std::abs(step), most);
    began_ = began;
    step_ = step;
    return std::clamp(began + std::clamp(times * step, -leap, leap), 0.0, 1.0);
  }
  // After a leap that came near, a plain round tells whether it stays there.
  bool leapt() const { return leapt_; }
  void rest() { leapt_ = false; }

 private:
  bool known_ = false;
  bool leapt_ = false;
  double began_ = 0.0;
  double step_ = 0.0;
};

// By how much a curvature may change so that no outline moves by more than a little: a straight
// blade's edge lies that share of the radius within and without of a round one's.
double leap_of(const PlateIris& iris, const std::vector<DiscItem>& items) {
  constexpr double most_px = 1.2;
  std::vector<double> heights;
  std::vector<double> left_over;
  for (const DiscItem& i : items) {
    heights.push_back(i.fit.disc.height);
    left_over.push_back(i.fit.left_over);
  }
  // Where outlines lie on their edges, fits are held by nothing.
  if (quantile(left_over, 0.5) < together::max_left_over) return 0.0;
  const double share = 0.5 * (1.0 / std::cos(pi / iris.blades) - 1.0);
  return most_px / (0.5 * quantile(heights, 0.5) * share);
}

// Without those that are no discs, or the same ones twice.
void drop_others(const Picture& plate, const FitSettings& fit, std::vector<DiscItem>& items,
                 std::vector<RejectedDisc>& rejected) {
  std::erase_if(items, [&](const DiscItem& i) {
    const bool tile = i.fit.good && i.name.empty() && has_four_sides(i.fit.profile);
    if (i.fit.good && !tile) return false;
    rejected.push_back({{i.start.x, i.start.y},
                        i.start.height,
                        tile ? "it has four sides" : "no disc fits its pixels"});
    return true;
  });
  merge_duplicates(plate, fit.look, items);
}

std::vector<PooledDisc> edges_of(const std::vector<DiscItem>& items, const FitSettings& fit,
                                 bool shape_known) {
  std::vector<PooledDisc> out;
  for (const DiscItem& i : items) {
    PooledDisc d;
    d.profile = i.fit.profile;
    d.height = i.fit.disc.height;
    d.soft = i.fit.disc.soft;
    d.kernel = fit.edges().sigma_px();
    // As long as the shape is not known, what is left over is the shape.
    d.left_over = shape_known ? i.fit.left_over : 0.0;
    out.push_back(d);
  }
  return out;
}

// Edges are told as the iris stands: what is turned against that is the other way up.
void begin_anew(const std::vector<PooledDisc>& pooled, std::vector<DiscItem>& items) {
  for (std::size_t i = 0; i < items.size(); ++i) {
    items[i].start = items[i].fit.disc;
    items[i].start.turned = items[i].fit.disc.turned != pooled[i].turned;
  }
}

// Edges and iris are those of another frame: a look at each disc alone, one with its neighbours'
// light, and the last one.
void fit_as_known(const Picture& plate, const GreyImage& seen, const PlateLook& known,
                  FitSettings fit, std::vector<RejectedDisc>& rejected, const Execution& execution,
                  Fitted& out) {
  fit.kernels = known.kernels;
  out.iris = known.iris.iris;
  out.shape = known.iris.shape;
  fit_together(plate, seen, out.items, out.shape, fit, {.with_others = false});
  for (const bool last : {false, true}) {
    drop_others(plate, fit, out.items, rejected);
    out.pooled = edges_of(out.items, fit, true);
    pool_as_known(out.pooled, known.iris);
    begin_anew(out.pooled, out.items);
    if (known.vignetting) find_vignetting(plate.size(), out.shape, out, out.items);
    fit.lamp = usual_lamp(out.items, fit.edges().sigma_px());
    fit.rim = true;
    fit.again = true;
    fit.lights = last;
    fit.quick = !last;
    fit_together(plate, seen, out.items, out.shape, fit, {.afresh = !last, .alone_stay = !last});
    execution.tell(last ? 1.0 : 0.6);
  }
  out.kernels = fit.kernels;
  out.doubt = {usual_scatter(out.items), fit.edges().sigma_px(), fit.codec > 0.0};
}

}  // namespace

Fitted fit_in_turns(const Picture& plate, std::vector<DiscItem> items,
                    std::optional<double> clipped_at, std::vector<RejectedDisc>& rejected,
                    const PlateLook* known, const Execution& execution) {
  FitSettings fit{.look = LumaModel(clipped_at, white_of(plate, items)), .stop = execution.stop};
  fit.codec = codec::off / 255.0 * codec_step(plate) /
              LumaModel({}, 1.0).coded(std::max(fit.look.white(), 1e-3));
  const GreyImage seen = fit.look.of(plate);
  BladeShape shape;
  Fitted out;
  if (known != nullptr) {
    out.items = std::move(items);
    fit_as_known(plate, seen, *known, fit, rejected, execution, out);
    return out;
  }
  fit_together(plate, seen, items, shape, fit, {.with_others = false});
  // Where a barrel cuts discs, they are seen whole only once it is known: one more round.
  int last = 2;
  CreepingCurvature creeping;
  for (int round = 0; round <= last; ++round) {
    drop_others(plate, fit, items, rejected);
    // The first fits knew no iris: what they leave over would pass for softness.
    if (round > 0) {
      if (auto kernels = likely_kernels(items, fit.look); !kernels.empty()) {
        fit.kernels = std::move(kernels);
      }
    }
    out.pooled = edges_of(items, fit, round > 0);
    const PlateIris before = out.iris;
    const PooledIris iris = pooled_iris(out.pooled);
    out.iris = iris.iris;
    shape = iris.shape;
    const bool stays = is_settled(before, out.iris, items);
    const bool settled = stays && !creeping.leapt();
    if (stays) creeping.rest();
    if (round > 0 && round < together::most_rounds && !stays && before.known && out.iris.known &&
        before.blades == out.iris.blades) {
      double& curvature = out.iris.curvature.value;
      curvature = creeping.next(before.curvature.value, curvature, leap_of(out.iris, items));
      shape = BladeShape(out.iris.blades, curvature, out.iris.rotation_deg.value * pi / 180.0);
    }
    begin_anew(out.pooled, items);
    if (round > 0) find_vignetting(plate.size(), shape, out, items);
    if (out.vignetting.vignetting.known) last = std::max(last, 3);
    // Edges are looked for near the outline that is known: of large discs with few blades, which
    // begin as circles, it takes some rounds to come near. Not where a barrel cuts them: on which
    // side each is swings from round to round there.
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
  out.kernels = fit.kernels;
  out.doubt = {usual_scatter(out.items), fit.edges().sigma_px(), fit.codec > 0.0};
  return out;
}

}  // namespace jolly_iris::measuring
