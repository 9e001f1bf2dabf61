#include "sequence_findings.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <optional>
#include <tuple>

namespace jolly_iris {

namespace {

// A noted move may be so many frames from the plate's and still be the same one.
constexpr double same_move = 48.0;
// Cameras that expose by themselves do so while the lens zooms, or within a second of it.
constexpr double after_zoom = 24.0;
// What nobody calls a difference, frames.
constexpr double same_frame = 1.5;

std::string said(Parameter of, double even) {
  const double v = as_written(of, even);
  switch (of) {
    case Parameter::focus:
      return std::isinf(v) ? std::string("infinity") : fmt::format("{:.3g} m", v);
    case Parameter::stop:
      return fmt::format("f/{:.3g}", v);
    case Parameter::focal:
      return fmt::format("{:.4g} mm", v);
    case Parameter::exposure:
      return fmt::format("{:+.2f} stops", v);
    case Parameter::white:
      return fmt::format("{:+.0f} mired", v);
    case Parameter::focus_change:
      return fmt::format("{:+.3f} dpt", v);
    case Parameter::gate:
    case Parameter::squeeze:
    case Parameter::scale:
    case Parameter::distance:
      break;
  }
  return fmt::format("{:.4g}", v);
}

const char* moved_word(Parameter of) {
  switch (of) {
    case Parameter::focus:
    case Parameter::focus_change:
      return "focus";
    case Parameter::stop:
      return "the stop";
    case Parameter::focal:
      return "the focal length";
    case Parameter::exposure:
      return "the exposure";
    case Parameter::white:
      return "the white";
    case Parameter::gate:
    case Parameter::squeeze:
    case Parameter::scale:
    case Parameter::distance:
      break;
  }
  return "a value";
}

std::string verb_of(Parameter of, const Move& move) {
  const bool focus = of == Parameter::focus || of == Parameter::focus_change;
  if (move.kind == MoveKind::hunt) {
    return focus ? "hunts, as an autofocus does," : "swings";
  }
  if (move.kind == MoveKind::overshoot) {
    return fmt::format("goes {:.0f} % past its end, and back, on its way", 100.0 * move.past);
  }
  return focus ? "is pulled" : "goes";
}

double middle_of(const Move& m) { return 0.5 * (m.tenth + m.nine_tenths); }
double middle_of(const NotedMove& m) { return 0.5 * (m.begins + m.ends); }

std::string over(double begins, double ends) {
  return fmt::format("over frames {:.0f} to {:.0f}", begins, ends);
}

// The margin of the curve nearest to a frame.
double margin_at(const FollowedValue& v, double frame) {
  double best = 1e300;
  double margin = 0.0;
  for (const FrameValue& f : v.at) {
    if (std::abs(f.frame - frame) >= best) continue;
    best = std::abs(f.frame - frame);
    margin = f.margin;
  }
  return margin;
}

class Teller {
 public:
  explicit Teller(const CameraSequence& s) : s_(s) {}

  std::vector<SequenceFinding> run() {
    for (const FollowedValue& v : s_.camera.values) {
      if (v.of == Parameter::focus_change) {
        tell_focus_change(v);
      } else if (v.relative) {
        tell_change(v);
      } else {
        tell(v);
      }
    }
    return std::move(out_);
  }

 private:
  void say(const FollowedValue& v, std::optional<std::size_t> move, bool disagrees,
           std::string message) {
    message.front() = static_cast<char>(std::toupper(static_cast<unsigned char>(message.front())));
    out_.push_back({v.of, move, disagrees, std::move(message)});
  }

  void tell(const FollowedValue& v) {
    std::vector<NotedMove> noted = noted_moves(v);
    if (v.moves.moves.empty()) tell_still(v, noted);
    for (std::size_t i = 0; i < v.moves.moves.size(); ++i) {
      const Move& m = v.moves.moves[i];
      const std::string what =
          fmt::format("{} {} from {} to {} {}", moved_word(v.of), verb_of(v.of, m),
                      said(v.of, m.from), said(v.of, m.to), over(m.begins, m.ends));
      const auto same = nearest(noted, m);
      if (!same) {
        say(v, i, true, fmt::format("{}; in the notes it stands still there.", what));
        continue;
      }
      const NotedMove n = *same;
      std::erase_if(noted, [&](const NotedMove& o) { return o.begins == n.begins; });
      std::string against = timing(m, n);
      for (const auto& [mine, theirs, word, frame] :
           {std::tuple{m.from, n.from, "begins", m.begins},
            std::tuple{m.to, n.to, "ends", m.ends}}) {
        if (std::abs(mine - theirs) <= std::max(margin_at(v, frame), v.moves.threshold)) continue;
        against += fmt::format("{}it {} at {}, noted {}", against.empty() ? "" : "; ", word,
                               said(v.of, mine), said(v.of, theirs));
      }
      say(v, i, !against.empty(),
          against.empty() ? fmt::format("{}, as noted.", what)
                          : fmt::format("{}: {}.", what, against));
    }
    for (const NotedMove& n : noted) {
      if (v.moves.moves.empty() || !watched(n)) continue;
      say(v, {}, true,
          fmt::format("the notes have {} go from {} to {} {}; in the plate it stands still there.",
                      moved_word(v.of), said(v.of, n.from), said(v.of, n.to),
                      over(n.begins, n.ends)));
    }
  }

