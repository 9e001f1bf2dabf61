// What a page does to the shot.
#include <fmt/format.h>

#include <algorithm>
#include <filesystem>

#include "jolly_iris/files/shot_edit.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/optics/quantity.hpp"
#include "jolly_iris/picture/depth_map.hpp"
#include "jolly_iris/workflow/camera_match.hpp"
#include "jolly_iris/workflow/focus_keys.hpp"
#include "jolly_iris/workflow/sequence.hpp"
#include "jolly_iris/workflow/solutions.hpp"
#include "live/desk.hpp"
#include "live/display.hpp"
#include "live/words.hpp"
#include "optics/value_text.hpp"

namespace jolly_iris::live {

namespace {

constexpr int thumb_width = 160;
// Back against front: what is deeper, as water or a street, is no one place to focus on.
constexpr double deepest = 1.5;

bool is_one_place(const Answer& a, const std::string& name) {
  const auto found = std::find_if(a.subjects.begin(), a.subjects.end(),
                                  [&](const SubjectBlur& s) { return s.name == name; });
  if (found == a.subjects.end()) return false;
  return found->front.m() > 0.0 && found->back.m() <= deepest * found->front.m();
}

}  // namespace

// "soft.look.toml + dusty.look.toml": each of them lies beside the shot.
bool Desk::are_offered(const std::string& looks) const {
  constexpr std::string_view between = " + ";
  for (std::size_t begin = 0;;) {
    const auto end = looks.find(between, begin);
    const std::string one = looks.substr(begin, end == std::string::npos ? end : end - begin);
    if (std::find(looks_.begin(), looks_.end(), one) == looks_.end()) return false;
    if (end == std::string::npos) return true;
    begin = end + between.size();
  }
}

void Desk::change(const Words& words) {
  std::vector<LiveChange> changes;
  const auto [first, last] = words.equal_range("set");
  for (auto w = first; w != last; ++w) {
    const auto equals = w->second.find('=');
    if (equals == std::string::npos) throw UsageError("set is KEY=VALUE");
    changes.push_back({w->second.substr(0, equals), w->second.substr(equals + 1)});
  }
  const auto [from, to] = words.equal_range("clear");
  for (auto w = from; w != to; ++w) changes.push_back({w->second, std::nullopt});
  const std::lock_guard lock(lock_);
  for (const LiveChange& c : changes) {
    // No file is named from the page but those that it was offered.
    const bool names_file = c.key == "lens" || c.key == "body" || c.key.ends_with("file") ||
                            c.key.ends_with("picture") || c.key.ends_with("outline") ||
                            c.key.ends_with("points") || c.key.ends_with("track") ||
                            c.key.ends_with("transfer") || c.key == "lens.look";
    const bool offered = c.key == "lens.look" && c.text && are_offered(*c.text);
    if (names_file && c.text && !offered) {
      throw UsageError(c.key + ": names a file; write that into the shot file");
    }
  }
  add_what_belongs(changes, word(words, "keep") == "1");
  shot_.change(keyed(std::move(changes), words), word(words, "touch"));
  told_.clear();
  changed();
}

// Where that is wished, what focuses becomes a key of the focus at the frame that is shown.
std::vector<LiveChange> Desk::keyed(std::vector<LiveChange> changes, const Words& words) const {
  if (word(words, "key") != "1") return changes;
  const LoadedShot& loaded = shot_.loaded();
  const auto range = frames_of_shot(loaded);
  const double first = range ? range->first : 0.0;
  return as_focus_key(loaded, loaded.answer.frame.value_or(first), changes);
}

void Desk::focus_key(const Words& words) {
  const double frame = number(words, "frame");
  const std::lock_guard lock(lock_);
  const LoadedShot& loaded = shot_.loaded();
  std::vector<LiveChange> changes;
  if (word(words, "drop") == "1") {
    changes = without_focus_key(loaded, frame);
  } else if (has(words, "ease")) {
    changes = {{fmt::format("pull.{}.ease", frame), word(words, "ease")}};
  } else {
    std::optional<Length> at;
    if (has(words, "at")) at = parse_distance(word(words, "at"));
    changes = moved_focus_key(loaded, frame, has(words, "to") ? number(words, "to") : frame, at);
  }
  shot_.change(changes, word(words, "touch"));
  told_.clear();
  changed();
}

// An orbit needs something to go around: what is in focus. A camera that is pushed may keep the
// size of that, by its lens.
void Desk::add_what_belongs(std::vector<LiveChange>& changes, bool keep_framing) const {
  const LoadedShot& loaded = shot_.loaded();
  if (!loaded.now.scene) return;
  const Length focus = loaded.answer.camera.focus;
  const std::size_t asked = changes.size();
  for (std::size_t i = 0; i < asked; ++i) {
    const LiveChange change = changes[i];
    if (!change.text) continue;
    if (change.key.starts_with("scene.orbit") && loaded.now.scene->around.empty()) {
      const auto& on = loaded.now.focus.on;
      if (!on && focus.is_infinite()) {
        throw UsageError(
            "the focus is at infinity: there is nothing to go around; focus on it first");
      }
      changes.push_back({"scene.around", on ? *on : fmt::format("{:.5g} m", focus.m())});
      break;
    }
    if (change.key == "scene.back" && keep_framing && focus.is_finite()) {
      const double s = focus.m();
      const double then = s + (parse_length(*change.text) - loaded.now.scene->back).m();
      if (!(then > 0.0)) throw UsageError("that is through what is in focus");
      changes.push_back(
          {"lens.focal", fmt::format("{:.6g} mm", loaded.now.lens.focal.mm() * then / s)});
    }
  }
}

void Desk::focus_at(const Words& words) {
  const std::shared_ptr<const LoadedShot> loaded = now();
  const LivePlace p = look_.place(*loaded, number(words, "x"), number(words, "y"));
  if (!p.axial) throw UsageError("how far away that is, is not known");
  const bool named = word(words, "by") != "distance" && is_one_place(loaded->answer, p.subject);
  const LiveChange change =
      named
          ? LiveChange{"focus.on", p.subject}
          : LiveChange{"focus.at", p.axial->is_infinite() ? std::string("infinity")
                                                          : fmt::format("{:.5g} m", p.axial->m())};
  const std::lock_guard lock(lock_);
  shot_.change(keyed({change}, words));
  told_ = "Focus on " + (named ? p.subject : *change.text) + ".";
  changed();
}

void Desk::hold(const Words& words) {
  const std::shared_ptr<const LoadedShot> loaded = now();
  const HoldSolution found = solve_hold(*loaded, word(words, "a"), word(words, "b"));
  std::vector<LiveChange> changes;
  for (const Override& o : overrides_for(found, *loaded)) changes.push_back({o.key, o.text});
  const std::lock_guard lock(lock_);
  shot_.change(keyed(changes, words), word(words, "touch"));
  told_ =
      fmt::format("Just sharp from {} to {}.", short_metres_text(std::min(found.near, found.far)),
                  short_metres_text(std::max(found.near, found.far)));
  changed();
}

void Desk::blur(const Words& words) {
  const std::shared_ptr<const LoadedShot> loaded = now();
  const double px = number(words, "px");
  if (!(px > 0.0)) throw UsageError("a blur is above 0 px");
  const BlurSolution found =
      solve_blur(*loaded, {BlurSize::Kind::pixels, px}, word(words, "at"), false);
  std::vector<LiveChange> changes;
  for (const Override& o : overrides_for(found, *loaded)) changes.push_back({o.key, o.text});
  const std::lock_guard lock(lock_);
  shot_.change(changes);
  told_ = fmt::format("{} is blurred by {:g} px.", found.at, px);
  changed();
}

void Desk::keep(const Words& words) {
  const std::shared_ptr<const LoadedShot> loaded = now();
  LiveView view;
  view.draft = {2 * thumb_width, 2 * thumb_width};
  const LivePicture made = look_.at(*loaded, view);
  const PixelSize size = draft_size(made.picture->size(), thumb_width, thumb_width);
  const Frame small = reduced({*made.picture, {}}, size);
  const std::lock_guard lock(lock_);
  const std::size_t i = shot_.keep(word(words, "name"));
  kept_.push_back({size, display_bytes(small.colour, *loaded)});
  told_ = "Kept as '" + shot_.tries()[i].name + "'.";
  ++serial_;
  changes_.notify_all();
}

// What `match` says of the shot file's notes, beside whatever is played meanwhile.
void Desk::match() {
  const std::lock_guard lock(lock_);
  if (advice_.running) return;
  (void)plate_file(shot_.as_in_file(), "to match");
  if (matcher_.joinable()) matcher_.join();
  advice_ = {.asked = true, .running = true};
  ++serial_;
  changes_.notify_all();
  CameraMatchRequest request;
  request.shots = {{.file = shot_.as_in_file().shot.file}};
  request.execution.stop = stop_matching_.get_token();
  matcher_ = std::jthread([this, request] {
    Advice found{.asked = true};
    try {
      std::vector<std::string> files;
      const CameraMatch matched = match_camera(request, files);
      if (matched.ranking.notes_agree) {
        found.said.emplace_back("The plate and the notes agree: nothing needs explaining.");
      } else if (matched.ranking.none) {
        found.said.emplace_back("Nothing that is usually mistaken explains the plate.");
      }
      for (const RankedHypothesis& h : matched.ranking.ranked) {
        for (const std::string& m : h.mistakes) found.said.push_back(m);
        if (!h.tell_apart.empty()) found.said.push_back(h.tell_apart);
        break;  // the likeliest
      }
      for (const SolvedValue& v : solved_values(matched.plates.front())) {
        if (v.value.starts_with('[') || v.value.starts_with('{')) continue;  // no one value
        const std::string text = typed_spelling(v.value);
        if (!text.empty()) found.values.push_back({v.key, text, v.message});
      }
    } catch (const std::exception& e) {
      found.trouble = e.what();
    }
    const std::lock_guard done(lock_);
    advice_ = std::move(found);
    ++serial_;
    changes_.notify_all();
  });
}

void Desk::write(const Words& words) {
  const std::lock_guard lock(lock_);
  std::optional<std::size_t> which;
  if (has(words, "try")) which = static_cast<std::size_t>(whole_number(words, "try", 0, 100000));
  const LiveWritten done = shot_.write(word(words, "variant"), which);
  const std::string file = std::filesystem::path(done.file).filename().string();
  told_ = done.variant.empty()
              ? fmt::format("Written into {}.", file)
              : fmt::format("Written into {} as [variant.{}]: jolly-iris report {} --variant {}",
                            file, done.variant, file, done.variant);
  changed();
}

}  // namespace jolly_iris::live
