#include "jolly_iris/measure/disc_tracks.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <limits>
#include <optional>

#include "assignment.hpp"
#include "jolly_iris/optics/errors.hpp"

namespace jolly_iris {

namespace {

// How a track may change its way, in deviations a frame: hands and dollies, generously. A tripod's
// pan begins at some px a frame; a boat turns slower.
constexpr double usual_turn_px = 1.5;   // of the speed, a frame
constexpr double usual_growth = 0.02;   // of the size, a share a frame
constexpr double usual_flicker = 0.15;  // of the light, a share
constexpr double placed_px = 0.5;       // how exactly a disc is placed, besides its size's margin
// 99.9 % of what belongs together in four numbers (place, size, light) is nearer: chi squared.
constexpr double gate = 18.5;
constexpr std::size_t remembered = 5;  // frames that a speed is taken from

struct State {
  double x = 0.0;
  double y = 0.0;
  double log_size = 0.0;
  double log_light = 0.0;
};

State state_of(const PlateDisc& d) {
  const double light = d.light[0] + d.light[1] + d.light[2];
  return {d.at[0], d.at[1], std::log(std::max(d.height_px.value, 1.0)),
          std::log(std::max(light, 1e-9))};
}

double median(std::vector<double> v) {
  if (v.empty()) return 0.0;
  const auto middle = v.begin() + static_cast<std::ptrdiff_t>(v.size() / 2);
  std::nth_element(v.begin(), middle, v.end());
  return *middle;
}

// A track that may go on.
struct Open {
  DiscTrack track{};
  std::vector<State> last{};   // the most recent ones
  std::vector<double> when{};  // their frames

  void add(const TrackPoint& point, double frame, const State& state) {
    track.seen.push_back(point);
    last.push_back(state);
    when.push_back(frame);
    if (last.size() > remembered) {
      last.erase(last.begin());
      when.erase(when.begin());
    }
  }

  double away(double frame) const { return frame - when.back(); }
  bool has_speed() const { return last.size() > 1; }

  // The straight line of least squares through what is remembered, at another frame.
  double at(double State::*value, double frame) const {
    const auto n = static_cast<double>(last.size());
    double t = 0.0;
    double v = 0.0;
    for (std::size_t i = 0; i < last.size(); ++i) {
      t += when[i] / n;
      v += last[i].*value / n;
    }
    double above = 0.0;
    double below = 0.0;
    for (std::size_t i = 0; i < last.size(); ++i) {
      above += (when[i] - t) * (last[i].*value - v);
      below += (when[i] - t) * (when[i] - t);
    }
    return below > 0.0 ? v + above / below * (frame - t) : v;
  }
};

class Follower {
 public:
  Follower(const std::vector<FrameDiscs>& frames, const TrackSettings& settings)
      : frames_(frames), settings_(settings) {}

  std::vector<DiscTrack> run() {
    for (std::size_t i = 0; i < frames_.size(); ++i) take(i);
    for (Open& o : open_) close(o);
    std::sort(done_.begin(), done_.end(), [&](const DiscTrack& a, const DiscTrack& b) {
      const TrackPoint& p = a.seen.front();
      const TrackPoint& q = b.seen.front();
      if (p.frame != q.frame) return p.frame < q.frame;
      return frames_[p.frame].discs[p.disc].at[0] < frames_[q.frame].discs[q.disc].at[0];
    });
    for (std::size_t i = 0; i < done_.size(); ++i) done_[i].number = static_cast<int>(i) + 1;
    return std::move(done_);
  }

 private:
  void close(Open& o) {
    if (o.track.seen.size() >= settings_.min_points) done_.push_back(std::move(o.track));
  }

  void take(std::size_t i) {
    const FrameDiscs& now = frames_[i];
    std::erase_if(open_, [&](Open& o) {
      const bool over = o.away(now.frame) > settings_.max_gap;
      if (over) close(o);
      return over;
    });
    std::vector<State> states;
    for (const PlateDisc& d : now.discs) states.push_back(state_of(d));
    // What all of them do at once (a pan, a jolt, a stop that closes) is no surprise of each.
    Shared all{};
    for (int pass = 0; pass < 3; ++pass) {
      const auto pairs = paired(now, states, all, pass == 0 ? 9.0 : 1.0);
      all = shared_change(now.frame, states, pairs, all);
      if (pass == 2) accept(i, states, pairs);
    }
  }

  struct Shared {
    double dx = 0.0;
    double dy = 0.0;
    double log_size = 0.0;
    double log_light = 0.0;
    /// By how many px the focus made discs larger on its one side, and smaller on the other: in a
    /// frame that is one number (c = D v |1/s − 1/z|).
    double turned_px = 0.0;
  };

