#include "focus_walk.hpp"

#include <algorithm>
#include <cmath>
#include <cstdint>
#include <limits>
#include <optional>

#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/optics/sharpness.hpp"

namespace jolly_iris::matching {

namespace {

// Steps of blur that the grid is as fine as, px; and how many there are at the most.
constexpr double step_px = 1.5;
constexpr std::size_t most_steps = 600;
// What a disc is off by in a rough look: a share of it, and px.
constexpr double rough_share = 0.02;
constexpr double rough_px = 0.7;
constexpr double lost = 16.0;  // what one disc may cost at the most: then it is another's
// What going so many px of blur further in one frame costs, and what no jump costs more than: a
// focus ring turns by some px a frame; it is jumped where a scene is cut.
constexpr double usual_turn_px = 8.0;
constexpr double jump = 12.0;

bool tells(const Observation& o) {
  return (o.kind == Observation::Kind::disc || o.kind == Observation::Kind::edge) && o.at;
}

std::optional<VirtualCamera> focused(const CameraEstimate& estimate, double dioptres) {
  CameraEstimate at = estimate;
  at.focus = dioptres > 1e-6 ? Length::from_m(1.0 / dioptres) : Length::infinity();
  at.focus_in_scene = false;
  try {
    return camera_of(at);
  } catch (const OpticsError&) {
    return std::nullopt;  // nearer than this lens can
  }
}

struct Grid {
  double step = 0.01;
  std::size_t count = 1;
};

// As far as twice as near as anything seen or noted, at least to half a metre.
Grid grid_of(const std::vector<NotedFrame>& frames) {
  double nearest = 1.0;
  double px_a_dioptre = 1.0;
  for (const NotedFrame& f : frames) {
    const Length noted = focus_of(f.estimate);
    if (noted.is_finite()) nearest = std::max(nearest, 1.0 / noted.m());
    for (const Observation& o : f.seen) {
      if (tells(o) && o.at->is_finite()) nearest = std::max(nearest, 1.0 / o.at->m());
    }
    // c = D v (1/s − 1/z): as much at infinity for each dioptre of 1/s.
    if (const auto camera = focused(f.estimate, 1.0)) {
      const double c =
          std::abs(to_pixels(circle_of_confusion(*camera, Length::infinity()), *camera));
      px_a_dioptre = std::max(px_a_dioptre, c);
    }
  }
  Grid out;
  const double top = 2.0 * nearest;
  out.count = std::clamp(static_cast<std::size_t>(top * px_a_dioptre / step_px) + 2,
                         std::size_t{40}, most_steps);
  out.step = top / static_cast<double>(out.count - 1);
  return out;
}

struct Look {
  double cost = 0.0;
  double larger = 0.0;
};

// How badly a frame's discs go with a focus there, at the size of the opening that is best for it.
Look look_at(const NotedFrame& frame, const VirtualCamera& camera, const CameraEstimate& estimate,
             double larger_sigma) {
  struct Row {
    double expected, seen, weight;
  };
  std::vector<Row> rows;
  for (const Observation& o : frame.seen) {
    if (!tells(o)) continue;
    const double off = std::hypot(o.sigma, rough_share * o.value, rough_px);
    rows.push_back({predicted(o, estimate, camera) + typical_own_fraction * o.own_px, o.value,
                    1.0 / (off * off)});
  }
  Look out;
  double k = 1.0;
  std::vector<double> trust(rows.size(), 1.0);
  const double believed = 1.0 / (larger_sigma * larger_sigma);
  for (int round = 0; round < 3; ++round) {
    double above = believed;
    double below = believed;
    for (std::size_t i = 0; i < rows.size(); ++i) {
      const Row& r = rows[i];
      above += trust[i] * r.weight * r.expected * r.seen;
      below += trust[i] * r.weight * r.expected * r.expected;
    }
    k = std::clamp(above / below, 0.2, 5.0);
    for (std::size_t i = 0; i < rows.size(); ++i) {
      const double off = k * rows[i].expected - rows[i].seen;
      trust[i] = 1.0 / (1.0 + rows[i].weight * off * off / lost);
    }
  }
  for (const Row& r : rows) {
    const double off = k * r.expected - r.seen;
    const double square = r.weight * off * off;
    out.cost += lost * square / (lost + square);
  }
  out.larger = std::log(k);
  out.cost += believed * out.larger * out.larger;
  return out;
}

}  // namespace

FocusWalk walk_focus(const std::vector<NotedFrame>& frames, double larger_sigma) {
  const Grid grid = grid_of(frames);
  const std::size_t n = grid.count;
  constexpr double never = std::numeric_limits<double>::infinity();
  std::vector<double> cost(n, 0.0);
  std::vector<std::vector<std::uint16_t>> came(frames.size(), std::vector<std::uint16_t>(n, 0));
  std::vector<std::vector<float>> larger(frames.size());
  double px_a_step = step_px;
  double before = frames.empty() ? 0.0 : frames.front().frame;
  for (std::size_t f = 0; f < frames.size(); ++f) {
    const NotedFrame& frame = frames[f];
    // From the state before: a linear cost up to a jump's, in two sweeps (Felzenszwalb and
    // Huttenlocher, Distance Transforms of Sampled Functions, 2012).
    const double frames_on = std::max(1.0, frame.frame - before);
    before = frame.frame;
    const double a_step = px_a_step / usual_turn_px / frames_on;
    std::vector<double> next = cost;
    std::vector<std::uint16_t>& from = came[f];
    for (std::size_t i = 0; i < n; ++i) from[i] = static_cast<std::uint16_t>(i);
    if (f > 0) {
      for (std::size_t i = 1; i < n; ++i) {
        if (next[i - 1] + a_step < next[i]) {
          next[i] = next[i - 1] + a_step;
          from[i] = from[i - 1];
        }
      }
      for (std::size_t i = n - 1; i-- > 0;) {
        if (next[i + 1] + a_step < next[i]) {
          next[i] = next[i + 1] + a_step;
          from[i] = from[i + 1];
        }
      }
      const auto least = std::min_element(cost.begin(), cost.end());
      for (std::size_t i = 0; i < n; ++i) {
        if (*least + jump < next[i]) {
          next[i] = *least + jump;
          from[i] = static_cast<std::uint16_t>(least - cost.begin());
        }
      }
    }
    const bool any = std::any_of(frame.seen.begin(), frame.seen.end(), tells);
    if (any) {
      larger[f].assign(n, 0.0F);
      for (std::size_t i = 0; i < n; ++i) {
        const auto camera = focused(frame.estimate, grid.step * static_cast<double>(i));
        if (!camera) {
          next[i] = never;
          continue;
        }
        if (i == n / 2) {
          px_a_step =
              grid.step *
              std::abs(to_pixels(circle_of_confusion(*camera, Length::infinity()), *camera)) /
              (grid.step * static_cast<double>(i));
        }
        const Look look = look_at(frame, *camera, frame.estimate, larger_sigma);
        next[i] += look.cost;
        larger[f][i] = static_cast<float>(look.larger);
      }
    }
    cost = std::move(next);
  }
  FocusWalk out;
  out.dioptres.assign(frames.size(), 0.0);
  out.larger.assign(frames.size(), 0.0);
  auto at = static_cast<std::size_t>(std::min_element(cost.begin(), cost.end()) - cost.begin());
  for (std::size_t f = frames.size(); f-- > 0;) {
    out.dioptres[f] = grid.step * static_cast<double>(at);
    if (!larger[f].empty()) out.larger[f] = static_cast<double>(larger[f][at]);
    at = came[f][at];
  }
  return out;
}

}  // namespace jolly_iris::matching
