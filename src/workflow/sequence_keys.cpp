// A sequence's moves as keys of a shot file.
#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <vector>

#include "disk/disk.hpp"
#include "jolly_iris/files/solved_file.hpp"
#include "jolly_iris/workflow/camera_sequence.hpp"

namespace jolly_iris {

namespace {

struct Key {
  double frame = 0.0;
  double even = 0.0;
  std::string ease{};  ///< as TOML has it, with what belongs to it
};

std::string ease_text(const Ease& ease) {
  std::string out = fmt::format("ease = \"{}\"", to_string(ease.kind));
  if (ease.kind == Ease::Kind::overshoot) {
    out += fmt::format(", by = {:.3g}, swings = {}", ease.by, ease.swings);
  }
  return out;
}

double to_tenth(double frame) { return std::round(10.0 * frame) / 10.0; }

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

std::size_t nearest(const std::vector<FrameValue>& at, double frame) {
  std::size_t best = 0;
  for (std::size_t i = 1; i < at.size(); ++i) {
    if (std::abs(at[i].frame - frame) < std::abs(at[best].frame - frame)) best = i;
  }
  return best;
}

std::vector<Key> keys_for(const FollowedValue& v, bool eases) {
  std::vector<Key> keys;
  const auto add = [&](Key key) {
    key.frame = to_tenth(key.frame);
    if (!keys.empty() && key.frame <= keys.back().frame) return;
    keys.push_back(std::move(key));
  };
  if (v.moves.moves.empty()) add({v.at.front().frame, v.at[v.at.size() / 2].curve, {}});
  for (const Move& m : v.moves.moves) {
    if (m.eased && eases) {
      add({m.begins, m.from, "ease = \"linear\""});
      add({m.ends, m.to, ease_text(m.ease)});
      continue;
    }
    const std::size_t from = nearest(v.at, m.begins);
    const std::size_t to = nearest(v.at, m.ends);
    std::vector<std::size_t> kept{from};
    thin(v.at, from, to, kept);
    kept.push_back(to);
    for (const std::size_t i : kept) add({v.at[i].frame, v.at[i].curve, "ease = \"linear\""});
  }
  return keys;
}

std::string quantity(Parameter of, double even, const CameraSequence& s) {
  const double v = as_written(of, even);
  if (of == Parameter::focus) {
    return std::isinf(v) ? std::string("infinity") : fmt::format("{:.4g} m", v);
  }
  if (of == Parameter::focal) return fmt::format("{:.4g} mm", v);
  const bool t = s.frames.front().estimate.take.stop.kind == Stop::Kind::t;
  return fmt::format("{}{:.4g}", t ? "T" : "f/", v);
}

// As one list, which is how a file of solved values has it.
std::string listed_pulls(const std::vector<Key>& keys, const CameraSequence& s) {
  std::string out = "[";
  for (std::size_t i = 0; i < keys.size(); ++i) {
    out += fmt::format("{}{{ frame = {:g}, at = \"{}\"{} }}", i == 0 ? "" : ", ", keys[i].frame,
                       quantity(Parameter::focus, keys[i].even, s),
                       keys[i].ease.empty() ? "" : ", " + keys[i].ease);
  }
  return out + "]";
}

const char* key_of(Parameter of) { return of == Parameter::stop ? "take.stop" : "lens.focal"; }

}  // namespace

SolvedKeys write_solved(const CameraSequence& sequence) {
  SolvedKeys out;
  std::vector<SolvedValue> values;
  for (const FollowedValue& v : sequence.camera.values) {
    if (v.relative || v.at.empty()) continue;
    const bool focus = v.of == Parameter::focus;
    if (!focus && v.moves.moves.empty()) continue;
    const std::vector<Key> keys = keys_for(v, focus);
    out.keys += keys.size();
    const std::string margin = fmt::format("± {:.2g} {}", v.at[v.at.size() / 2].margin,
                                           focus                     ? "1/m"
                                           : v.of == Parameter::stop ? "stops"
                                                                     : "as a share");
    if (focus) {
      values.push_back({"pull", listed_pulls(keys, sequence), margin});
      continue;
    }
    values.push_back({fmt::format("over.{}.ease", key_of(v.of)), "\"linear\"", ""});
    for (const Key& k : keys) {
      values.push_back({fmt::format("over.{}.\"{:g}\"", key_of(v.of), k.frame),
                        fmt::format("\"{}\"", quantity(v.of, k.even, sequence)), margin});
    }
  }
  out.file = solved_file_of(sequence.loaded.shot.file).string();
  write_whole_file(out.file, solved_text(sequence.loaded.shot.file,
                                         fmt::format("Read out of frames {:g} to {:g}.",
                                                     sequence.frames.front().frame,
                                                     sequence.frames.back().frame),
                                         values));
  return out;
}

std::string keys_of(const CameraSequence& sequence) {
  std::string out;
  for (const FollowedValue& v : sequence.camera.values) {
    if (v.relative || v.at.empty()) continue;
    if (v.of == Parameter::focus) {
      for (const Key& k : keys_for(v, true)) {
        std::string ease = k.ease;
        for (std::size_t at = ease.find(", "); at != std::string::npos; at = ease.find(", ")) {
          ease.replace(at, 2, "\n");
        }
        out += fmt::format("[[pull]]\nframe = {:g}\nat = \"{}\"\n{}\n", k.frame,
                           quantity(v.of, k.even, sequence), ease.empty() ? "" : ease + "\n");
      }
      continue;
    }
    if (v.moves.moves.empty()) continue;
    out += fmt::format("[over.{}]\nease = \"linear\"\n", key_of(v.of));
    for (const Key& k : keys_for(v, false)) {
      out += fmt::format("{:g} = \"{}\"\n", k.frame, quantity(v.of, k.even, sequence));
    }
    out += "\n";
  }
  return out;
}

}  // namespace jolly_iris
