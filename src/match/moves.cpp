#include "jolly_iris/match/moves.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <optional>

#include "move_ease.hpp"
#include "optics/enum_name.hpp"

namespace jolly_iris {

namespace {

// Deviations of the curve that something has to reach to be seen as a move or as a turn back: of
// all frames together chance does not get there once in a thousand sequences.
constexpr double seen_from = 4.5;
// A turn back of less than that share of the whole move is how a hand ends a pull.
constexpr double least_turn = 0.05;
// Within that share of a leg of its end it stands, as far as rests go.
constexpr double standing = 0.03;
// A way back that is longer than that share of the way there is a pull of its own.
constexpr double way_back = 0.5;
// What turns larger than that share of a move the margins could hide leaves untold whether it is a
// pull; likewise a third way of three quarters of the second, whether it is an overshoot.
constexpr double hidden_turn = 0.1;
constexpr double hidden_third = 0.75;
constexpr std::size_t asked_ways = 200;
constexpr double agreed = 0.9;  // of them, for the kind to be told

using Values = std::vector<double>;

// Where the values turn by a threshold or more: the places between which they go one way. Nothing
// where they do not move so much.
// @param threshold between two places
template <class Threshold>
std::vector<std::size_t> turns_of(const Values& v, std::size_t from, std::size_t to,
                                  const Threshold& threshold) {
  std::vector<std::size_t> out;
  std::size_t low = from;
  std::size_t high = from;
  int way = 0;  // up or down; not known at first
  for (std::size_t i = from; i <= to; ++i) {
    if (v[i] < v[low]) low = i;
    if (v[i] > v[high]) high = i;
    if (way <= 0 && v[i] > v[low] && v[i] - v[low] >= threshold(low, i)) {
      out.push_back(low);
      way = 1;
      high = i;
    } else if (way >= 0 && v[high] > v[i] && v[high] - v[i] >= threshold(high, i)) {
      out.push_back(high);
      way = -1;
      low = i;
    }
    // The other end begins anew at the last turn.
    if (way == 1 && i == high) low = i;
    if (way == -1 && i == low) high = i;
  }
  if (way == 1) out.push_back(high);
  if (way == -1) out.push_back(low);
  return out;
}

// Whether at least so many points lie beyond half of a leg: one alone is no move, however far off.
constexpr int least_points = 3;

// Without the turns that are little beside the way they interrupt: how a hand ends a pull, or how a
// smooth curve goes around a sharp corner.
void drop_little(const Values& v, std::vector<std::size_t>& turns) {
  const auto leg = [&](std::size_t i) { return std::abs(v[turns[i + 1]] - v[turns[i]]); };
  for (bool again = true; again && turns.size() > 2;) {
    again = false;
    for (std::size_t i = 0; i + 1 < turns.size(); ++i) {
      const double before = i > 0 ? leg(i - 1) : 0.0;
      const double after = i + 2 < turns.size() ? leg(i + 1) : 0.0;
      if (!(leg(i) < least_turn * std::max(before, after))) continue;
      const auto at = turns.begin() + static_cast<std::ptrdiff_t>(i);
      if (i == 0) {
        turns.erase(at);
      } else if (i + 2 == turns.size()) {
        turns.erase(at + 1);
      } else {
        turns.erase(at, at + 2);
      }
      again = true;
      break;
    }
  }
}

MoveKind kind_of(const Values& v, std::size_t from, std::size_t to, double threshold) {
  const std::vector<std::size_t> turns =
      turns_of(v, from, to, [&](std::size_t, std::size_t) { return threshold; });
  if (turns.size() < 2) return MoveKind::untold;
  if (turns.size() == 2) return MoveKind::pull;
  if (turns.size() > 3) return MoveKind::hunt;
  const double first = std::abs(v[turns[1]] - v[turns[0]]);
  const double second = std::abs(v[turns[2]] - v[turns[1]]);
  return second < first ? MoveKind::overshoot : MoveKind::hunt;
}

// One way, between two places of the curve.
struct Leg {
  std::size_t from = 0;
  std::size_t to = 0;
  std::size_t leaves = 0;   // the last place where it still stands
  std::size_t arrives = 0;  // the first where it stands again
};

double size_of(const Values& v, const Leg& leg) { return std::abs(v[leg.to] - v[leg.from]); }

Leg leg_of(const Values& v, std::size_t from, std::size_t to, double threshold) {
  Leg leg{from, to, from, to};
  const double tolerance = std::max(0.5 * threshold, standing * std::abs(v[to] - v[from]));
  while (leg.leaves + 1 < to && std::abs(v[leg.leaves + 1] - v[from]) <= tolerance) ++leg.leaves;
  while (leg.arrives > leg.leaves + 1 && std::abs(v[leg.arrives - 1] - v[to]) <= tolerance) {
    --leg.arrives;
  }
  return leg;
}

// The first rest within a leg: a stretch of so many frames in which it goes nowhere.
std::optional<Leg> rest_within(const ValueCurve& c, const Leg& leg, double threshold,
                               double frames) {
  const double tolerance = std::max(0.5 * threshold, standing * size_of(c.value, leg));
  for (std::size_t a = leg.leaves + 1; a < leg.arrives; ++a) {
    std::size_t b = a;
    while (b + 1 < leg.arrives && std::abs(c.value[b + 1] - c.value[a]) <= tolerance) ++b;
    if (c.frames[b] - c.frames[a] >= frames) return Leg{a, b, a, b};
  }
  return std::nullopt;
}

void add_legs(const ValueCurve& c, std::size_t from, std::size_t to, double threshold,
              double rest_frames, std::vector<Leg>& legs) {
  const Leg leg = leg_of(c.value, from, to, threshold);
  const auto rest = rest_within(c, leg, threshold, rest_frames);
  if (!rest) {
    legs.push_back(leg);
    return;
  }
  const std::size_t middle = (rest->from + rest->to) / 2;
  legs.push_back(leg_of(c.value, from, middle, threshold));
  add_legs(c, middle, to, threshold, rest_frames, legs);
}

// Whether it stands between two legs, or the second takes most of the first back.
bool apart(const ValueCurve& c, const Leg& a, const Leg& b, const MoveSettings& settings,
           double threshold, bool alone) {
  const double smaller = std::min(size_of(c.value, a), size_of(c.value, b));
  const double tolerance = std::max(0.5 * threshold, standing * smaller);
  std::size_t arrives = a.to;
  std::size_t leaves = b.from;
  while (arrives > a.leaves && std::abs(c.value[arrives - 1] - c.value[a.to]) <= tolerance) {
    --arrives;
  }
  while (leaves < b.arrives && std::abs(c.value[leaves + 1] - c.value[b.from]) <= tolerance) {
    ++leaves;
  }
  const auto length = [&](const Leg& leg) { return c.frames[leg.arrives] - c.frames[leg.leaves]; };
  const double needed = std::max(settings.rest_frames, 0.25 * std::max(length(a), length(b)));
  if (c.frames[leaves] - c.frames[arrives] >= needed) return true;
  const double larger = std::max(size_of(c.value, a), size_of(c.value, b));
  return alone && smaller >= way_back * larger;
}

// When the values first come so far, between two frames.
std::optional<double> first_past(const ValueCurve& c, const Values& v, std::size_t from,
                                 std::size_t to, double level, bool up) {
  for (std::size_t i = from; i < to; ++i) {
    const double a = up ? v[i] - level : level - v[i];
    const double b = up ? v[i + 1] - level : level - v[i + 1];
    if (a > 0.0) return c.frames[i];
    if (b >= 0.0) return c.frames[i] + (c.frames[i + 1] - c.frames[i]) * (a / (a - b));
  }
  return std::nullopt;
}

struct Spread {
  double mean = 0.0;
  double margin = 0.0;  // two deviations
};

Spread spread_of(const Values& v) {
  Spread out;
  if (v.empty()) return out;
  for (const double x : v) out.mean += x / static_cast<double>(v.size());
  double square = 0.0;
  for (const double x : v) square += (x - out.mean) * (x - out.mean);
  out.margin = 2.0 * std::sqrt(square / static_cast<double>(v.size()));
  return out;
}

class MoveFinder {
 public:
  MoveFinder(const std::vector<CurvePoint>& points, const ValueCurve& curve,
             const MoveSettings& settings)
      : points_(points), curve_(curve), settings_(settings) {}