  void tell_still(const FollowedValue& v, std::vector<NotedMove>& noted) {
    if (v.at.empty()) return;
    const FrameValue& middle = v.at[v.at.size() / 2];
    const auto is_told = [](const FrameValue& f) { return f.value.has_value(); };
    const bool told = std::any_of(v.at.begin(), v.at.end(), is_told);
    for (const NotedMove& n : noted) {
      if (!told || !watched(n)) continue;
      say(v, {}, true,
          fmt::format("the notes have {} go from {} to {} {}; in the plate it stands still.",
                      moved_word(v.of), said(v.of, n.from), said(v.of, n.to),
                      over(n.begins, n.ends)));
    }
    if (!noted.empty()) return;
    const bool off = std::abs(middle.curve - middle.noted) > middle.margin;
    if (v.of != Parameter::focus && !off) return;
    const double low = as_written(v.of, middle.curve + middle.margin);
    const double high = as_written(v.of, middle.curve - middle.margin);
    say(v, {}, off,
        fmt::format("{} stands still at {} ({} to {}){}.", moved_word(v.of),
                    said(v.of, middle.curve), said(v.of, evenly_counted(v.of, std::min(low, high))),
                    said(v.of, evenly_counted(v.of, std::max(low, high))),
                    off ? ", noted " + said(v.of, middle.noted) : ", as noted"));
  }

  static std::string how(const Move& m) {
    if (m.kind == MoveKind::hunt) return ", hunting as an autofocus does";
    return m.kind == MoveKind::overshoot
               ? fmt::format(", {:.0f} % past its end and back", 100.0 * m.past)
               : std::string();
  }

  // No lamp's distance is known: by how much, and when.
  void tell_focus_change(const FollowedValue& v) {
    std::vector<NotedMove> noted = noted_moves(v);
    const bool open = s_.camera.way_open;
    for (std::size_t i = 0; i < v.moves.moves.size(); ++i) {
      const Move& m = v.moves.moves[i];
      const double by = m.to - m.from;
      const std::string what = fmt::format("focus {} {:.3f} dpt {} {}{}",
                                           !open && by > 0.0 ? "comes" : "goes", std::abs(by),
                                           open       ? "one way"
                                           : by > 0.0 ? "nearer"
                                                      : "farther",
                                           over(m.begins, m.ends), how(m));
      const auto same = open ? std::nullopt : nearest(noted, m);
      if (!same) {
        say(v, i, true,
            fmt::format("{}; in the notes it stands still there.{}", what,
                        open ? " Nearer or farther neither discs nor notes tell." : ""));
        continue;
      }
      const NotedMove n = *same;
      std::erase_if(noted, [&](const NotedMove& o) { return o.begins == n.begins; });
      std::string against = timing(m, n);
      const double margin = std::max(margin_at(v, m.ends), v.moves.threshold);
      if (std::abs(by - (n.to - n.from)) > margin) {
        against += fmt::format("{}noted by {:.3f} dpt", against.empty() ? "" : "; ",
                               std::abs(n.to - n.from));
      }
      say(v, i, !against.empty(),
          against.empty() ? fmt::format("{}, as noted.", what)
                          : fmt::format("{}: {}.", what, against));
    }
    for (const NotedMove& n : noted) {
      if (!watched(n)) continue;
      say(v, {}, true,
          fmt::format("the notes have {} go by {:.3f} dpt {}; in the plate it stands still{}.",
                      moved_word(v.of), std::abs(n.to - n.from), over(n.begins, n.ends),
                      v.moves.moves.empty() ? "" : " there"));
    }
    if (v.moves.moves.empty() && noted.empty()) {
      say(v, {}, false,
          fmt::format("focus stands still, within {:.3f} dpt, as noted.",
                      std::max(margin_at(v, v.at.back().frame), v.moves.threshold)));
    }
  }

