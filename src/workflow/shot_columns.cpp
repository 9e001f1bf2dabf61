#include "workflow/shot_columns.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <cmath>
#include <cstdlib>
#include <functional>

#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/optics/quantity.hpp"
#include "jolly_iris/workflow/finish_run.hpp"

namespace jolly_iris {

namespace {

struct Computed {
  ShotColumn column;
  std::function<ShotCell(const LoadedShot&)> cell;
};

ShotCell number_cell(std::optional<double> v, int digits) {
  if (!v) return {};
  if (!std::isfinite(*v)) return {.text = "infinity", .number = *v};
  return {.text = fmt::format("{:.{}f}", *v, digits), .number = *v};
}

ShotCell text_cell(std::string text) {
  ShotCell out;
  out.text = std::move(text);
  return out;
}

// "53 mm x 0.76, squeeze 2 x": the lens with all that is mounted.
std::string lens_text(const Lens& lens) {
  std::string text = fmt::format("{:g} mm", lens.focal.mm());
  if (lens.adapter != 1.0) text += fmt::format(" x {:g}", lens.adapter);
  if (lens.converter != 1.0) text += fmt::format(", converter {:g} x", lens.converter);
  if (lens.close_up.dioptres() != 0.0)
    text += fmt::format(", close-up {:g} dpt", lens.close_up.dioptres());
  if (lens.squeeze != 1.0) text += fmt::format(", squeeze {:g} x", lens.squeeze);
  return text;
}

// What is weakest of the values: a guess, then what was solved, then notes.
std::string state_text(const Shot& shot) {
  std::vector<std::string> guessed;
  bool solved = false;
  for (const auto& [key, origin] : shot.origins) {
    if (origin.source == Origin::Source::guessed) guessed.push_back(key);
    if (origin.source == Origin::Source::solved) solved = true;
  }
  if (!guessed.empty()) {
    return guessed.size() == 1
               ? "guessed: " + guessed.front()
               : fmt::format("guessed: {} and {} more", guessed.front(), guessed.size() - 1);
  }
  return solved ? "solved" : "noted";
}

std::string frames_text(const LoadedShot& loaded) {
  const auto range = frames_of_shot(loaded);
  return range ? fmt::format("{:g}-{:g}", range->first, range->last) : "";
}

const std::vector<Computed>& computed() {
  static const std::vector<Computed> all{
      {{"lens", "lens"}, [](const LoadedShot& s) { return text_cell(lens_text(s.now.lens)); }},
      {{"gate_mm", "gate mm"},
       [](const LoadedShot& s) {
         const auto& g = s.answer.camera.gate;
         return ShotCell{.text = fmt::format("{:.4g} x {:.4g}", g.width.mm(), g.height.mm()),
                         .number = g.width.mm()};
       }},
      {{"cg_focal_mm", "CG mm"},
       [](const LoadedShot& s) { return number_cell(s.answer.camera.focal.mm(), 2); }},
      {{"cg_f_number", "CG f/"},
       [](const LoadedShot& s) { return number_cell(s.answer.camera.f_number, 3); }},
      {{"focus_m", "focus m"},
       [](const LoadedShot& s) { return number_cell(s.answer.camera.focus.m(), 3); }},
      {{"focus", "on"}, [](const LoadedShot& s) { return text_cell(s.answer.focus_description); }},
      {{"near_m", "sharp from"},
       [](const LoadedShot& s) { return number_cell(s.answer.sharp.near.m(), 3); }},
      {{"far_m", "to m"},
       [](const LoadedShot& s) { return number_cell(s.answer.sharp.far.m(), 3); }},
      {{"infinity_px", "px at inf."},
       [](const LoadedShot& s) { return number_cell(s.answer.infinity.coc_px, 1); }},
      {{"ev100", "EV100"}, [](const LoadedShot& s) { return number_cell(s.answer.ev100, 2); }},
      {{"white_K", "white K"},
       [](const LoadedShot& s) {
         return s.answer.white ? number_cell(s.answer.white->temperature.kelvin(), 0) : ShotCell{};
       }},
      {{"finish", "finish"},
       [](const LoadedShot& s) {
         std::string text;
         for (const std::string& part : parts_of(s.now.finish)) {
           text += (text.empty() ? "" : ", ") + part;
         }
         return text_cell(std::move(text));
       }},
      {{"frames", "frames"}, [](const LoadedShot& s) { return text_cell(frames_text(s)); }},
      {{"state", "state"}, [](const LoadedShot& s) { return text_cell(state_text(s.shot)); }},
      {{"remarks", "remarks"}, [](const LoadedShot& s) {
         std::vector<std::string> doubts;
         for (const ScaleFinding& f : s.answer.scale) doubts.push_back(f.message);
         if (s.answer.nothing_sharp) doubts.emplace_back("nothing is sharp");
         if (!s.shot.solved_left.empty()) doubts.push_back(s.shot.solved_left);
         return text_cell(fmt::format("{}", fmt::join(doubts, "; ")));
       }}};
  return all;
}

// A key of shot files; those that are not in this list are found by the origins of some row.
struct WrittenColumn {
  const char* key;
  const char* head;
};
constexpr WrittenColumn usual_written[]{{"lens.focal", "focal"}, {"take.stop", "stop"},
                                        {"take.mark", "mark"},   {"focus.on", "focus on"},
                                        {"take.iso", "ISO"},     {"take.shutter", "shutter"},
                                        {"take.nd", "ND"},       {"take.white", "white"}};
constexpr const char* usual_computed[]{"lens",   "gate_mm", "cg_focal_mm", "cg_f_number", "focus_m",
                                       "near_m", "far_m",   "infinity_px", "ev100",       "finish",
                                       "frames", "state",   "remarks"};

ShotCell written_cell(const Shot& shot, const std::string& key) {
  const bool moves = std::any_of(shot.keyframes.begin(), shot.keyframes.end(),
                                 [&](const Keyframed& k) { return k.key == key; });
  const bool pulled = key.starts_with("focus.") && !shot.pulls.empty();
  if (moves || pulled) {
    ShotCell out = text_cell(pulled ? "pulled" : "over frames");
    out.source = Origin::Source::noted;
    out.fixed = "changes over frames; edit its keys in the file";
    return out;
  }
  const auto found = shot.origins.find(key);
  if (found == shot.origins.end()) return {};
  ShotCell out = text_cell(found->second.text);
  out.source = found->second.source;
  out.place = found->second.place.substr(0, found->second.place.find(':'));
  out.number = number_in(out.text);
  if (out.source == Origin::Source::solved) {
    out.fixed =
        "was solved from the plate and leads over the note; run match again, or list the "
        "notes with --as-noted";
  }
  return out;
}

}  // namespace

std::optional<double> number_in(const std::string& text) {
  try {
    return parse_length(text).mm();
  } catch (const QuantityError&) {
    // no length; perhaps "f/2.8", "T2", "1/50", "800", "172.8 deg"
  }
  const auto at = text.find_first_of("0123456789-+.");
  if (at == std::string::npos) return std::nullopt;
  const char* begin = text.c_str() + at;
  char* end = nullptr;
  const double v = std::strtod(begin, &end);
  if (end == begin) return std::nullopt;
  if (*end != '/' || at != 0) return v;
  const double below = std::strtod(end + 1, nullptr);
  return below != 0.0 ? std::optional(v / below) : v;
}

std::vector<ShotColumn> shot_columns(const std::vector<std::string>& keys) {
  std::vector<ShotColumn> out;
  const auto computed_one = [&](const std::string& key) -> const ShotColumn* {
    for (const Computed& c : computed()) {
      if (c.column.key == key) return &c.column;
    }
    return nullptr;
  };
  if (keys.empty()) {
    for (const WrittenColumn& w : usual_written) out.push_back({w.key, w.head, true});
    for (const char* key : usual_computed) out.push_back(*computed_one(key));
    return out;
  }
  for (const std::string& key : keys) {
    if (const ShotColumn* c = computed_one(key)) {
      out.push_back(*c);
    } else {
      out.push_back({key, key, true});
      for (const WrittenColumn& w : usual_written) {
        if (key == w.key) out.back().head = w.head;
      }
    }
  }
  return out;
}

bool is_usual_key(const std::string& key) {
  return std::any_of(std::begin(usual_written), std::end(usual_written),
                     [&](const WrittenColumn& w) { return key == w.key; });
}

ShotCell cell_of(const LoadedShot& loaded, const ShotColumn& column) {
  if (column.written) return written_cell(loaded.shot, column.key);
  for (const Computed& c : computed()) {
    if (c.column.key == column.key) return c.cell(loaded);
  }
  return {};
}

std::vector<ShotColumn> computed_columns() {
  std::vector<ShotColumn> out;
  for (const Computed& c : computed()) out.push_back(c.column);
  return out;
}

}  // namespace jolly_iris