  Moves run() {
    Moves out;
    Values sigmas = curve_.sigma;
    std::nth_element(sigmas.begin(),
                     sigmas.begin() + static_cast<std::ptrdiff_t>(sigmas.size() / 2), sigmas.end());
    sigma_ = sigmas[sigmas.size() / 2];
    threshold_ = std::max(settings_.least, std::sqrt(2.0) * seen_from * sigma_);
    out.threshold = threshold_;
    const Values& v = curve_.value;
    // Before the first point and after the last one it may have done anything.
    const auto& at = curve_.frames;
    const auto first = static_cast<std::size_t>(
        std::lower_bound(at.begin(), at.end(), points_.front().frame) - at.begin());
    const auto last = static_cast<std::size_t>(
        std::upper_bound(at.begin(), at.end(), points_.back().frame) - at.begin() - 1);
    if (last < first + 2) return out;
    std::vector<std::size_t> turns = turns_of(v, first, last, [&](std::size_t i, std::size_t k) {
      return std::max(threshold_, seen_from * std::hypot(curve_.sigma[i], curve_.sigma[k]));
    });
    drop_little(v, turns);
    drop_unseen(turns);
    if (turns.size() < 2) {
      double w = 0.0;
      for (std::size_t i = 0; i < v.size(); ++i) {
        const double s = std::max(curve_.sigma[i], 1e-300);
        w += 1.0 / (s * s);
        out.rest += v[i] / (s * s);
      }
      out.rest /= w;
      return out;
    }
    std::vector<Leg> legs;
    for (std::size_t i = 0; i + 1 < turns.size(); ++i) {
      add_legs(curve_, turns[i], turns[i + 1], threshold_, settings_.rest_frames, legs);
    }
    ways_ = possible_curves(points_, curve_, asked_ways);
    for (std::size_t i = 0; i < legs.size();) {
      std::size_t k = i + 1;
      while (k < legs.size() && !parted(legs, i, k)) ++k;
      const Move move = move_of(legs[i], legs[k - 1], i == 0 ? first : legs[i - 1].arrives,
                                k < legs.size() ? legs[k].leaves : last);
      // What most of the possible ways do not show is none.
      if (move.likeliest != MoveKind::untold) out.moves.push_back(move);
      i = k;
    }
    return out;
  }

