#include "jolly_iris/optics/autofocus.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "jolly_iris/optics/errors.hpp"

namespace jolly_iris {

namespace {

// How much faster than at an even pace a move goes where it is fastest (smooth: 1.5), as a share of
// the way from key to key.
double steepest(const Ease& ease) {
  constexpr int steps = 2000;
  double most = 0.0;
  double before = 0.0;
  for (int i = 1; i <= steps; ++i) {
    const double now = between(ease, 0.0, 1.0, static_cast<double>(i) / steps);
    most = std::max(most, std::abs(now - before) * steps);
    before = now;
  }
  return most;
}

void check(const std::vector<double>& wanted, const AutofocusSettings& s,
           const std::vector<FocusOverride>& by_hand, double join) {
  const bool good = s.fps > 0.0 && s.delay.seconds() >= 0.0 && s.dioptres_per_second > 0.0 &&
                    s.hysteresis_dpt >= 0.0 && s.overshoot >= 0.0 && s.overshoot <= 1.0 &&
                    join >= 1.0 && std::isfinite(s.fps * s.dioptres_per_second * join);
  if (!good) {
    throw UsageError(fmt::format(
        "an autofocus of {:g} fps, {:g} s late, {:g} dpt/s, deaf to {:g} dpt, {:g} past its "
        "target, joining in {:g} frames: none is below zero, rate and speed are above, the share "
        "is one at the most, a join takes a frame",
        s.fps, s.delay.seconds(), s.dioptres_per_second, s.hysteresis_dpt, s.overshoot, join));
  }
  for (std::size_t i = 0; i < wanted.size(); ++i) {
    if (std::isfinite(wanted[i])) continue;
    throw UsageError(fmt::format("frame {} has no distance to focus on: {:g} dpt", i, wanted[i]));
  }
  for (std::size_t i = 0; i < by_hand.size(); ++i) {
    const bool rises = i == 0 || by_hand[i].frame > by_hand[i - 1].frame;
    if (rises && std::isfinite(by_hand[i].dioptres) && std::isfinite(by_hand[i].frame)) continue;
    throw UsageError(fmt::format("key {} at frame {:g}, {:g} dpt: keys are finite and rise", i + 1,
                                 by_hand[i].frame, by_hand[i].dioptres));
  }
}

// What it acts on at a frame: so old, between two frames in proportion.
double seen_at(const std::vector<double>& wanted, double frame) {
  const auto last = static_cast<double>(wanted.size() - 1);
  const double at = std::clamp(frame, 0.0, last);
  const auto i = static_cast<std::size_t>(at);
  if (i + 1 >= wanted.size()) return wanted.back();
  return wanted[i] + (at - static_cast<double>(i)) * (wanted[i + 1] - wanted[i]);
}

// Its hand is taken off from `begins` until `ends`.
struct Group {
  double begins = 0.0;
  std::vector<FocusOverride> keys{};
  double ends() const { return keys.back().frame; }
};

std::vector<Group> groups_of(const std::vector<FocusOverride>& by_hand, double join) {
  std::vector<Group> out;
  for (const FocusOverride& key : by_hand) {
    if (out.empty() || key.frame - out.back().ends() > join) out.push_back({key.frame - join, {}});
    out.back().keys.push_back(key);
  }
  return out;
}

class Camera {
 public:
  Camera(const std::vector<double>& wanted, const AutofocusSettings& settings)
      : wanted_(wanted),
        settings_(settings),
        steepest_(steepest(ease_of(settings))),
        at_(wanted.front()) {}

  /// Until that frame, which is not among them. A move that has begun is ended first.
  void run(double until) {
    const auto frames = static_cast<double>(wanted_.size());
    const double late = settings_.delay.seconds() * settings_.fps;
    for (; frame_ < std::min(until, frames); frame_ += 1.0) {
      if (!moves_.empty() && frame_ < moves_.back().ends) continue;
      const double target = seen_at(wanted_, frame_ - late);
      if (std::abs(target - at_) <= settings_.hysteresis_dpt) continue;
      const double lasts = std::max(
          1.0, steepest_ * std::abs(target - at_) / settings_.dioptres_per_second * settings_.fps);
      moves_.push_back({frame_, frame_ + lasts, at_, target, false});
      at_ = target;  // once it has arrived
    }
  }

  /// Onto the first key, and from each to the next. A move that would not be over by then gives way
  /// to that.
  void take_over(const Group& group) {
    double from = std::max(group.begins, 0.0);
    while (!moves_.empty() && moves_.back().ends > from) {
      from = moves_.back().ends;
      if (from < group.keys.front().frame) break;
      from = moves_.back().begins;
      at_ = moves_.back().from_dpt;
      moves_.pop_back();
    }
    for (const FocusOverride& key : group.keys) {
      if (key.frame > from) moves_.push_back({from, key.frame, at_, key.dioptres, true});
      at_ = key.dioptres;
      from = std::max(from, key.frame);
    }
    frame_ = std::max(frame_, std::ceil(from));
  }

  std::vector<AutofocusMove> moves() && { return std::move(moves_); }

 private:
  const std::vector<double>& wanted_;
  const AutofocusSettings& settings_;
  double steepest_;
  double at_;
  double frame_ = 0.0;
  std::vector<AutofocusMove> moves_{};
};

}  // namespace

Ease ease_of(const AutofocusSettings& settings) {
  if (settings.overshoot > 0.0) return {Ease::Kind::overshoot, settings.overshoot, 1};
  return {Ease::Kind::smooth};
}

std::vector<AutofocusMove> autofocus(const std::vector<double>& wanted,
                                     const AutofocusSettings& settings,
                                     const std::vector<FocusOverride>& by_hand, double join) {
  check(wanted, settings, by_hand, join);
  if (wanted.empty()) return {};
  Camera camera(wanted, settings);
  for (const Group& group : groups_of(by_hand, join)) {
    camera.run(group.begins);
    camera.take_over(group);
  }
  camera.run(static_cast<double>(wanted.size()));
  return std::move(camera).moves();
}

double focus_during(const std::vector<AutofocusMove>& moves, const Ease& ease, double before,
                    double frame) {
  const auto after =
      std::upper_bound(moves.begin(), moves.end(), frame,
                       [](double f, const AutofocusMove& m) { return f < m.begins; });
  if (after == moves.begin()) return before;
  const AutofocusMove& m = *std::prev(after);
  if (frame >= m.ends) return m.to_dpt;
  const double t = (frame - m.begins) / (m.ends - m.begins);
  return between(m.by_hand ? Ease{Ease::Kind::smooth} : ease, m.from_dpt, m.to_dpt, t);
}

}  // namespace jolly_iris
