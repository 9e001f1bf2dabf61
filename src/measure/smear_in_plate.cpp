#include "jolly_iris/measure/smear_in_plate.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <limits>
#include <numbers>

#include "bright_things.hpp"
#include "drawn_thing.hpp"
#include "optics/quantile.hpp"
#include "picture/parallel.hpp"
#include "picture/require_finite.hpp"

namespace jolly_iris {

namespace {

using namespace measuring;
using std::numbers::pi;

constexpr std::size_t most_lamps = 40;  // the brightest are looked at
constexpr std::size_t enough_alike = 3;
constexpr double most_of_them = 0.6;  // lamps that tell must agree for a smear of all
// A shape explains a thing where what it leaves over is no more than this, in deviations²
// a pixel: noise, and the unevenness that the fit allows for.
constexpr double explains = 2.5;
// Another shape is another explanation where it is worse by less than this (χ² of one number at
// 99.9 %), in what is left over.
constexpr double as_well = 11.0;
// From here on a way is longer than chance makes it: deviations of its square.
constexpr double clearly_drawn = 5.0;
// A point that is smeared is a thin line, and so is a thin window: wider ones are told apart.
// But only where it is sharp: out of focus, a window has round ends too.
constexpr double sharp_px = 2.0;  // softness
constexpr double thin = 2.6;      // softnesses
// Discs are polygons, and the barrel cuts them: so much longer than wide they may be, of their
// width.
constexpr double out_of_round = 0.2;
constexpr double small_lamp = 0.015;  // of the picture's width: windows are wider
constexpr double as_wide = 0.9;       // of its width, its way
// What the model leaves out (a pixel's box, a lamp's own outline).
constexpr double floor_px = 0.05;
constexpr double floor_share = 0.003;
constexpr double one_way = 9.2;  // χ² of two numbers at 99 %
// A camera that turns smears the frame's sides a little more, and aslant: of the length.
constexpr double over_the_frame = 0.05;

// What one lamp says.
struct SaidWay {
  std::size_t lamp = 0;
  std::array<double, 2> way{};
  std::array<double, 3> cov{};
  double most_px = 0.0;  // it is no longer than that
  // By how much a disc's way explains it better than the best of other shapes, χ².
  double than_other = std::numeric_limits<double>::infinity();
  ThingShape other = ThingShape::oval;
  bool drawn = false;
};

double length_of(const std::array<double, 2>& way) { return std::hypot(way[0], way[1]); }

std::array<double, 3> with_floor(std::array<double, 3> cov, double length) {
  const double f = std::hypot(floor_px, floor_share * length);
  cov[0] += f * f;
  cov[2] += f * f;
  return cov;
}

double along_way(const std::array<double, 3>& cov, double x, double y) {
  return cov[0] * x * x + 2.0 * cov[1] * x * y + cov[2] * y * y;
}

// d' C⁻¹ d
double apart2(const std::array<double, 3>& c, double x, double y) {
  const double det = c[0] * c[2] - c[1] * c[1];
  return (c[2] * x * x - 2.0 * c[1] * x * y + c[0] * y * y) / std::max(1e-12, det);
}

// The one of both senses that is nearer to another way.
std::array<double, 2> turned_to(const std::array<double, 2>& way, const std::array<double, 2>& to) {
  const double sign = way[0] * to[0] + way[1] * to[1] < 0.0 ? -1.0 : 1.0;
  return {sign * way[0], sign * way[1]};
}

SmearWay way_from(const std::array<double, 2>& way, const std::array<double, 3>& cov) {
  const double length = length_of(way);
  const double x = way[0] / length;
  const double y = way[1] / length;
  SmearWay out;
  out.length_px = {length, 2.0 * std::sqrt(along_way(cov, x, y))};
  const double across = std::sqrt(along_way(cov, -y, x));
  double angle = std::atan2(way[1], way[0]) * 180.0 / pi;
  if (angle > 90.0) angle -= 180.0;
  if (angle <= -90.0) angle += 180.0;
  out.direction_deg = {angle, 2.0 * std::atan2(across, length) * 180.0 / pi};
  return out;
}

// What one thing says of its way; or why it says nothing.
std::optional<SaidWay> said_by(const Picture& plate, const BrightThings& bright, std::size_t thing,
                               const SmearSettings& settings, std::string& why) {
  if (bright.things[thing].at_edge) {
    why = "the frame cuts it";
    return std::nullopt;
  }
  const auto pixels = pixels_around(plate, bright, thing, settings.clips_at, settings.coded);
  if (!pixels) {
    why = "other bright things are too near, or it is too large for a lamp";
    return std::nullopt;
  }
  const auto disc = fitted_thing(*pixels, ThingShape::drawn_disc);
  const double free = disc ? std::max(1.0, disc->pixels - 10.0) : 1.0;
  if (!disc || disc->misfit > explains * free) {
    why = "it is no disc, drawn out or not";
    return std::nullopt;
  }
  SaidWay out;
  out.lamp = thing;
  out.way = disc->way;
  const double worse = std::max(1.0, disc->misfit / free);
  out.cov = disc->cov;
  for (double& c : out.cov) c *= worse;
  const double length = length_of(out.way);
  const double sigma = std::sqrt(along_way(out.cov, out.way[0] / length, out.way[1] / length));
  const double square_sigma = 2.0 * length * sigma;
  out.cov = with_floor(out.cov, length);
  const double unround = out_of_round * std::hypot(disc->across_px, 4.0 * disc->softness_px);
  out.most_px =
      std::sqrt(length * length + 2.0 * square_sigma + floor_px * floor_px + unround * unround);
  out.drawn =
      length * length > clearly_drawn * square_sigma && length > std::max(4.0 * floor_px, unround);
  if (!out.drawn) return out;
  // A window out of focus has round ends, and is longer than wide by less than its width.
  if (disc->across_px > small_lamp * plate.width() && length < as_wide * disc->across_px) {
    why = "it is large, and a window out of focus would look the same";
    return std::nullopt;
  }
  for (const ThingShape other : {ThingShape::oval, ThingShape::window}) {
    const auto fit = fitted_thing(*pixels, other);
    // Thin ones are one shape.
    if (!fit || (other == ThingShape::window && fit->softness_px < sharp_px &&
                 fit->across_px < thin * fit->softness_px))
      continue;
    const double than_other = (fit->misfit - disc->misfit) / worse;
    if (than_other >= out.than_other) continue;
    out.than_other = than_other;
    out.other = other;
  }
  return out;
}

// Those that say the same as one of them.
std::vector<std::size_t> saying_the_same(const std::vector<SaidWay>& said, const SaidWay& one) {
  std::vector<std::size_t> out;
  for (std::size_t i = 0; i < said.size(); ++i) {
    if (!said[i].drawn || said[i].than_other < -as_well) continue;
    const auto way = turned_to(said[i].way, one.way);
    std::array<double, 3> cov{};
    for (std::size_t k = 0; k < 3; ++k) cov[k] = said[i].cov[k] + one.cov[k];
    const double varies = over_the_frame * length_of(one.way);
    cov[0] += varies * varies;
    cov[2] += varies * varies;
    if (apart2(cov, way[0] - one.way[0], way[1] - one.way[1]) < one_way) out.push_back(i);
  }
  return out;
}

// The mean by what each is sure of; margins by how they scatter where that is more.
SmearWay mean_way(const std::vector<SaidWay>& said, const std::vector<std::size_t>& alike) {
  const std::array<double, 2> to = said[alike.front()].way;
  std::array<double, 3> information{};
  std::array<double, 2> sum{};
  std::vector<std::array<double, 2>> ways;
  for (const std::size_t i : alike) {
    const auto& c = said[i].cov;
    const double det = std::max(1e-12, c[0] * c[2] - c[1] * c[1]);
    const auto way = turned_to(said[i].way, to);
    ways.push_back(way);
    information[0] += c[2] / det;
    information[1] -= c[1] / det;
    information[2] += c[0] / det;
    sum[0] += (c[2] * way[0] - c[1] * way[1]) / det;
    sum[1] += (c[0] * way[1] - c[1] * way[0]) / det;
  }
  const double det = information[0] * information[2] - information[1] * information[1];
  std::array<double, 3> cov{information[2] / det, -information[1] / det, information[0] / det};
  const std::array<double, 2> mean{cov[0] * sum[0] + cov[1] * sum[1],
                                   cov[1] * sum[0] + cov[2] * sum[1]};
  double chi2 = 0.0;
  for (std::size_t k = 0; k < alike.size(); ++k) {
    chi2 += apart2(said[alike[k]].cov, ways[k][0] - mean[0], ways[k][1] - mean[1]);
  }
  const auto free = 2.0 * (static_cast<double>(alike.size()) - 1.0);
  const double wider = std::max(1.0, free > 0.0 ? chi2 / free : 1.0);
  for (double& c : cov) c *= wider;
  return way_from(mean, with_floor(cov, length_of(mean)));
}

}  // namespace

SmearFinding smear_in(const Picture& plate, const SmearSettings& settings) {
  require_finite(plate);
  SmearFinding out;
  const BrightThings bright = bright_things_in(plate, settings.clips_at);
  const std::size_t n = std::min(most_lamps, bright.things.size());
  std::vector<std::string> why(n);
  std::vector<std::optional<SaidWay>> each(n);
  parallel_for(std::size_t{0}, n,
               [&](std::size_t i) { each[i] = said_by(plate, bright, i, settings, why[i]); });
  std::vector<SaidWay> said;
  for (std::size_t i = 0; i < n; ++i) {
    const BrightThing& t = bright.things[i];
    SmearedLamp lamp{t.at,  {},    t.clipped, each[i].has_value(), each[i] && each[i]->drawn,
                     false, why[i]};
    if (each[i]) {
      lamp.way = way_from(each[i]->way, each[i]->cov);
      said.push_back(*each[i]);
    }
    out.lamps.push_back(std::move(lamp));
  }
  if (said.empty()) {
    out.no_smear = n == 0 ? "nothing in it is far brighter than the rest"
                          : "no lamp that stands by itself has a shape that tells; small lamps "
                            "that are sharp would";
    return out;
  }
  std::vector<std::size_t> best;
  for (const SaidWay& one : said) {
    if (!one.drawn) continue;
    std::vector<std::size_t> alike = saying_the_same(said, one);
    if (alike.size() > best.size()) best = std::move(alike);
  }
  std::size_t drawn = 0;
  std::size_t open = 0;      // long, but by a way or by themselves
  std::vector<double> most;  // of those that are round
  for (const SaidWay& one : said) {
    if (!one.drawn) {
      most.push_back(one.most_px);
    } else {
      (one.than_other > as_well ? drawn : open) += 1;
    }
  }
  // What one lamp leaves open, an oval or a way, many together may not.
  double than_others = 0.0;
  for (const std::size_t i : best) than_others += said[i].than_other;
  const bool ways = than_others > as_well;
  // Those that leave it open count where they say what others say.
  std::size_t open_alike = 0;
  for (const std::size_t i : best) open_alike += said[i].than_other <= as_well;
  const auto tells = static_cast<double>(drawn + most.size() + open_alike);
  const bool of_all = ways && best.size() >= enough_alike &&
                      static_cast<double>(best.size()) >= most_of_them * tells;
  if (of_all) {
    for (const std::size_t i : best) out.lamps[said[i].lamp].of_all = true;
    out.smear = mean_way(said, best);
    return out;
  }
  for (const SaidWay& one : said) {
    if (!one.drawn || one.than_other > as_well) continue;
    SmearedLamp& lamp = out.lamps[one.lamp];
    lamp.used = false;
    lamp.drawn = false;
    lamp.way = {};
    lamp.why = one.other == ThingShape::oval
                   ? "an oval would look the same, or a way of uneven speed"
                   : "a window would look the same";
  }
  if (!most.empty() &&
      static_cast<double>(most.size()) >= most_of_them * static_cast<double>(drawn + most.size())) {
    out.no_smear = fmt::format("{} of {} lamps that tell are as round as lamps are", most.size(),
                               drawn + most.size());
    if (drawn > 0) {
      out.no_smear += "; the others are long by themselves, or move";
    }
    out.at_most_px = quantile(most, 0.5);
    return out;
  }
  if (best.size() >= enough_alike && !ways) {
    out.no_smear = fmt::format(
        "{} lamps are longer than wide, and alike, but ovals would be so too: discs of squeezed "
        "glass, or lamps of that shape; smaller and sharper lamps would settle it",
        best.size());
    return out;
  }
  out.no_smear = fmt::format(
      "{} of {} lamps that tell are drawn out, and {}: things move there, or are long by "
      "themselves",
      drawn, drawn + most.size(),
      best.size() >= enough_alike ? fmt::format("{} of them alike", std::min(best.size(), drawn))
                                  : std::string("no three of them alike"));
  return out;
}

}  // namespace jolly_iris