 private:
  // Points at or beyond half of the way to a turn, before the curve is back at half of the next
  // leg.
  int beyond(const std::vector<std::size_t>& turns, std::size_t turn) const {
    const Values& v = curve_.value;
    const auto half = [&](std::size_t other) { return 0.5 * (v[turns[turn]] + v[turns[other]]); };
    const bool up =
        turn > 0 ? v[turns[turn]] > v[turns[turn - 1]] : v[turns[turn]] > v[turns[turn + 1]];
    const auto past = [&](std::size_t i, double level) {
      return up ? v[i] >= level : v[i] <= level;
    };
    std::size_t a = turns[turn];
    std::size_t b = turns[turn];
    if (turn > 0) {
      while (a > turns[turn - 1] && past(a - 1, half(turn - 1))) --a;
    } else {
      a = 0;  // all before it
    }
    if (turn + 1 < turns.size()) {
      while (b < turns[turn + 1] && past(b + 1, half(turn + 1))) ++b;
    } else {
      b = v.size() - 1;
    }
    int count = 0;
    for (const CurvePoint& p : points_) {
      const double level = half(turn > 0 ? turn - 1 : turn + 1);
      const bool there = up ? p.value >= level : p.value <= level;
      count += there && p.frame >= curve_.frames[a] && p.frame <= curve_.frames[b] ? 1 : 0;
    }
    return count;
  }

  void drop_unseen(std::vector<std::size_t>& turns) const {
    for (std::size_t i = 0; i < turns.size() && turns.size() > 1;) {
      if (beyond(turns, i) >= least_points) {
        ++i;
        continue;
      }
      // An end goes alone; a turn in the middle with the one after it.
      const bool end = i == 0 || i + 1 == turns.size();
      const auto at = turns.begin() + static_cast<std::ptrdiff_t>(i);
      turns.erase(at, at + (end ? 1 : 2));
      i = 0;
    }
    if (turns.size() == 1) turns.clear();
  }

  // Whether leg k begins a move of its own, after those from i on.
  bool parted(const std::vector<Leg>& legs, std::size_t i, std::size_t k) const {
    const bool alone = k == i + 1 && (k + 1 == legs.size() || apart(curve_, legs[k], legs[k + 1],
                                                                    settings_, threshold_, false));
    return apart(curve_, legs[k - 1], legs[k], settings_, threshold_, alone);
  }