  // Each open track with one of the discs, or none.
  std::vector<std::optional<std::size_t>> paired(const FrameDiscs& now,
                                                 const std::vector<State>& states,
                                                 const Shared& all, double wider) const {
    std::vector<std::vector<double>> cost(open_.size(), std::vector<double>(states.size()));
    for (std::size_t t = 0; t < open_.size(); ++t) {
      for (std::size_t d = 0; d < states.size(); ++d) {
        const double c = surprise(open_[t], now.frame, states[d], now.discs[d], all) / wider;
        cost[t][d] = c < gate ? c : std::numeric_limits<double>::infinity();
      }
    }
    return measuring::cheapest_pairs(cost, gate);
  }

  // χ² of a disc as the next of a track.
  double surprise(const Open& o, double frame, const State& s, const PlateDisc& d,
                  const Shared& all) const {
    const double away = o.away(frame);
    const double size = std::exp(s.log_size);
    // Without a speed of its own it may go as fast as things in a picture do.
    const double turn = o.has_speed() ? usual_turn_px : 4.0 * usual_turn_px + 0.15 * size;
    const double place = std::hypot(placed_px + 0.5 * d.height_px.margin, turn * away);
    const double growth = std::hypot(0.5 * d.height_px.margin / size, usual_growth * away) +
                          (o.has_speed() ? 0.0 : 0.05);
    const double light = std::hypot(usual_flicker, 0.05 * away) * (d.clipped ? 4.0 : 1.0);
    const double dx = (s.x - o.at(&State::x, frame) - all.dx) / place;
    const double dy = (s.y - o.at(&State::y, frame) - all.dy) / place;
    const double grown = s.log_size - o.at(&State::log_size, frame) - all.log_size;
    const double turned = std::min(all.turned_px / size, 1.0);
    const double dz =
        std::min({std::abs(grown), std::abs(grown - turned), std::abs(grown + turned)}) / growth;
    const double dl = (s.log_light - o.last.back().log_light - all.log_light) / light;
    return dx * dx + dy * dy + dz * dz + std::min(dl * dl, 9.0);
  }

  Shared shared_change(double frame, const std::vector<State>& states,
                       const std::vector<std::optional<std::size_t>>& pairs,
                       const Shared& before) const {
    std::array<std::vector<double>, 5> by{};
    for (std::size_t t = 0; t < open_.size(); ++t) {
      if (!pairs[t]) continue;
      const State& s = states[*pairs[t]];
      by[0].push_back(s.x - open_[t].at(&State::x, frame));
      by[1].push_back(s.y - open_[t].at(&State::y, frame));
      by[2].push_back(s.log_size - open_[t].at(&State::log_size, frame));
      by[3].push_back(s.log_light - open_[t].last.back().log_light);
      by[4].push_back(
          std::abs(std::exp(s.log_size) - std::exp(open_[t].at(&State::log_size, frame))));
    }
    if (by[0].size() < 3) return before;  // fewer are no crowd
    return {median(by[0]), median(by[1]), median(by[2]), median(by[3]), median(by[4])};
  }

  void accept(std::size_t i, const std::vector<State>& states,
              const std::vector<std::optional<std::size_t>>& pairs) {
    std::vector<bool> taken(states.size(), false);
    for (std::size_t t = 0; t < pairs.size(); ++t) {
      if (!pairs[t]) continue;
      taken[*pairs[t]] = true;
      open_[t].add({i, *pairs[t]}, frames_[i].frame, states[*pairs[t]]);
    }
    for (std::size_t d = 0; d < states.size(); ++d) {
      if (taken[d]) continue;
      open_.emplace_back();
      open_.back().add({i, d}, frames_[i].frame, states[d]);
    }
  }

  const std::vector<FrameDiscs>& frames_;
  const TrackSettings& settings_;
  std::vector<Open> open_{};
  std::vector<DiscTrack> done_{};
};

}  // namespace

std::vector<DiscTrack> follow_discs(const std::vector<FrameDiscs>& frames,
                                    const TrackSettings& settings) {
  if (!(settings.max_gap >= 1.0) || settings.min_points < 1) {
    throw UsageError(
        fmt::format("a track may be away for {:g} frames and has {} points: both are "
                    "1 at least",
                    settings.max_gap, settings.min_points));
  }
  for (std::size_t i = 1; i < frames.size(); ++i) {
    if (frames[i].frame > frames[i - 1].frame) continue;
    throw UsageError(fmt::format("frame {:g} comes behind frame {:g}: they must rise",
                                 frames[i].frame, frames[i - 1].frame));
  }
  return Follower(frames, settings).run();
}

}  // namespace jolly_iris
