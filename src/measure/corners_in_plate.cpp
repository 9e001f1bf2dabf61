#include "jolly_iris/measure/corners_in_plate.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "jolly_iris/optics/errors.hpp"
#include "normal_equations.hpp"
#include "optics/quantile.hpp"
#include "picture/require_finite.hpp"

namespace jolly_iris {

namespace {

using measuring::NormalEquations;

constexpr int squares_across = 48;     // of the picture's longer side
constexpr int smallest_square_px = 8;  // with fewer pixels grain hides a slope
constexpr double most_texture = 0.12;  // deviation within a square, of its light, that is smooth
constexpr double next_to = 0.16;       // stops between neighbours on one surface
constexpr std::size_t least_squares_of_one = 40;
constexpr double least_span = 0.35;    // of the half diagonal, both ways, to tell a bend
constexpr double least_light = 0.002;  // below that, black levels rule
constexpr double most_off = 4.0;       // deviations: what is farther off is more than one surface
constexpr double most_of_all = 0.5;    // of the squares must be on surfaces that agree
constexpr double agree = 2.5;          // deviations in which surfaces say the same
// A pool of light is round by chance as often as not; that its middle is the picture's too is rare:
// within this share of the half diagonal.
constexpr double in_the_middle = 0.08;
constexpr double as_differently = 0.25;  // of the bend: how differently it may bend both ways
// What a square law leaves out (a lens falls by cos⁴, or steeper): of the value.
constexpr double of_the_law = 0.08;

struct LightSquare {
  int column = 0;
  int row = 0;
  double x = 0.0;  // from the middle, of the half diagonal; right and down
  double y = 0.0;
  double stops = 0.0;
  double sigma = 0.02;  // of it
  bool even = false;
  int surface = -1;
};

// Squares with their light, and whether they are smooth: by fourths of them, so that grain, which
// goes away in means, is no texture.
std::vector<LightSquare> squares_in(const Picture& plate, double clips_at, int side, int columns,
                                    int rows) {
  std::vector<LightSquare> out;
  const double half = 0.5 * std::hypot(plate.width(), plate.height());
  for (int row = 0; row < rows; ++row) {
    for (int column = 0; column < columns; ++column) {
      LightSquare s{column, row, 0.0, 0.0, 0.0, 0.02, true, -1};
      std::array<double, 4> parts{};
      double sum = 0.0;
      double squares = 0.0;
      for (int v = 0; v < side; ++v) {
        for (int u = 0; u < side; ++u) {
          const Rgba& p = plate.at(column * side + u, row * side + v);
          const double light =
              (static_cast<double>(p[0]) + static_cast<double>(p[1]) + static_cast<double>(p[2])) /
              3.0;
          for (std::size_t c = 0; c < 3; ++c)
            s.even = s.even && static_cast<double>(p[c]) < clips_at;
          parts[static_cast<std::size_t>(2 * (2 * v / side) + 2 * u / side)] += light;
          sum += light;
          squares += light * light;
        }
      }
      const double n = static_cast<double>(side) * side;
      const double mean = sum / n;
      s.even = s.even && mean > least_light;
      if (!s.even) {
        out.push_back(s);
        continue;
      }
      const double variance = std::max(0.0, squares / n - mean * mean);
      s.even = std::sqrt(variance) < most_texture * mean;
      for (const double part : parts) {
        s.even = s.even && std::abs(std::log2(std::max(1e-9, part / (n / 4.0)) / mean)) < next_to;
      }
      s.x = ((column + 0.5) * side - 0.5 * plate.width()) / half;
      s.y = ((row + 0.5) * side - 0.5 * plate.height()) / half;
      s.stops = std::log2(mean);
      s.sigma = std::hypot(std::sqrt(variance / n) / mean * 1.4427, 0.004);
      out.push_back(s);
    }
  }
  return out;
}

// Neighbours of about one light belong together. @return how many surfaces
int join(std::vector<LightSquare>& squares, int columns, int rows) {
  int count = 0;
  for (std::size_t start = 0; start < squares.size(); ++start) {
    if (!squares[start].even || squares[start].surface >= 0) continue;
    std::vector<std::size_t> open{start};
    squares[start].surface = count;
    while (!open.empty()) {
      const LightSquare s = squares[open.back()];
      open.pop_back();
      for (const auto& [dx, dy] : {std::pair{1, 0}, {-1, 0}, {0, 1}, {0, -1}}) {
        const int c = s.column + dx;
        const int r = s.row + dy;
        if (c < 0 || r < 0 || c >= columns || r >= rows) continue;
        const auto i = static_cast<std::size_t>(r) * static_cast<std::size_t>(columns) +
                       static_cast<std::size_t>(c);
        LightSquare& next = squares[i];
        if (!next.even || next.surface >= 0 || std::abs(next.stops - s.stops) > next_to) continue;
        next.surface = count;
        open.push_back(i);
      }
    }
    ++count;
  }
  return count;
}

// How one surface bends: stops lost by r², by x² − y², by xy; and its slope.
struct Bend {
  EvenSurface surface{};
  double round = 0.0;
  double round_sigma = 0.0;
  double other = 0.0;  // the larger of both that are not round
  double other_sigma = 0.0;
  std::array<double, 2> middle{};  // where it would be brightest
  double middle_sigma = 1.0;
  double off = 1.0;  // deviations that its squares are off by, in theirs
};

std::optional<Bend> bend_of(const std::vector<const LightSquare*>& of) {
  double x0 = 1.0, x1 = -1.0, y0 = 1.0, y1 = -1.0;
  for (const LightSquare* s : of) {
    x0 = std::min(x0, s->x);
    x1 = std::max(x1, s->x);
    y0 = std::min(y0, s->y);
    y1 = std::max(y1, s->y);
  }
  if (of.size() < least_squares_of_one || x1 - x0 < least_span || y1 - y0 < 0.7 * least_span) {
    return std::nullopt;
  }
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
      normal.add({1.0, s.x, s.y, s.x * s.x + s.y * s.y, s.x * s.x - s.y * s.y, s.x * s.y}, s.stops,
                 1.0 / (s.sigma * s.sigma));
    }
    normal.damp(1.0, 1e-12);
    solution = normal.solve();
    const auto left = [&](const LightSquare& s) {
      return s.stops - measuring::dot<6>(
                           {1.0, s.x, s.y, s.x * s.x + s.y * s.y, s.x * s.x - s.y * s.y, s.x * s.y},
                           solution);
    };
    for (const LightSquare* s : of) off.push_back(std::abs(left(*s)) / s->sigma);
    scale = std::max(1.0, 1.48 * quantile(std::vector<double>(off), 0.5));
    for (std::size_t i = 0; i < of.size(); ++i) keep[i] = off[i] < 3.0 * scale;
  }
  // Neighbouring squares are off alike: they tell less than so many would.
  const double alike = 2.0 * scale;
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
  out.surface.stops = {out.round, 2.0 * out.round_sigma};
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
  // Even, so that it has halves.
  const int side = std::max(smallest_square_px,
                            std::max(plate.width(), plate.height()) / squares_across / 2 * 2);
  const int columns = plate.width() / side;
  const int rows = plate.height() / side;
  std::vector<LightSquare> squares = squares_in(plate, settings.clips_at, side, columns, rows);
  const int count = join(squares, columns, rows);
  CornersFinding out;
  std::vector<Bend> bends;
  for (int k = 0; k < count; ++k) {
    std::vector<const LightSquare*> of;
    int c0 = columns, c1 = 0, r0 = rows, r1 = 0;
    for (const LightSquare& s : squares) {
      if (s.surface != k) continue;
      of.push_back(&s);
      c0 = std::min(c0, s.column);
      c1 = std::max(c1, s.column);
      r0 = std::min(r0, s.row);
      r1 = std::max(r1, s.row);
    }
    auto bend = bend_of(of);
    if (!bend) continue;
    bend->surface.box = {c0 * side, r0 * side, (c1 - c0 + 1) * side, (r1 - r0 + 1) * side};
    bends.push_back(*bend);
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
  if (bends.empty()) {
    out.no_corners =
        "no even surface is large enough. A frame of an evenly lit wall or an overcast sky, by the "
        "same lens at the same stop, would tell";
    return finish();
  }
  // The most that bend by the same amount.
  std::vector<std::size_t> same;
  double in_same = 0.0;
  double in_all = 0.0;
  for (const std::size_t i : round) in_all += bends[i].surface.squares;
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
  out.stops = Measured{mean, std::hypot(margin, of_the_law * mean)};
  return finish();
}

}  // namespace jolly_iris