  // The middle value between two places of the curve.
  double middle_of(std::size_t from, std::size_t to) const {
    Values some(curve_.value.begin() + static_cast<std::ptrdiff_t>(std::min(from, to)),
                curve_.value.begin() + static_cast<std::ptrdiff_t>(std::max(from, to)) + 1);
    std::nth_element(some.begin(), some.begin() + static_cast<std::ptrdiff_t>(some.size() / 2),
                     some.end());
    return some[some.size() / 2];
  }

  // What lies between two rests. @param first, last how far the rests about it reach
  Move move_of(const Leg& a, const Leg& b, std::size_t first, std::size_t last) const {
    const Values& v = curve_.value;
    Move out;
    out.begins = curve_.frames[a.leaves];
    out.ends = curve_.frames[b.arrives];
    // What it stood at before and after.
    out.from = middle_of(first, a.leaves);
    out.to = middle_of(b.arrives, last);
    const auto [low, high] =
        std::minmax_element(v.begin() + static_cast<std::ptrdiff_t>(a.leaves),
                            v.begin() + static_cast<std::ptrdiff_t>(b.arrives) + 1);
    const double range = *high - *low;
    const bool up = out.to > out.from;
    out.past = std::max(0.0, (up ? *high - out.to : out.to - *low)) / std::abs(out.to - out.from);
    const double turn = std::max(threshold_, least_turn * range);
    tell_kind(a.leaves, b.arrives, turn, range, out);
    tell_times(a.leaves, b.arrives, out);
    constexpr std::size_t beside = 12;
    matching::fit_ease(points_, curve_, std::max(first, a.leaves - std::min(a.leaves, beside)),
                       std::min(last, b.arrives + beside), out);
    return out;
  }

  void tell_kind(std::size_t from, std::size_t to, double turn, double range, Move& out) const {
    constexpr std::array kinds{MoveKind::pull, MoveKind::overshoot, MoveKind::hunt,
                               MoveKind::untold};
    std::array<std::size_t, kinds.size()> count{};
    for (const Values& way : ways_) ++count[static_cast<std::size_t>(kind_of(way, from, to, turn))];
    const auto most = std::max_element(count.begin(), count.end());
    out.likeliest = kinds[static_cast<std::size_t>(most - count.begin())];
    out.sure = static_cast<double>(*most) / static_cast<double>(ways_.size());
    out.kind = out.likeliest;
    const bool hidden = (out.likeliest == MoveKind::pull && turn > hidden_turn * range) ||
                        (out.likeliest == MoveKind::overshoot &&
                         turn > hidden_third * out.past * std::abs(out.to - out.from));
    if (hidden || out.sure < agreed) out.kind = MoveKind::untold;
  }

  void tell_times(std::size_t from, std::size_t to, Move& out) const {
    const bool up = out.to > out.from;
    Values tenths;
    Values nines;
    for (const Values& way : ways_) {
      const double step = way[to] - way[from];
      if (!((step > 0.0) == up)) continue;
      const auto t = first_past(curve_, way, from, to, way[from] + 0.1 * step, up);
      const auto n = first_past(curve_, way, from, to, way[from] + 0.9 * step, up);
      if (t) tenths.push_back(*t);
      if (n) nines.push_back(*n);
    }
    const Spread tenth = spread_of(tenths);
    const Spread nine = spread_of(nines);
    out.tenth = tenth.mean;
    out.tenth_margin = tenth.margin;
    out.nine_tenths = nine.mean;
    out.nine_tenths_margin = nine.margin;
  }

  const std::vector<CurvePoint>& points_;
  const ValueCurve& curve_;
  const MoveSettings& settings_;
  double sigma_ = 0.0;
  double threshold_ = 0.0;
  std::vector<Values> ways_{};
};

}  // namespace

std::string_view to_string(MoveKind kind) {
  return name_of<MoveKind::untold>(kind, {"pull", "overshoot", "hunt", "move"});
}

Moves moves_of(const std::vector<CurvePoint>& points, const ValueCurve& curve,
               const MoveSettings& settings) {
  if (curve.frames.size() < 3) {
    Moves out;
    out.threshold = settings.least;
    out.rest = curve.empty() ? 0.0 : curve.value.front();
    return out;
  }
  return MoveFinder(points, curve, settings).run();
}

}  // namespace jolly_iris
