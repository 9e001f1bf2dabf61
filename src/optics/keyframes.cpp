#include "jolly_iris/optics/keyframes.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <optional>

#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/optics/frame_name.hpp"
#include "jolly_iris/optics/quantity.hpp"
#include "optics/nearest.hpp"

namespace jolly_iris {

namespace {

using Numbers = std::array<double, 3>;

// Even steps in what: the number, its logarithm, its reciprocal.
enum class Space { number, factor, reciprocal };

struct Keyable {
  std::string_view key;
  Space space;
  double (*parse)(const Shot&, std::string_view);
  void (*set)(Shot&, double);
};

double number_in(std::string_view text, const char* wanted) {
  try {
    return parse_multiple(fmt::format("{} x", text));
  } catch (const QuantityError&) {
    throw QuantityError(fmt::format("'{}' is not {}", text, wanted));
  }
}

double above_zero(double value, std::string_view text) {
  if (value > 0.0) return value;
  throw QuantityError(fmt::format("'{}' is not above zero", text));
}

double stop_in(const Shot& base, std::string_view text) {
  const Stop stop = parse_stop(text);
  if (stop.kind != base.take.stop.kind && base.take.stop.value > 0.0) {
    throw QuantityError(fmt::format(
        "'{}' and the shot's stop are an f-number and a T-number; keep to one of them", text));
  }
  return stop.value;
}

double shutter_in(const Shot& base, std::string_view text) {
  const Shutter shutter = parse_shutter(text);
  const auto& now = base.take.shutter;
  if (now && now->time.has_value() != shutter.time.has_value()) {
    throw QuantityError(fmt::format(
        "'{}' and the shot's shutter are a time and an angle; keep to one of them", text));
  }
  return shutter.time ? shutter.time->seconds() : shutter.angle->radians();
}

double length_in(std::string_view text) { return parse_length(text).mm(); }
double distance_in(std::string_view text) { return above_zero(parse_distance(text).mm(), text); }

void set_focus(Shot& shot, DistanceKind kind, double mm) {
  DistanceEntry entry = shot.focus.distance.value_or(DistanceEntry{});
  entry.kind = kind;
  entry.length = Length::from_mm(mm);
  shot.focus.distance = entry;
}

#define JOLLY_IRIS_FOCUS(NAME, KIND)                                                         \
  {                                                                                          \
    NAME, Space::reciprocal, [](const Shot&, std::string_view t) { return distance_in(t); }, \
        [](Shot& s, double v) { set_focus(s, DistanceKind::KIND, v); }                       \
  }

const std::vector<Keyable>& keyables() {
  static const std::vector<Keyable> table{
      {"take.stop", Space::factor, stop_in, [](Shot& s, double v) { s.take.stop.value = v; }},
      {"take.mark", Space::reciprocal,
       [](const Shot&, std::string_view t) { return distance_in(t); },
       [](Shot& s, double v) { s.take.mark = Length::from_mm(v); }},
      {"take.iso", Space::factor,
       [](const Shot&, std::string_view t) { return above_zero(number_in(t, "an ISO"), t); },
       [](Shot& s, double v) { s.take.iso = v; }},
      {"take.shutter", Space::factor, shutter_in,
       [](Shot& s, double v) {
         if (s.take.shutter && s.take.shutter->time)
           s.take.shutter->time = Duration::from_seconds(v);
         else
           s.take.shutter = Shutter{{}, Angle::from_radians(v)};
       }},
      {"take.nd", Space::number, [](const Shot&, std::string_view t) { return parse_density(t); },
       [](Shot& s, double v) { s.take.nd_stops = v; }},
      {"take.ev", Space::number,
       [](const Shot&, std::string_view t) { return number_in(t, "an exposure value"); },
       [](Shot& s, double v) { s.take.ev = v; }},
      {"take.white", Space::reciprocal,  // even steps of mired
       [](const Shot&, std::string_view t) { return parse_temperature(t).kelvin(); },
       [](Shot& s, double v) {
         s.take.white = White{Temperature::from_kelvin(v), s.take.white.value_or(White{}).tint};
       }},
      {"take.height", Space::number, [](const Shot&, std::string_view t) { return length_in(t); },
       [](Shot& s, double v) { s.take.height = Length::from_mm(v); }},
      {"take.tilt", Space::number,
       [](const Shot&, std::string_view t) { return parse_angle(t).radians(); },
       [](Shot& s, double v) { s.take.tilt = Angle::from_radians(v); }},
      {"lens.focal", Space::factor,
       [](const Shot&, std::string_view t) { return above_zero(length_in(t), t); },
       [](Shot& s, double v) { s.lens.focal = Length::from_mm(v); }},
      {"lens.squeeze", Space::number,
       [](const Shot&, std::string_view t) { return number_in(t, "a squeeze"); },
       // Pictures stay desqueezed by the nominal one.
       [](Shot& s, double v) { s.lens.squeeze_now = v; }},
      {"lens.pupil", Space::number, [](const Shot&, std::string_view t) { return length_in(t); },
       [](Shot& s, double v) { s.lens.pupil = Length::from_mm(v); }},
      {"lens.shift_right", Space::number,
       [](const Shot&, std::string_view t) { return length_in(t); },
       [](Shot& s, double v) { s.lens.shift_right = Length::from_mm(v); }},
      {"lens.shift_up", Space::number, [](const Shot&, std::string_view t) { return length_in(t); },
       [](Shot& s, double v) { s.lens.shift_up = Length::from_mm(v); }},
      {"lens.iris.rotation", Space::number,
       [](const Shot&, std::string_view t) { return parse_angle(t).radians(); },
       [](Shot& s, double v) { s.lens.iris.rotation = Angle::from_radians(v); }},
      JOLLY_IRIS_FOCUS("focus.at", axial),
      JOLLY_IRIS_FOCUS("focus.radial", radial),
      JOLLY_IRIS_FOCUS("focus.tape", tape),
      JOLLY_IRIS_FOCUS("focus.mark", mark),
      JOLLY_IRIS_FOCUS("focus.floor", floor),
      {"focus.offset", Space::number, [](const Shot&, std::string_view t) { return length_in(t); },
       [](Shot& s, double v) { s.focus.offset = Length::from_mm(v); }},
      {"depth.distance", Space::reciprocal,
       [](const Shot&, std::string_view t) { return distance_in(t); },
       [](Shot& s, double v) {
         if (!s.depth) s.depth.emplace();
         s.depth->distance = Length::from_mm(v);
       }},
      {"finish.lift_from", Space::number,
       [](const Shot&, std::string_view t) { return parse_stops(t); },
       [](Shot& s, double v) {
         if (s.finish.lift) s.finish.lift->from_stops = v;
       }},
      {"finish.lift_to", Space::number,
       [](const Shot&, std::string_view t) { return parse_stops(t); },
       [](Shot& s, double v) {
         if (s.finish.lift) s.finish.lift->to_stops = v;
       }},
      {"finish.lift_peak", Space::number,
       [](const Shot&, std::string_view t) { return parse_stops(t); },
       [](Shot& s, double v) {
         if (s.finish.lift) s.finish.lift->peak_stops = v;
       }},
      {"finish.corners", Space::number,
       [](const Shot&, std::string_view t) { return parse_stops(t); },
       [](Shot& s, double v) {
         s.finish.corners = Corners{v, s.finish.corners.value_or(Corners{}).power};
       }},
      {"finish.cast", Space::number,
       [](const Shot&, std::string_view t) { return number_in(t, "a shift in mired"); },
       [](Shot& s, double v) {
         s.finish.cast = Cast{v, s.finish.cast.value_or(Cast{}).tint};
       }},
      {"cheat.blur", Space::number,
       [](const Shot&, std::string_view t) { return above_zero(number_in(t, "a factor"), t); },
       [](Shot& s, double v) { s.blur_override.blur = v; }},
  };
  return table;
}

#undef JOLLY_IRIS_FOCUS

const Keyable* find(std::string_view key) {
  for (const Keyable& k : keyables()) {
    if (k.key == key) return &k;
  }
  return nullptr;
}

// "subject.boat.at" → its name and "at". A name may hold dots itself.
struct SubjectKey {
  std::string name;
  std::string what;
};
std::optional<SubjectKey> subject_key(const std::string& key) {
  constexpr std::string_view prefix = "subject.";
  const std::size_t dot = key.rfind('.');
  if (!key.starts_with(prefix) || dot < prefix.size()) return std::nullopt;
  return SubjectKey{key.substr(prefix.size(), dot - prefix.size()), key.substr(dot + 1)};
}

std::optional<DistanceKind> distance_word(const std::string& word) {
  if (word == "at") return DistanceKind::axial;
  for (const DistanceKind kind :
       {DistanceKind::radial, DistanceKind::tape, DistanceKind::mark, DistanceKind::floor}) {
    if (word == to_string(kind)) return kind;
  }
  return std::nullopt;
}

[[noreturn]] void refuse_key(const std::string& key) {
  throw UsageError(fmt::format("{} cannot change over frames.{} These can: {}", key,
                               did_you_mean(key, keyable_keys()), fmt::join(keyable_keys(), ", ")));
}

double in_space(Space space, const Ease& ease, double a, double b, double t) {
  if (t <= 0.0) return a;
  if (t >= 1.0) return b;
  switch (space) {
    case Space::factor:
      return std::exp(between(ease, std::log(a), std::log(b), t));
    case Space::reciprocal:
      // In dioptres; a hunt that strays past infinity rests there, as a barrel does at its stop.
      return 1000.0 / std::max(0.0, between(ease, 1000.0 / a, 1000.0 / b, t));
    case Space::number:
      break;
  }
  return between(ease, a, b, t);
}

// Between which two keys a frame lies, and how far.
template <class Keys>
struct Between {
  std::size_t from = 0;
  std::size_t to = 0;
  double fraction = 0.0;
  Between(const Keys& keys, double frame) {
    if (frame <= keys.front().frame) return;
    from = to = keys.size() - 1;
    if (frame >= keys.back().frame) return;
    to = static_cast<std::size_t>(
        std::upper_bound(keys.begin(), keys.end(), frame,
                         [](double f, const auto& k) { return f < k.frame; }) -
        keys.begin());
    from = to - 1;
    fraction = (frame - keys[from].frame) / (keys[to].frame - keys[from].frame);
  }
};

Numbers value_at(const Keyframed& keyed, Space space, double frame) {
  const Between at(keyed.keys, frame);
  Numbers value{};
  for (std::size_t i = 0; i < 3; ++i) {
    value[i] = in_space(space, keyed.ease, keyed.keys[at.from].value[i], keyed.keys[at.to].value[i],
                        at.fraction);
  }
  return value;
}

void set_subject(Shot& shot, const Keyframed& keyed, const SubjectKey& key, double frame) {
  for (SubjectEntry& entry : shot.subjects) {
    if (entry.name != key.name) continue;
    if (key.what == "place") {
      entry.place = value_at(keyed, Space::number, frame);
    } else if (const auto kind = distance_word(key.what)) {
      DistanceEntry distance = entry.distance.value_or(DistanceEntry{});
      distance.kind = *kind;
      distance.length = Length::from_mm(value_at(keyed, Space::number, frame)[0]);
      entry.distance = distance;
    }
  }
}

}  // namespace

std::vector<std::string> keyable_keys() {
  std::vector<std::string> keys;
  for (const Keyable& k : keyables()) keys.emplace_back(k.key);
  for (const char* what : {"at", "radial", "tape", "mark", "floor", "place"}) {
    keys.push_back(fmt::format("subject.NAME.{}", what));
  }
  return keys;
}

bool is_keyed_place(const std::string& key) {
  const auto subject = subject_key(key);
  return subject && subject->what == "place";
}

Numbers parse_keyed(const Shot& base, const std::string& key, std::string_view text) {
  if (const Keyable* k = find(key)) return {k->parse(base, text), 0.0, 0.0};
  const auto subject = subject_key(key);
  if (!subject || !distance_word(subject->what)) refuse_key(key);
  return {distance_in(text), 0.0, 0.0};
}

Shot shot_at(const Shot& shot, double frame) {
  Shot now = shot;
  now.frame = frame;
  // Between two frames, where a smear looks, there is no picture.
  if (now.plate && frame == std::floor(frame)) now.plate->file = numbered(now.plate->file, frame);
  for (const Keyframed& keyed : shot.keyframes) {
    if (const Keyable* k = find(keyed.key)) {
      k->set(now, value_at(keyed, k->space, frame)[0]);
    } else if (const auto subject = subject_key(keyed.key)) {
      set_subject(now, keyed, *subject, frame);
    }
  }
  if (shot.track && !shot.track->rows.empty() && shot.track->rows.front().focal) {
    const auto& rows = shot.track->rows;
    const Between at(rows, frame);
    now.lens.focal =
        Length::from_mm(in_space(Space::factor, Ease{Ease::Kind::linear}, rows[at.from].focal->mm(),
                                 rows[at.to].focal->mm(), at.fraction));
  }
  if (!shot.pulls.empty()) {
    const Between at(shot.pulls, frame);
    now.focus = shot.pulls[at.from].focus;
    if (at.fraction > 0.0) {
      now.move = FocusMove{shot.pulls[at.from].focus, shot.pulls[at.to].focus,
                           shot.pulls[at.to].ease, at.fraction};
    }
  }
  return now;
}

bool changes_over_frames(const Shot& shot) {
  const auto moves = [](const auto& keys) { return keys.size() > 1; };
  return moves(shot.pulls) || (shot.track && moves(shot.track->rows)) ||
         std::any_of(shot.keyframes.begin(), shot.keyframes.end(),
                     [&](const Keyframed& k) { return moves(k.keys); });
}

}  // namespace jolly_iris
