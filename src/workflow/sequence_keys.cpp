// A sequence's moves as keys of a shot file.
#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <optional>
#include <vector>

#include "disk/disk.hpp"
#include "jolly_iris/files/solved_file.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/workflow/camera_sequence.hpp"
#include "pull_keys.hpp"

namespace jolly_iris {

namespace {

// As few places as keep straight lines between them within the margins (Douglas and Peucker 1973).
void thin(const std::vector<FrameValue>& at, std::size_t from, std::size_t to,
          std::vector<std::size_t>& kept) {
  double worst = 1.0;
  std::size_t place = from;
  for (std::size_t i = from + 1; i < to; ++i) {
    const double t = (at[i].frame - at[from].frame) / (at[to].frame - at[from].frame);
    const double off = std::abs(at[i].curve - ((1.0 - t) * at[from].curve + t * at[to].curve));
    const double share = off / std::max(0.5 * at[i].margin, 1e-12);
    if (share <= worst) continue;
    worst = share;
    place = i;
  }
  if (place == from) return;
  thin(at, from, place, kept);
  kept.push_back(place);
  thin(at, place, to, kept);
}

std::size_t nearest_frame(const std::vector<FrameValue>& at, double frame) {
  std::size_t best = 0;
  for (std::size_t i = 1; i < at.size(); ++i) {
    if (std::abs(at[i].frame - frame) < std::abs(at[best].frame - frame)) best = i;
  }
  return best;
}

// Keys between which it goes evenly, of one move.
std::vector<std::size_t> steady_places(const FollowedValue& v, const Move& m) {
  const std::size_t from = nearest_frame(v.at, m.begins);
  const std::size_t to = nearest_frame(v.at, m.ends);
  std::vector<std::size_t> kept{from};
  thin(v.at, from, to, kept);
  if (to > from) kept.push_back(to);
  return kept;
}

std::vector<PullKey> pulls_of(const FollowedValue& focus) {
  std::vector<PullKey> keys;
  if (focus.moves.moves.empty()) {
    add_key(keys, {focus.at.front().frame, focus.at[focus.at.size() / 2].curve, {}});
  }
  for (const Move& m : focus.moves.moves) {
    if (m.eased) {
      add_key(keys, {m.begins, m.from, {}});
      add_key(keys, {m.ends, m.to, m.ease});
      continue;
    }
    for (const std::size_t i : steady_places(focus, m)) {
      add_key(keys, {focus.at[i].frame, focus.at[i].curve, {}});
    }
  }
  return keys;
}

struct WrittenKey {
  double frame = 0.0;
  std::string text{};
};

// Of a stop or a focal length that moved.
std::vector<WrittenKey> texts_of_keys(const FollowedValue& v, const CameraSequence& s) {
  std::vector<WrittenKey> keys;
  const bool t = s.frames.front().estimate.take.stop.kind == Stop::Kind::t;
  for (const Move& m : v.moves.moves) {
    for (const std::size_t i : steady_places(v, m)) {
      if (!keys.empty() && v.at[i].frame <= keys.back().frame) continue;
      const double value = as_written(v.of, v.at[i].curve);
      keys.push_back({v.at[i].frame, v.of == Parameter::focal
                                         ? fmt::format("{:.4g} mm", value)
                                         : fmt::format("{}{:.4g}", t ? "T" : "f/", value)});
    }
  }
  return keys;
}

// A focus whose change alone was told, from the notes' focus on; none where even its way is open.
std::optional<FollowedValue> on_the_note(const FollowedValue& change, const CameraSequence& s) {
  if (s.camera.way_open || change.at.empty()) return std::nullopt;
  FollowedValue out = change;
  out.of = Parameter::focus;
  const double noted = evenly_counted(Parameter::focus, focus_of(s.frames.front().estimate).m()) -
                       change.at.front().noted;
  for (FrameValue& f : out.at) f.curve += noted;
  for (Move& m : out.moves.moves) {
    m.from += noted;
    m.to += noted;
  }
  return out;
}

// What may be written as keys.
std::vector<FollowedValue> keyed_values(const CameraSequence& sequence) {
  std::vector<FollowedValue> out;
  for (const FollowedValue& v : sequence.camera.values) {
    if (v.at.empty()) continue;
    if (!v.relative) out.push_back(v);
    if (v.of != Parameter::focus_change) continue;
    if (auto focus = on_the_note(v, sequence)) out.push_back(std::move(*focus));
  }
  return out;
}

constexpr const char* from_the_note =
    "Only its change was seen: the focus itself is the notes', at the first frame.";
constexpr const char* no_keys =
    "no keys: no lamp's distance is known, and which way the focus goes neither the discs nor the "
    "notes tell";

const char* key_of(Parameter of) { return of == Parameter::stop ? "take.stop" : "lens.focal"; }

}  // namespace

std::string keys_of(const CameraSequence& sequence) {
  const std::vector<FollowedValue> values = keyed_values(sequence);
  std::string out;
  if (sequence.camera.relative) {
    out = fmt::format("# {}\n", values.empty() ? no_keys : from_the_note);
  }
  for (const FollowedValue& v : values) {
    if (v.of == Parameter::focus) {
      out += pull_tables(pulls_of(v));
      continue;
    }
    if (v.moves.moves.empty()) continue;
    out += fmt::format("\n[over.{}]\nease = \"linear\"\n", key_of(v.of));
    for (const WrittenKey& k : texts_of_keys(v, sequence)) {
      out += fmt::format("{:g} = \"{}\"\n", k.frame, k.text);
    }
  }
  return out;
}

SolvedKeys write_solved(const CameraSequence& sequence) {
  SolvedKeys out;
  std::vector<SolvedValue> values;
  const std::vector<FollowedValue> keyed = keyed_values(sequence);
  if (keyed.empty()) throw OpticsError(no_keys);
  for (const FollowedValue& v : keyed) {
    if (v.of == Parameter::focus) {
      const std::vector<PullKey> keys = pulls_of(v);
      out.keys += keys.size();
      values.push_back(
          {"pull", pull_list(keys), fmt::format("± {:.2g} dpt", v.at[v.at.size() / 2].margin)});
      continue;
    }
    if (v.moves.moves.empty()) continue;
    values.push_back({fmt::format("over.{}.ease", key_of(v.of)), "\"linear\"", ""});
    for (const WrittenKey& k : texts_of_keys(v, sequence)) {
      ++out.keys;
      values.push_back({fmt::format("over.{}.\"{:g}\"", key_of(v.of), k.frame),
                        fmt::format("\"{}\"", k.text), ""});
    }
  }
  out.file = solved_file_of(sequence.loaded.shot.file).string();
  write_whole_file(
      out.file,
      solved_text(sequence.loaded.shot.file,
                  fmt::format("Read out of frames {:g} to {:g}.{}{}", sequence.frames.front().frame,
                              sequence.frames.back().frame, sequence.camera.relative ? " " : "",
                              sequence.camera.relative ? from_the_note : ""),
                  values));
  return out;
}

}  // namespace jolly_iris
