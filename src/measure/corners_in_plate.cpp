#include "jolly_iris/measure/corners_in_plate.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "jolly_iris/optics/errors.hpp"
#include "light_surfaces.hpp"
#include "normal_equations.hpp"
#include "optics/quantile.hpp"
#include "picture/require_finite.hpp"

namespace jolly_iris {

namespace {

using measuring::LightSquare;
using measuring::NormalEquations;

constexpr std::size_t least_squares_of_one = 30;
constexpr double least_span = 0.25;  // of the half diagonal, both ways, to tell a bend
constexpr double most_off = 2.5;     // deviations: what is farther off is more than one surface
constexpr double most_of_all = 0.5;  // of the squares must be on surfaces that agree
constexpr double agree = 2.5;        // deviations in which surfaces say the same
// A pool of light is round by chance as often as not; that its middle is the picture's too is rare:
// within this share of the half diagonal.
constexpr double in_the_middle = 0.08;
constexpr double as_differently = 0.1;  // of the bend: how differently it may bend both ways
// How steeply lenses fall: cos⁴ has the square of the distance, wide ones and filters more.
constexpr double least_power = 1.6;
constexpr double most_power = 3.4;
constexpr double power_step = 0.1;
constexpr double tells_power = 5.0;        // margins that corners are darker by
constexpr double most_power_margin = 0.6;  // what is less sure is not told
constexpr double of_the_law = 0.03;  // of the value: what one power of the distance leaves out

using Squares = std::vector<const LightSquare*>;

// How one surface bends: stops lost by a power of r, by x² − y², by xy; and its slope.
struct Bend {
  EvenSurface surface{};
  double round = 0.0;
  double round_sigma = 0.0;
  double other = 0.0;  // the larger of both that are not round
  double other_sigma = 0.0;
  std::array<double, 2> middle{};  // where it would be brightest
  double middle_sigma = 1.0;
  double off = 1.0;  // deviations that its squares are off by, in theirs
  // Of a slope and the power alone, in deviations that count squares which are off alike once.
  double lost = 0.0;
  double lost_sigma = 1.0;
  double chi2 = 0.0;
};

bool is_large_enough(const Squares& of) {
  double x0 = 1.0, x1 = -1.0, y0 = 1.0, y1 = -1.0;
  for (const LightSquare* s : of) {
    x0 = std::min(x0, s->x);
    x1 = std::max(x1, s->x);
    y0 = std::min(y0, s->y);
    y1 = std::max(y1, s->y);
  }
  return of.size() >= least_squares_of_one && x1 - x0 >= least_span && y1 - y0 >= 0.7 * least_span;
}

measuring::Terms<6> bend_terms(const LightSquare& s, double power) {
  const double r2 = s.x * s.x + s.y * s.y;
  return {1.0, s.x, s.y, std::pow(r2, 0.5 * power), s.x * s.x - s.y * s.y, s.x * s.y};
}

// Neighbouring squares are off alike: they tell less than so many would.
constexpr double off_alike = 2.0;

Bend bend_of(const Squares& of, double power) {
  std::vector<char> keep(of.size(), 1);
  measuring::Terms<6> solution{};
  NormalEquations<6> normal;
  double scale = 1.0;
  for (int round = 0; round < 4; ++round) {
    normal = NormalEquations<6>();
    std::vector<double> off;
    for (std::size_t i = 0; i < of.size(); ++i) {
      const LightSquare& s = *of[i];
      if (keep[i] == 0) continue;
      normal.add(bend_terms(s, power), s.stops, 1.0 / (s.sigma * s.sigma));
    }
    normal.damp(1.0, 1e-12);
    solution = normal.solve();
    for (const LightSquare* s : of) {
      off.push_back(std::abs(s->stops - measuring::dot(bend_terms(*s, power), solution)) /
                    s->sigma);
    }
    scale = std::max(1.0, 1.48 * quantile(std::vector<double>(off), 0.5));
    for (std::size_t i = 0; i < of.size(); ++i) keep[i] = off[i] < 3.0 * scale;
  }
  const double alike = off_alike * scale;
  Bend out;
  out.round = -solution[3];
  out.round_sigma = alike * std::sqrt(normal.variance(3));
  const double xy = 0.5 * solution[5];
  out.other = std::hypot(solution[4], xy);
  out.other_sigma = alike * std::sqrt(normal.variance(4));
  if (std::abs(out.round) > 1e-6) {
    out.middle = {0.5 * solution[1] / out.round, 0.5 * solution[2] / out.round};
    out.middle_sigma =
        0.5 * alike * std::sqrt(normal.variance(1) + normal.variance(2)) / std::abs(out.round);
  }
  out.off = scale;
  out.surface.squares = static_cast<int>(of.size());
  NormalEquations<4> plain;
  double squares = 0.0;
  for (std::size_t i = 0; i < of.size(); ++i) {
    if (keep[i] == 0) continue;
    const auto t = bend_terms(*of[i], power);
    const double w = 1.0 / std::pow(alike * of[i]->sigma, 2.0);
    plain.add({t[0], t[1], t[2], t[3]}, of[i]->stops, w);
    squares += w * of[i]->stops * of[i]->stops;
  }
  plain.damp(1.0, 1e-12);
  out.lost = -plain.solve()[3];
  out.lost_sigma = std::sqrt(plain.variance(3));
  out.chi2 = std::max(0.0, squares - plain.explained());
  return out;
}

// What all surfaces lose by one power of the distance, each with a slope of its own.
struct Together {
  double power = 2.0;
  double lost = 0.0;
  double chi2 = 0.0;
};

Together together_at(double power, const std::vector<Squares>& surfaces) {
  Together out{power, 0.0, 0.0};
  double weight = 0.0;
  std::vector<Bend> bends;
  for (const Squares& of : surfaces) {
    bends.push_back(bend_of(of, power));
    const Bend& b = bends.back();
    const double w = 1.0 / (b.lost_sigma * b.lost_sigma);
    out.lost += w * b.lost;
    weight += w;
    out.chi2 += b.chi2;
  }
  out.lost /= weight;
  // One that bends otherwise, by its own light, is not to decide.
  constexpr double most_of_one = 9.0;
  for (const Bend& b : bends) {
    out.chi2 += std::min(most_of_one, std::pow((b.lost - out.lost) / b.lost_sigma, 2.0));
  }
  return out;
}

}  // namespace

CornersFinding corners_in(const Picture& plate, const CornersSettings& settings) {
  require_finite(plate);
  if (plate.width() < 64 || plate.height() < 64) {
    throw PictureError(fmt::format(
        "a picture of {} x {} px is too small to tell corners from: it takes 64 px a side",
        plate.width(), plate.height()));
  }
  const measuring::LightSurfaces light = measuring::light_surfaces(plate, settings.clips_at);
  CornersFinding out;
  std::vector<Squares> surfaces(static_cast<std::size_t>(light.count));
  for (const LightSquare& s : light.squares) {
    if (s.surface >= 0) surfaces[static_cast<std::size_t>(s.surface)].push_back(&s);
  }
  surfaces.erase(std::remove_if(surfaces.begin(), surfaces.end(),
                                [](const Squares& of) { return !is_large_enough(of); }),
                 surfaces.end());
  if (surfaces.empty()) {
    out.no_corners =
        "no even surface is large enough. A frame of an evenly lit wall or an overcast sky, by the "
        "same lens at the same stop, would tell";
    return out;
  }
  std::vector<Together> by_power;
  for (double p = least_power; p < most_power + 0.5 * power_step; p += power_step) {
    by_power.push_back(together_at(p, surfaces));
  }
  const Together& best =
      *std::min_element(by_power.begin(), by_power.end(),
                        [](const Together& a, const Together& b) { return a.chi2 < b.chi2; });
  // All powers that are not excluded (two deviations).
  std::vector<double> lost;
  std::vector<double> steep;
  for (const Together& t : by_power) {
    if (t.chi2 > best.chi2 + 4.0) continue;
    lost.push_back(t.lost);
    steep.push_back(t.power);
  }
  const auto [least, most] = std::minmax_element(lost.begin(), lost.end());
  const auto [least_steep, most_steep] = std::minmax_element(steep.begin(), steep.end());
  std::vector<Bend> bends;
  for (const Squares& of : surfaces) {
    Bend bend = bend_of(of, best.power);
    // Where it would be brightest, by squares, as a pool of light has it.
    const Bend by_squares = bend_of(of, 2.0);
    bend.middle = by_squares.middle;
    bend.middle_sigma = by_squares.middle_sigma;
    int c0 = light.columns, c1 = 0, r0 = light.rows, r1 = 0;
    for (const LightSquare* s : of) {
      c0 = std::min(c0, s->column);
      c1 = std::max(c1, s->column);
      r0 = std::min(r0, s->row);
      r1 = std::max(r1, s->row);
    }
    bend.surface.box = {c0 * light.side, r0 * light.side, (c1 - c0 + 1) * light.side,
                        (r1 - r0 + 1) * light.side};
    bend.surface.stops = {bend.round, 2.0 * bend.round_sigma};
    bends.push_back(bend);
  }
  // Those that bend alike both ways may be the lens.
  std::vector<std::size_t> round;
  for (std::size_t i = 0; i < bends.size(); ++i) {
    const Bend& b = bends[i];
    if (b.off < most_off && b.other <= std::hypot(agree * b.other_sigma, as_differently * b.round))
      round.push_back(i);
  }
  const auto finish = [&] {
    for (const Bend& b : bends) out.surfaces.push_back(b.surface);
    return out;
  };
  // The most that bend by the same amount.
  std::vector<std::size_t> same;
  double in_same = 0.0;
  double in_all = 0.0;
  for (const Bend& b : bends) in_all += b.surface.squares;
  for (const std::size_t i : round) {
    std::vector<std::size_t> with;
    double in = 0.0;
    for (const std::size_t j : round) {
      const double sigma = std::hypot(bends[i].round_sigma, bends[j].round_sigma, 0.03);
      if (std::abs(bends[i].round - bends[j].round) > agree * sigma) continue;
      with.push_back(j);
      in += bends[j].surface.squares;
    }
    if (in > in_same) {
      in_same = in;
      same = std::move(with);
    }
  }
  double sum = 0.0;
  double weight = 0.0;
  for (const std::size_t i : same) {
    const double w = 1.0 / std::pow(std::hypot(bends[i].round_sigma, 0.02), 2.0);
    sum += w * bends[i].round;
    weight += w;
  }
  const double mean = weight > 0.0 ? sum / weight : 0.0;
  double chi2 = 0.0;
  for (const std::size_t i : same) {
    chi2 += std::pow((bends[i].round - mean) / std::hypot(bends[i].round_sigma, 0.02), 2.0);
  }
  const auto n = static_cast<double>(same.size());
  // Surfaces that bend around one place which is not the picture's middle: a pool of light.
  const bool pool = same.size() >= 2 && std::abs(mean) > 0.1 && [&] {
    const auto& first = bends[same.front()];
    return std::hypot(first.middle[0], first.middle[1]) > in_the_middle &&
           std::all_of(same.begin(), same.end(), [&](std::size_t i) {
             const double apart = std::hypot(bends[i].middle[0] - first.middle[0],
                                             bends[i].middle[1] - first.middle[1]);
             return apart <
                    in_the_middle + 2.0 * std::hypot(bends[i].middle_sigma, first.middle_sigma);
           });
  }();
  const bool alike = same.size() >= 2 && in_same >= most_of_all * in_all && !pool;
  const bool centred = round.size() == 1 && [&] {
    const Bend& b = bends[round.front()];
    return b.round > 4.0 * b.round_sigma &&
           std::hypot(b.middle[0], b.middle[1]) + 2.0 * b.middle_sigma < in_the_middle;
  }();
  if (!alike && !centred) {
    out.no_corners = fmt::format(
        "{} even surface{}, but {}: light that falls unevenly looks the same. A frame of an evenly "
        "lit wall or an overcast sky, by the same lens at the same stop, would tell",
        bends.size(), bends.size() == 1 ? "" : "s",
        pool ? "they bend around one place beside the picture's middle, as a pool of light does"
        : round.empty()     ? "none of them bends alike both ways"
        : round.size() == 1 ? "only one bends alike both ways, and not around the picture's middle"
                            : "they do not bend by the same amount");
    return finish();
  }
  double margin = 2.0 * std::sqrt(std::max(1.0, n > 1.0 ? chi2 / (n - 1.0) : 1.0) / weight);
  // How much light that is no lens's bends, as the surfaces show it: the part that is not round.
  for (const std::size_t i : same) {
    margin = std::hypot(margin, bends[i].other / std::sqrt(n));
    bends[i].surface.used = true;
  }
  if (centred && !alike) {
    // A pool whose middle lies this far away would have moved the bend's by its share of it.
    constexpr double nearest_pool = 0.25;  // of the half diagonal
    const Bend& b = bends[same.front()];
    const double moved = std::hypot(b.middle[0], b.middle[1]) + 2.0 * b.middle_sigma;
    margin = std::hypot(margin, mean * moved / nearest_pool);
  }
  out.stops = Measured{mean, std::hypot(margin, of_the_law * mean, *most - *least)};
  const double steep_margin =
      std::max(best.power - *least_steep, *most_steep - best.power) + power_step;
  if (std::abs(mean) > tells_power * out.stops->margin &&
      steep_margin<most_power_margin&& * least_steep> least_power && *most_steep < most_power) {
    out.power = Measured{best.power, steep_margin};
  }
  return finish();
}

}  // namespace jolly_iris
