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
// Another way is one that is so many px of blur off; as good as the best if it costs no more than
// that besides (twice the logarithm of the odds: 20 : 1).
constexpr double apart_px = 8.0;
constexpr double as_good = 6.0;
// And a frame for what the grid's steps make of either.
constexpr double as_good_a_frame = 0.15;

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

// How badly each frame goes with each focus; a frame that shows nothing has no entries.
struct Looks {
  std::vector<std::vector<float>> cost{};
  std::vector<std::vector<float>> larger{};
  std::vector<double> px_a_step{};  // of blur at infinity
};

Looks looks_of(const std::vector<NotedFrame>& frames, const Grid& grid, double larger_sigma) {
  constexpr float never = std::numeric_limits<float>::infinity();
  Looks out;
  out.cost.resize(frames.size());
  out.larger.resize(frames.size());
  out.px_a_step.assign(frames.size(), step_px);
  for (std::size_t f = 0; f < frames.size(); ++f) {
    const NotedFrame& frame = frames[f];
    if (f > 0) out.px_a_step[f] = out.px_a_step[f - 1];
    if (std::none_of(frame.seen.begin(), frame.seen.end(), tells)) continue;
    out.cost[f].assign(grid.count, never);
    out.larger[f].assign(grid.count, 0.0F);
    for (std::size_t i = 0; i < grid.count; ++i) {
      const double dioptres = grid.step * static_cast<double>(i);
      const auto camera = focused(frame.estimate, dioptres);
      if (!camera) continue;
      if (i == grid.count / 2) {
        const double c =
            std::abs(to_pixels(circle_of_confusion(*camera, Length::infinity()), *camera));
        out.px_a_step[f] = c / static_cast<double>(i);
      }
      const Look look = look_at(frame, *camera, frame.estimate, larger_sigma);
      out.cost[f][i] = static_cast<float>(look.cost);
      out.larger[f][i] = static_cast<float>(look.larger);
    }
  }
  return out;
}

struct Path {
  std::vector<std::size_t> at{};
  double cost = 0.0;
};

// From the state before: a linear cost up to a jump's, in two sweeps (Felzenszwalb and
// Huttenlocher, Distance Transforms of Sampled Functions, 2012).
void go_on(double a_step, std::vector<double>& cost, std::vector<std::uint16_t>& from) {
  const std::size_t n = cost.size();
  const auto least =
      static_cast<std::size_t>(std::min_element(cost.begin(), cost.end()) - cost.begin());
  const double jumped = cost[least] + jump;
  for (std::size_t i = 0; i < n; ++i) from[i] = static_cast<std::uint16_t>(i);
  const auto take = [&](std::size_t i, std::size_t other, double c) {
    if (!(c < cost[i])) return;
    cost[i] = c;
    from[i] = from[other];
  };
  for (std::size_t i = 1; i < n; ++i) take(i, i - 1, cost[i - 1] + a_step);
  for (std::size_t i = n - 1; i-- > 0;) take(i, i + 1, cost[i + 1] + a_step);
  for (std::size_t i = 0; i < n; ++i) take(i, least, jumped);
}

// @param banned a way that this one keeps away from, where discs tell; none: it may go anywhere
Path best_path(const std::vector<NotedFrame>& frames, const Looks& looks, std::size_t n,
               const Path* banned) {
  std::vector<double> cost(n, 0.0);
  std::vector<std::vector<std::uint16_t>> came(frames.size(), std::vector<std::uint16_t>(n, 0));
  for (std::size_t f = 0; f < frames.size(); ++f) {
    if (f > 0) {
      const double frames_on = std::max(1.0, frames[f].frame - frames[f - 1].frame);
      go_on(looks.px_a_step[f] / usual_turn_px / frames_on, cost, came[f]);
    }
    if (looks.cost[f].empty()) continue;
    for (std::size_t i = 0; i < n; ++i) cost[i] += static_cast<double>(looks.cost[f][i]);
    if (banned == nullptr) continue;
    const auto reach = static_cast<std::size_t>(apart_px / std::max(looks.px_a_step[f], 0.1)) + 1;
    const std::size_t low = banned->at[f] - std::min(banned->at[f], reach);
    for (std::size_t i = low; i <= std::min(banned->at[f] + reach, n - 1); ++i) {
      cost[i] += lost;
    }
  }
  Path out;
  out.at.assign(frames.size(), 0);
  auto at = static_cast<std::size_t>(std::min_element(cost.begin(), cost.end()) - cost.begin());
  out.cost = cost[at];
  for (std::size_t f = frames.size(); f-- > 0;) {
    out.at[f] = at;
    if (f > 0) at = came[f][at];
  }
  return out;
}

}  // namespace

FocusWalk walk_focus(const std::vector<NotedFrame>& frames, double larger_sigma) {
  const Grid grid = grid_of(frames);
  const Looks looks = looks_of(frames, grid, larger_sigma);
  Path best = best_path(frames, looks, grid.count, nullptr);
  Path other = best_path(frames, looks, grid.count, &best);
  const auto telling = static_cast<double>(std::count_if(looks.cost.begin(), looks.cost.end(),
                                                         [](const auto& c) { return !c.empty(); }));
  FocusWalk out;
  out.two_sides = other.cost - best.cost < as_good + as_good_a_frame * telling;
  // What discs leave open the notes have the say in.
  const auto from_notes = [&](const Path& path) {
    double sum = 0.0;
    for (std::size_t f = 0; f < frames.size(); ++f) {
      sum += std::abs(grid.step * static_cast<double>(path.at[f]) -
                      evenly_counted(Parameter::focus, focus_of(frames[f].estimate).m()));
    }
    return sum;
  };
  if (out.two_sides && from_notes(other) < from_notes(best)) std::swap(best, other);
  for (std::size_t f = 0; f < frames.size(); ++f) {
    out.dioptres.push_back(grid.step * static_cast<double>(best.at[f]));
    out.larger.push_back(
        looks.larger[f].empty() ? 0.0 : static_cast<double>(looks.larger[f][best.at[f]]));
  }
  return out;
}

}  // namespace jolly_iris::matching
