#include "light_surfaces.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <utility>

#include "normal_equations.hpp"
#include "optics/quantile.hpp"

namespace jolly_iris::measuring {

namespace {

constexpr int squares_across = 48;     // of the picture's longer side
constexpr int smallest_square_px = 8;  // with fewer pixels grain hides a slope
constexpr double most_texture = 0.12;  // deviation within a square, of its light, that is smooth
constexpr double next_to = 0.16;       // stops between parts of a square, and least between squares
constexpr double most_step = 0.4;      // stops between neighbours, by slope and lens together
constexpr double least_light = 0.002;  // below that, black levels rule
// A surface starts as a window of squares that a plane of light goes through, and grows by
// neighbours that its curve foretells: a passage where two surfaces happen to be alike is none.
constexpr int window = 2;                 // squares to both sides of a start
constexpr std::size_t least_start = 16;   // of the 25 in it
constexpr double off_curve = 3.5;         // deviations
constexpr double always_allowed = 0.006;  // stops
constexpr double most_off_scale = 4.0;    // deviations that a surface's squares are off, in theirs
constexpr std::size_t enough_to_bend = 40;    // squares
constexpr std::size_t enough_for_lens = 150;  // a lens falls steeper than by squares

// Squares with their light, and whether they are smooth: by fourths of them, so that grain, which
// goes away in means, is no texture.
std::vector<LightSquare> squares_in(const Picture& plate, double clips_at, int side_px, int columns,
                                    int rows) {
  std::vector<LightSquare> out;
  const double half = 0.5 * std::hypot(plate.width(), plate.height());
  for (int row = 0; row < rows; ++row) {
    for (int column = 0; column < columns; ++column) {
      LightSquare s{column, row, 0.0, 0.0, 0.0, 0.02, true, -1};
      std::array<double, 4> parts{};
      double sum = 0.0;
      double squares = 0.0;
      for (int v = 0; v < side_px; ++v) {
        for (int u = 0; u < side_px; ++u) {
          const Rgba& p = plate.at(column * side_px + u, row * side_px + v);
          const double light =
              (static_cast<double>(p[0]) + static_cast<double>(p[1]) + static_cast<double>(p[2])) /
              3.0;
          for (std::size_t c = 0; c < 3; ++c)
            s.even = s.even && static_cast<double>(p[c]) < clips_at;
          parts[static_cast<std::size_t>(2 * (2 * v / side_px) + 2 * u / side_px)] += light;
          sum += light;
          squares += light * light;
        }
      }
      const double n = static_cast<double>(side_px) * side_px;
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
      s.x = ((column + 0.5) * side_px - 0.5 * plate.width()) / half;
      s.y = ((row + 0.5) * side_px - 0.5 * plate.height()) / half;
      s.stops = std::log2(mean);
      s.sigma = std::hypot(std::sqrt(variance / n) / mean * 1.4427, 0.004);
      out.push_back(s);
    }
  }
  return out;
}

using LightCurve = Terms<7>;

LightCurve terms_at(const LightSquare& s, std::size_t size) {
  const double r2 = s.x * s.x + s.y * s.y;
  LightCurve t{1.0, s.x, s.y, 0.0, 0.0, 0.0, 0.0};
  if (size >= enough_to_bend) {
    t[3] = s.x * s.x;
    t[4] = s.y * s.y;
    t[5] = s.x * s.y;
  }
  if (size >= enough_for_lens) t[6] = r2 * r2;
  return t;
}

struct CurveFit {
  LightCurve curve{};
  double scale = 1.0;  // deviations that its squares are off by, in theirs
};

CurveFit curve_through(const std::vector<const LightSquare*>& of) {
  CurveFit out;
  std::vector<char> keep(of.size(), 1);
  for (int round = 0; round < 3; ++round) {
    NormalEquations<7> normal(1e-6);
    for (std::size_t i = 0; i < of.size(); ++i) {
      if (keep[i] == 0) continue;
      normal.add(terms_at(*of[i], of.size()), of[i]->stops, 1.0 / (of[i]->sigma * of[i]->sigma));
    }
    out.curve = normal.solve();
    std::vector<double> off;
    for (const LightSquare* s : of) {
      off.push_back(std::abs(s->stops - dot(terms_at(*s, of.size()), out.curve)) / s->sigma);
    }
    out.scale = std::max(1.0, 1.48 * quantile(std::vector<double>(off), 0.5));
    for (std::size_t i = 0; i < of.size(); ++i) keep[i] = off[i] < 3.0 * out.scale;
  }
  return out;
}

bool on_curve(const LightSquare& s, const CurveFit& fit, std::size_t size) {
  const double allowed = off_curve * std::min(fit.scale, most_off_scale) * s.sigma + always_allowed;
  return std::abs(s.stops - dot(terms_at(s, size), fit.curve)) <= allowed;
}

class Growing {
 public:
  explicit Growing(LightSurfaces& of) : of_(of) {}

