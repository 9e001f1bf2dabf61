#include <fmt/format.h>

#include <algorithm>
#include <charconv>
#include <cmath>
#include <map>

#include "jolly_iris/optics/keyframes.hpp"
#include "jolly_iris/optics/quantity.hpp"
#include "shot_sections.hpp"

namespace jolly_iris {

namespace {

// The ease of keys or of a pull, with what belongs to the hunts.
Ease read_ease(ShotReader& in, const std::string& base) {
  using Kind = Ease::Kind;
  Ease ease;
  std::vector<std::pair<std::string, Kind>> kinds;
  for (const Kind kind : {Kind::step, Kind::linear, Kind::smooth, Kind::slow_start, Kind::slow_stop,
                          Kind::overshoot, Kind::search}) {
    kinds.emplace_back(to_string(kind), kind);
  }
  if (const auto v = in.choice<Kind>(base + ".ease", kinds)) ease.kind = *v;
  if (const auto v = in.number(base + ".by", 1e-6, 10.0,
                               "a share of the way, e.g. 0.15 to go 15 % past the target")) {
    ease.by = *v;
  }
  if (const auto v = in.number(base + ".swings", 1.0, 20.0, "a number of swings, 1 to 20")) {
    if (*v != std::floor(*v)) {
      in.mistake(base + ".swings", fmt::format("'{:g}' is not a whole number of swings", *v));
    }
    ease.swings = static_cast<int>(*v);
  }
  if (const auto v = in.quantity<Power>(base + ".stray", parse_power)) {
    ease.dioptres = v->dioptres();
    if (!(ease.dioptres > 0.0)) {
      in.mistake(base + ".stray", "is not above zero; write e.g. 0.25 dioptres");
    }
  }
  const bool hunts = ease.kind == Kind::overshoot || ease.kind == Kind::search;
  const auto belongs = [&](const char* key, bool here, const char* to) {
    if (in.has(base + key) && !here) {
      in.mistake(base + key, fmt::format("belongs to ease = \"{}\"", to));
    }
  };
  belongs(".by", ease.kind == Kind::overshoot, "overshoot");
  belongs(".stray", ease.kind == Kind::search, "search");
  belongs(".swings", hunts, "overshoot\" or \"search");
  return ease;
}

void read_pulls(ShotReader& in, Shot& shot) {
  for (std::size_t i = 0; in.has_section(fmt::format("pull[{}].", i)); ++i) {
    const std::string base = fmt::format("pull[{}]", i);
    Pull pull;
    in.require(base + ".frame", "frame = 1001");
    if (const auto v = in.number(base + ".frame", range::frame, "a frame", "write e.g. 1001")) {
      pull.frame = *v;
    }
    read_focus(in, base, pull.focus);
    if (!pull.focus.any()) {
      in.mistake(base + ".frame",
                 "this pull goes nowhere; write on = \"boat\", or at = \"2.4 m\" "
                 "(or radial, tape, mark, floor, pixel)");
    }
    pull.ease = read_ease(in, base);
    if (!shot.pulls.empty() && !(pull.frame > shot.pulls.back().frame)) {
      in.mistake(base + ".frame", fmt::format("{:g} does not come after {:g}; pulls are given in "
                                              "their order",
                                              pull.frame, shot.pulls.back().frame));
    }
    shot.pulls.push_back(pull);
  }
  if (!shot.pulls.empty() && shot.focus.any()) {
    in.mistake("pull[0].frame", "the focus is given by [focus] and by [[pull]]; keep one of them");
  }
}

// "over.take.stop.1001" → "take.stop" and 1001; none for what is no frame.
struct FrameKey {
  std::string key;
  double frame;
};
std::optional<FrameKey> frame_key(const std::string& full) {
  const std::size_t dot = full.rfind('.');
  const std::string last = full.substr(dot + 1);
  int frame = 0;
  const auto [end, error] = std::from_chars(last.data(), last.data() + last.size(), frame);
  constexpr std::size_t prefix = 5;  // "over."
  if (error != std::errc{} || end != last.data() + last.size() || dot <= prefix) {
    return std::nullopt;
  }
  return FrameKey{full.substr(prefix, dot - prefix), static_cast<double>(frame)};
}

void read_keyed(ShotReader& in, Shot& shot) {
  std::map<std::string, Keyframed> by_key;
  std::vector<std::string> places;
  for (const auto& [full, value] : in.tree()) {
    if (!full.starts_with("over.")) continue;
    if (const auto key = frame_key(full)) {
      by_key[key->key].key = key->key;
      places.push_back(full);
    }
  }
  for (const std::string& full : places) {
    const FrameKey key = *frame_key(full);
    Keyframed::At at{key.frame, {}};
    try {
      if (is_keyed_place(key.key)) {
        const auto v = in.place(full);
        if (!v) continue;
        at.value = *v;
      } else {
        const auto v = in.written(full);
        if (!v) continue;
        at.value = parse_keyed(shot, key.key, *v);
      }
      by_key[key.key].keys.push_back(at);
    } catch (const UsageError& e) {
      in.mistake(full, e.what());
    }
  }
  for (auto& [key, keyed] : by_key) {
    keyed.ease = read_ease(in, "over." + key);
    std::sort(keyed.keys.begin(), keyed.keys.end(),
              [](const auto& a, const auto& b) { return a.frame < b.frame; });
    if (!keyed.keys.empty()) shot.keyframes.push_back(keyed);
  }
}

}  // namespace

void read_moves(ShotReader& in, Shot& shot) {
  const auto first = in.number("frames.first", range::frame, "a frame", "write e.g. 1001");
  const auto last = in.number("frames.last", range::frame, "a frame", "write e.g. 1001");
  if (in.has("frames.first") != in.has("frames.last")) {
    in.mistake(in.has("frames.first") ? "frames.first" : "frames.last",
               "frames have a first and a last; give both");
  }
  if (first && last) {
    shot.frames = FrameRange{*first, *last};
    if (*last < *first) in.mistake("frames.last", "comes before frames.first");
  }
  read_keyed(in, shot);
  read_pulls(in, shot);
}

}  // namespace jolly_iris