  // Exposure and white against the first frame.
  void tell_change(const FollowedValue& v) {
    for (std::size_t i = 0; i < v.moves.moves.size(); ++i) {
      const Move& m = v.moves.moves[i];
      std::string text =
          v.of == Parameter::exposure
              ? fmt::format("the picture becomes {:.2f} stops {} {}", std::abs(m.to - m.from),
                            m.to > m.from ? "brighter" : "darker", over(m.begins, m.ends))
              : fmt::format("the light becomes {:.0f} mired {} {}", std::abs(m.to - m.from),
                            m.to > m.from ? "warmer" : "colder", over(m.begins, m.ends));
      if (v.of == Parameter::exposure) text += reason(m);
      say(v, i, false, text + ".");
    }
  }

  std::string reason(const Move& m) const {
    if (s_.camera.relative) return ": stop, shutter, sensitivity or a filter changed, or the lamps";
    const FollowedValue* stop = s_.camera.value(Parameter::stop);
    for (const Move& other : stop->moves.moves) {
      if (m.begins > other.ends || m.ends < other.begins) continue;
      return std::abs(other.to - other.from + (m.to - m.from)) < 0.25
                 ? ", as much as the stop makes it"
                 : ", while the stop goes by another amount";
    }
    const FollowedValue* focal = s_.camera.value(Parameter::focal);
    for (const Move& zoom : focal->moves.moves) {
      if (m.ends < zoom.begins || m.begins > zoom.ends + after_zoom) continue;
      return m.begins > zoom.ends ? ": exposed anew after the zoom" : ": exposed anew in the zoom";
    }
    return ": shutter, sensitivity or a filter changed, or the lamps did";
  }

  static std::optional<NotedMove> nearest(const std::vector<NotedMove>& noted, const Move& m) {
    std::optional<NotedMove> best;
    for (const NotedMove& n : noted) {
      const bool same_way = (n.to > n.from) == (m.to > m.from);
      const double apart = std::abs(middle_of(n) - middle_of(m));
      if (!same_way || apart > same_move) continue;
      if (!best || apart < std::abs(middle_of(*best) - middle_of(m))) best = n;
    }
    return best;
  }

  // When it happened against when it was noted.
  static std::string timing(const Move& m, const NotedMove& n) {
    const double margin = std::max(same_frame, 0.5 * (m.tenth_margin + m.nine_tenths_margin));
    const double lag = middle_of(m) - middle_of(n);
    const double longer = (m.ends - m.begins) - (n.ends - n.begins);
    std::string out;
    if (std::abs(lag) > margin) {
      out = fmt::format("{:.0f} frames {} than noted ({:.0f} to {:.0f})", std::abs(lag),
                        lag > 0.0 ? "later" : "earlier", n.begins, n.ends);
    }
    // Ends of an ease are soft: both margins, and a sixth of the way.
    if (std::abs(longer) > 2.0 * margin + (n.ends - n.begins) / 6.0) {
      out += fmt::format("{}it takes {:.0f} frames, noted {:.0f}", out.empty() ? "" : "; ",
                         m.ends - m.begins, n.ends - n.begins);
    }
    return out;
  }

  // Whether the plate showed anything in most of those frames.
  bool watched(const NotedMove& n) const {
    int all = 0;
    int seen = 0;
    for (const NotedFrame& f : s_.frames) {
      if (f.frame < n.begins || f.frame > n.ends) continue;
      ++all;
      seen += f.seen.empty() && f.unplaced.empty() ? 0 : 1;
    }
    return 2 * seen > all;
  }

  const CameraSequence& s_;
  std::vector<SequenceFinding> out_{};
};

}  // namespace

std::vector<NotedMove> noted_moves(const FollowedValue& value) {
  std::vector<NotedMove> out;
  double range = 0.0;
  for (const FrameValue& v : value.at) {
    range = std::max(range, std::abs(v.noted - value.at.front().noted));
  }
  const double least = 1e-6 * range;
  for (std::size_t i = 1; i < value.at.size(); ++i) {
    const FrameValue& a = value.at[i - 1];
    const FrameValue& b = value.at[i];
    if (!(std::abs(b.noted - a.noted) > least)) continue;
    if (!out.empty() && out.back().ends == a.frame) {
      out.back().ends = b.frame;
      out.back().to = b.noted;
    } else {
      out.push_back({a.frame, b.frame, a.noted, b.noted});
    }
  }
  return out;
}

std::vector<SequenceFinding> findings_of(const CameraSequence& sequence) {
  return Teller(sequence).run();
}

}  // namespace jolly_iris