  void run() {
    for (const auto& [off, start] : starts()) {
      if (of_.squares[start].surface >= 0) continue;
      std::vector<std::size_t> in = around(start);
      if (in.size() < least_start) continue;
      grow(std::move(in));
    }
  }

 private:
  bool is_free(std::size_t i) const { return of_.squares[i].even && of_.squares[i].surface < 0; }

  std::vector<std::size_t> around(std::size_t at) const {
    std::vector<std::size_t> out;
    const LightSquare& s = of_.squares[at];
    for (int r = std::max(0, s.row - window); r <= std::min(of_.rows - 1, s.row + window); ++r) {
      for (int c = std::max(0, s.column - window);
           c <= std::min(of_.columns - 1, s.column + window); ++c) {
        const std::size_t i = index(c, r);
        if (is_free(i) && std::abs(of_.squares[i].stops - s.stops) < 2.0 * most_step) {
          out.push_back(i);
        }
      }
    }
    return out;
  }

  std::size_t index(int column, int row) const {
    return static_cast<std::size_t>(row) * static_cast<std::size_t>(of_.columns) +
           static_cast<std::size_t>(column);
  }

  std::vector<const LightSquare*> squares(const std::vector<std::size_t>& in) const {
    std::vector<const LightSquare*> out;
    for (const std::size_t i : in) out.push_back(&of_.squares[i]);
    return out;
  }

  // The smoothest first.
  std::vector<std::pair<double, std::size_t>> starts() const {
    std::vector<std::pair<double, std::size_t>> out;
    for (std::size_t i = 0; i < of_.squares.size(); ++i) {
      if (!is_free(i)) continue;
      const std::vector<std::size_t> in = around(i);
      if (in.size() < least_start) continue;
      const CurveFit fit = curve_through(squares(in));
      if (fit.scale < most_off_scale) out.emplace_back(fit.scale, i);
    }
    std::sort(out.begin(), out.end());
    return out;
  }

  void grow(std::vector<std::size_t> in) {
    const int name = of_.count++;
    const auto refit = [&] {
      const CurveFit fit = curve_through(squares(in));
      std::vector<std::size_t> kept;
      for (const std::size_t i : in) {
        const bool stays = on_curve(of_.squares[i], fit, in.size());
        of_.squares[i].surface = stays ? name : -1;
        if (stays) kept.push_back(i);
      }
      const bool same = kept.size() == in.size();
      in = std::move(kept);
      return same ? fit : curve_through(squares(in));
    };
    CurveFit fit = refit();
    // Each round adds one row of squares at most all around, so the picture's size bounds them.
    for (int round = 0; round < of_.columns + of_.rows && !in.empty(); ++round) {
      std::vector<std::size_t> added;
      for (const std::size_t i : in) {
        const LightSquare& s = of_.squares[i];
        for (const auto& [dx, dy] : {std::pair{1, 0}, {-1, 0}, {0, 1}, {0, -1}}) {
          const int c = s.column + dx;
          const int r = s.row + dy;
          if (c < 0 || r < 0 || c >= of_.columns || r >= of_.rows) continue;
          const std::size_t j = index(c, r);
          if (!is_free(j) || std::abs(of_.squares[j].stops - s.stops) > most_step ||
              !on_curve(of_.squares[j], fit, in.size())) {
            continue;
          }
          of_.squares[j].surface = name;
          added.push_back(j);
        }
      }
      if (added.empty()) break;
      in.insert(in.end(), added.begin(), added.end());
      fit = refit();
    }
  }

  LightSurfaces& of_;
};

}  // namespace

LightSurfaces light_surfaces(const Picture& plate, double clips_at) {
  LightSurfaces out;
  // Even, so that it has halves.
  out.side = std::max(smallest_square_px,
                      std::max(plate.width(), plate.height()) / squares_across / 2 * 2);
  out.columns = plate.width() / out.side;
  out.rows = plate.height() / out.side;
  out.squares = squares_in(plate, clips_at, out.side, out.columns, out.rows);
  Growing(out).run();
  return out;
}

}  // namespace jolly_iris::measuring
