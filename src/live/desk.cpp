#include "live/desk.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <charconv>
#include <chrono>
#include <cmath>
#include <filesystem>

#include "jolly_iris/drawing/plan.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/picture/depth_map.hpp"
#include "jolly_iris/picture_files/picture_file.hpp"
#include "jolly_iris/workflow/sequence.hpp"
#include "jolly_iris/workflow/solutions.hpp"
#include "live/controls.hpp"
#include "live/display.hpp"
#include "optics/value_text.hpp"

namespace jolly_iris::live {

namespace {

using namespace std::chrono_literals;

constexpr auto file_check = 300ms;
constexpr auto longest_wait = 20s;  // of a page that waits for news; it asks again then
constexpr int most_waiting = 8;
constexpr int largest_side = 16384;
constexpr std::size_t longest_text = 4096;
constexpr int thumb_width = 160;

const std::string& word(const Words& words, const std::string& name) {
  static const std::string none;
  const auto found = words.find(name);
  return found == words.end() ? none : found->second;
}

double number(const Words& words, const std::string& name) {
  const std::string& text = word(words, name);
  double value = 0.0;
  const auto [end, error] = std::from_chars(text.data(), text.data() + text.size(), value);
  if (error != std::errc{} || end != text.data() + text.size() || !std::isfinite(value)) {
    throw UsageError(fmt::format("{} is to be a number", name));
  }
  return value;
}

int whole_number(const Words& words, const std::string& name, int least, int most) {
  const double value = number(words, name);
  if (!(value >= least && value <= most) || value != std::floor(value)) {
    throw UsageError(fmt::format("{} is to be a whole number from {} to {}", name, least, most));
  }
  return static_cast<int>(value);
}

bool has(const Words& words, const std::string& name) { return words.contains(name); }

Json finite(double v) { return std::isfinite(v) ? Json(v) : Json(nullptr); }

Json subjects_of_page(const Answer& a) {
  Json list = Json::array();
  const auto add = [&](const SubjectBlur& s) {
    list.push_back({{"name", s.name},
                    {"m", finite(s.axial.m())},
                    {"distance", short_metres_text(s.axial)},
                    {"px", s.coc_px},
                    {"sharp", s.sharp},
                    {"partly", s.partly_sharp}});
  };
  for (const SubjectBlur& s : a.subjects) {
    if (s.in_picture) add(s);
  }
  add(a.infinity);
  return list;
}

Json facts_of(const Answer& a) {
  const VirtualCamera& c = a.camera;
  Json rows = Json::array();
  const auto row = [&](const char* name, const std::string& value) {
    rows.push_back(Json::array({name, value}));
  };
  row("focal length", fmt::format("{:.2f} mm", c.focal.mm()));
  row("f-number", fmt::format("f/{:.3g}", c.f_number));
  row("focus", fmt::format("{} ({})", short_metres_text(c.focus), a.focus_description));
  row("field of view", fmt::format("{:.1f} x {:.1f} deg", c.horizontal_picture_view().degrees(),
                                   c.vertical_picture_view().degrees()));
  row("opening", fmt::format("{:.2f} mm across", 2.0 * c.aperture_radius.mm()));
  row("sharp", a.nothing_sharp ? std::string("nothing is")
                               : fmt::format("{} to {}", short_metres_text(a.sharp.near),
                                             short_metres_text(a.sharp.far)));
  row("hyperfocal", short_metres_text(a.hyperfocal));
  if (a.ev100) row("exposure", fmt::format("EV {:.2f} at ISO 100", *a.ev100));
  return rows;
}

Json guesses_of(const Answer& a) {
  Json list = Json::array();
  for (const auto& [key, origin] : a.origins) {
    if (origin.source != Origin::Source::guessed) continue;
    list.push_back({{"key", key}, {"text", origin.text}, {"why", origin.why}});
  }
  return list;
}

Json panels_of(const PlanLayout& layout) {
  Json list = Json::array();
  for (const PlanPanel& p : layout.panels) {
    list.push_back({{"x", p.box.x},
                    {"y", p.box.y},
                    {"width", p.box.width},
                    {"height", p.box.height},
                    {"px_per_m", p.px_per_m},
                    {"ahead_m", p.ahead_m}});
  }
  return list;
}

Reply json_reply(const Json& json) { return {200, "application/json", json.dump(), {}}; }

Reply refusal(int status, const std::string& said) {
  return {status, "application/json", Json{{"error", said}}.dump(), {}};
}

// Look files of the show, as the shot file would name them.
std::vector<std::string> look_files(const std::string& shot_file) {
  namespace fs = std::filesystem;
  std::vector<std::string> out;
  const fs::path folder = fs::path(shot_file).parent_path();
  for (const char* where : {"", "looks", "../looks"}) {
    std::error_code none;
    fs::directory_iterator entries(folder / where, none);
    if (none) continue;
    for (const fs::directory_entry& entry : entries) {
      const std::string name = entry.path().filename().string();
      if (name.ends_with(".look.toml")) out.push_back((fs::path(where) / name).string());
      if (out.size() >= 200) break;
    }
  }
  std::sort(out.begin(), out.end());
  return out;
}

}  // namespace

Desk::Desk(const LiveRequest& request)
    : shot_(request.shot),
      look_(request.sources, shot_.as_in_file()),
      looks_(look_files(request.shot.file)) {
  snapshot_ = std::make_shared<const LoadedShot>(shot_.loaded());
  watcher_ = std::thread([this] { watch(); });
}

Desk::~Desk() {
  close();
  watcher_.join();
}

void Desk::close() {
  const std::lock_guard lock(lock_);
  closed_ = true;
  changes_.notify_all();
}

std::vector<std::string> Desk::notes() const { return look_.notes(); }

// Under the lock.
void Desk::changed() {
  snapshot_ = std::make_shared<const LoadedShot>(shot_.loaded());
  ++version_;
  ++serial_;
  changes_.notify_all();
}

std::shared_ptr<const LoadedShot> Desk::now() const {
  const std::lock_guard lock(lock_);
  return snapshot_;
}

// Files that are saved meanwhile are taken in.
void Desk::watch() {
  std::unique_lock lock(lock_);
  while (!closed_) {
    changes_.wait_for(lock, file_check, [&] { return closed_; });
    if (closed_) return;
    std::string trouble;
    try {
      const bool shot = shot_.look_again();
      const bool pictures = look_.look_again(shot_.as_in_file());
      if (shot || pictures) {
        if (shot) plate_.reset();
        told_ =
            shot ? "The file was saved: it is taken in." : "The picture was saved: it is taken in.";
        changed();
      }
    } catch (const std::exception& e) {
      trouble = e.what();
    }
    if (trouble != file_trouble_) {
      file_trouble_ = trouble;
      ++serial_;
      changes_.notify_all();
    }
  }
}

// ---- the state
// ------------------------------------------------------------------------------------

Json Desk::state() {
  const LoadedShot& loaded = shot_.loaded();
  const Answer& a = loaded.answer;
  Json j;
  j["serial"] = serial_;
  j["version"] = version_;
  j["file"] = std::filesystem::path(loaded.shot.file).filename().string();
  j["variant"] = loaded.shot.variant;
  j["source"] = look_.source();
  const PixelSize size = look_.size(loaded);
  j["size"] = Json::array({size.width, size.height});
  j["pixels"] = Json::array({a.camera.pixels.width, a.camera.pixels.height});
  j["has_scene"] = loaded.scene.has_value();
  j["has_plate"] = loaded.now.plate && !loaded.now.plate->file.empty();
  j["controls"] = controls_of(shot_);
  j["values"] = Json::array();
  for (const LiveValue& v : shot_.values()) {
    j["values"].push_back({{"key", v.key}, {"text", v.text}, {"in_file", v.in_file}});
  }
  j["subjects"] = subjects_of_page(a);
  j["facts"] = facts_of(a);
  j["notes"] = a.notes;
  j["guesses"] = guesses_of(a);
  j["limit_px"] = a.coc_limit / a.camera.pixel_pitch();
  j["focus_m"] = finite(a.camera.focus.m());
  j["near_m"] = finite(a.sharp.near.m());
  j["far_m"] = finite(a.sharp.far.m());
  j["can_undo"] = shot_.can_undo();
  j["can_redo"] = shot_.can_redo();
  j["tries"] = Json::array();
  for (const LiveTry& t : shot_.tries()) {
    const bool same = t.values.size() == shot_.values().size() &&
                      std::equal(t.values.begin(), t.values.end(), shot_.values().begin(),
                                 [](const LiveValue& x, const LiveValue& y) {
                                   return x.key == y.key && x.text == y.text;
                                 });
    Json values = Json::array();
    for (const LiveValue& v : t.values) values.push_back(v.key + " = " + v.text);
    j["tries"].push_back({{"name", t.name}, {"now", same}, {"values", values}});
  }
  j["conflicts"] = Json::array();
  for (const LiveConflict& c : shot_.conflicts()) {
    j["conflicts"].push_back({{"key", c.key}, {"in_hand", c.in_hand}, {"in_file", c.in_file}});
  }
  const auto range = loaded.shot.frames ? loaded.shot.frames : moving_range(loaded);
  j["frames"] = nullptr;
  if (range) {
    j["frames"] = {{"first", range->first},
                   {"last", range->last},
                   {"now", a.frame ? Json(*a.frame) : Json(range->first)}};
  }
  j["looks"] = looks_;
  j["trouble"] = file_trouble_;
  j["told"] = told_;
  return j;
}

Reply Desk::state_after(const std::string& error) {
  const std::lock_guard lock(lock_);
  Json j = state();
  j["error"] = error;
  return json_reply(j);
}

Reply Desk::wait_for_change(const Words& words) {
  std::unique_lock lock(lock_);
  if (has(words, "since") && waiting_ < most_waiting) {
    const double since = number(words, "since");
    ++waiting_;
    changes_.wait_for(lock, longest_wait,
                      [&] { return closed_ || static_cast<double>(serial_) != since; });
    --waiting_;
  }
  Json j = state();
  j["error"] = "";
  return json_reply(j);
}

// ---- looking
// --------------------------------------------------------------------------------------

Reply Desk::look(const std::string& what, const Words& words) {
  try {
    if (what == "state") return wait_for_change(words);
    if (what == "picture") return picture(words);
    if (what == "plate") return plate(words);
    if (what == "place") return place(words);
    if (what == "plan.svg" || what == "plan") return plan(words);
    if (what == "truth") return truth(words);
    if (what == "thumb") return thumb(words);
    return refusal(404, "there is no such thing");
  } catch (const Cancelled&) {
    return refusal(409, "another state is looked at meanwhile");
  } catch (const std::exception& e) {
    return refusal(422, e.what());
  }
}

Reply Desk::picture(const Words& words) {
  LiveView view;
  const std::string& detail = word(words, "detail");
  if (detail != "draft" && detail != "whole") throw UsageError("detail is draft or whole");
  view.detail = detail == "draft" ? LiveDetail::draft : LiveDetail::whole;
  if (has(words, "w")) {
    view.draft = {whole_number(words, "w", 16, largest_side),
                  whole_number(words, "h", 16, largest_side)};
  }
  if (has(words, "box_w")) {
    view.box = Box{whole_number(words, "box_x", 0, largest_side * 4),
                   whole_number(words, "box_y", 0, largest_side * 4),
                   whole_number(words, "box_w", 1, 2048), whole_number(words, "box_h", 1, 2048)};
  }
  std::shared_ptr<const LoadedShot> loaded;
  std::uint64_t version = 0;
  {
    const std::lock_guard lock(lock_);
    loaded = snapshot_;
    version = version_;
    if (word(words, "exposed") == "1") view.light = light_between(shot_.as_in_file(), *loaded);
  }
  const bool shade = word(words, "shade") == "1";
  const LivePicture made = look_.at(*loaded, view, shade);
  Reply reply{200, "application/octet-stream", display_bytes(made.picture), {}};
  if (shade) {
    // What counts as sharp is said for the delivered picture.
    const VirtualCamera& c = loaded->answer.camera;
    const double shown = view.box ? look_.size(*loaded).width : made.picture.width();
    const double limit = loaded->answer.coc_limit / c.pixel_pitch() * shown / c.pixels.width;
    shade_blur(reply.body, made.picture.width(), made.coc_px, limit);
  }
  reply.headers = {{"X-Version", fmt::format("{}", version)},
                   {"X-Width", fmt::format("{}", made.picture.width())},
                   {"X-Height", fmt::format("{}", made.picture.height())},
                   {"X-Draft", made.draft ? "1" : "0"}};
  return reply;
}

Reply Desk::plate(const Words& words) {
  const int width = whole_number(words, "w", 16, largest_side);
  const int height = whole_number(words, "h", 16, largest_side);
  const std::lock_guard lock(lock_);
  const LoadedShot& loaded = shot_.as_in_file();
  (void)plate_file(loaded, "to look at");
  if (!plate_) plate_ = read_plate(*loaded.now.plate);
  const PixelSize size = draft_size(plate_->colour.size(), width, height);
  const Frame small = size == plate_->colour.size() ? *plate_ : reduced(*plate_, size);
  return {
      200,
      "application/octet-stream",
      display_bytes(small.colour),
      {{"X-Width", fmt::format("{}", size.width)}, {"X-Height", fmt::format("{}", size.height)}}};
}

Reply Desk::place(const Words& words) {
  const std::shared_ptr<const LoadedShot> loaded = now();
  const LivePlace p = look_.place(*loaded, number(words, "x"), number(words, "y"));
  const double limit = loaded->answer.coc_limit / loaded->answer.camera.pixel_pitch();
  std::string said = "its distance is not known";
  if (p.axial) {
    said = short_metres_text(*p.axial) + (p.axial->is_infinite() ? "" : " along the view axis");
    if (!p.subject.empty()) said = p.subject + ": " + said;
    said += std::abs(p.coc_px) <= limit
                ? ", sharp"
                : fmt::format(", {:.1f} px blurred, {} the focus", std::abs(p.coc_px),
                              p.coc_px > 0.0 ? "behind" : "in front of");
  }
  return json_reply({{"said", said}, {"subject", p.subject}});
}

Reply Desk::plan(const Words& words) {
  const std::shared_ptr<const LoadedShot> loaded = now();
  std::optional<Scene> scene = loaded->scene;
  const Plan plan = plan_of(loaded->shot, loaded->now, scene ? &*scene : nullptr, loaded->answer,
                            word(words, "side") == "1");
  if (word(words, "panels") == "1") {
    return json_reply({{"panels", panels_of(layout_of(plan))}});
  }
  return {200, "image/svg+xml", plan_svg(plan), {}};
}

Reply Desk::truth(const Words& words) {
  const std::shared_ptr<const LoadedShot> loaded = now();
  const PixelSize size = draft_size(look_.size(*loaded), whole_number(words, "w", 16, 1920),
                                    whole_number(words, "h", 16, 1200));
  const Picture traced = look_.truth(*loaded, size, whole_number(words, "samples", 1, 256));
  return {
      200,
      "application/octet-stream",
      display_bytes(traced),
      {{"X-Width", fmt::format("{}", size.width)}, {"X-Height", fmt::format("{}", size.height)}}};
}

Reply Desk::thumb(const Words& words) {
  const std::lock_guard lock(lock_);
  const auto i = static_cast<std::size_t>(whole_number(words, "try", 0, 100000));
  if (i >= kept_.size()) throw UsageError("there is no such try");
  return {200,
          "application/octet-stream",
          kept_[i].bytes,
          {{"X-Width", fmt::format("{}", kept_[i].size.width)},
           {"X-Height", fmt::format("{}", kept_[i].size.height)}}};
}

// ---- changing
// -------------------------------------------------------------------------------------

Reply Desk::act(const std::string& what, const Words& words) {
  for (const auto& [name, text] : words) {
    if (text.size() > longest_text) return refusal(413, name + " is too long");
  }
  std::string error;
  try {
    if (what == "change") {
      change(words);
    } else if (what == "focus") {
      focus_at(words);
    } else if (what == "hold") {
      hold(words);
    } else if (what == "blur") {
      blur(words);
    } else if (what == "keep") {
      keep(words);
    } else if (what == "write") {
      write(words);
    } else {
      const std::lock_guard lock(lock_);
      told_.clear();
      if (what == "undo") {
        shot_.undo();
      } else if (what == "redo") {
        shot_.redo();
      } else if (what == "reset") {
        shot_.reset();
      } else if (what == "take") {
        shot_.take(static_cast<std::size_t>(whole_number(words, "try", 0, 100000)));
      } else if (what == "drop") {
        const auto i = static_cast<std::size_t>(whole_number(words, "try", 0, 100000));
        shot_.drop(i);
        kept_.erase(kept_.begin() + static_cast<std::ptrdiff_t>(i));
      } else if (what == "frame") {
        shot_.go_to_frame(number(words, "frame"));
      } else if (what == "settle") {
        shot_.settle(word(words, "key"), word(words, "keep") == "1");
      } else {
        return refusal(404, "there is no such thing to do");
      }
      changed();
    }
  } catch (const std::exception& e) {
    error = e.what();
  }
  return state_after(error);
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
    const bool offered = c.key == "lens.look" && c.text &&
                         std::find(looks_.begin(), looks_.end(), *c.text) != looks_.end();
    if (names_file && c.text && !offered) {
      throw UsageError(c.key + ": names a file; write that into the shot file");
    }
  }
  shot_.change(changes, word(words, "touch"));
  told_.clear();
  changed();
}

void Desk::focus_at(const Words& words) {
  const std::shared_ptr<const LoadedShot> loaded = now();
  const LivePlace p = look_.place(*loaded, number(words, "x"), number(words, "y"));
  if (!p.axial) throw UsageError("how far away that is, is not known");
  const bool named = !p.subject.empty() && word(words, "by") != "distance" &&
                     std::any_of(loaded->answer.subjects.begin(), loaded->answer.subjects.end(),
                                 [&](const SubjectBlur& s) { return s.name == p.subject; });
  const LiveChange change =
      named
          ? LiveChange{"focus.on", p.subject}
          : LiveChange{"focus.at", p.axial->is_infinite() ? std::string("infinity")
                                                          : fmt::format("{:.5g} m", p.axial->m())};
  const std::lock_guard lock(lock_);
  shot_.change({change});
  told_ = "Focus on " + (named ? p.subject : *change.text) + ".";
  changed();
}

void Desk::hold(const Words& words) {
  const std::shared_ptr<const LoadedShot> loaded = now();
  const HoldSolution found = solve_hold(*loaded, word(words, "a"), word(words, "b"));
  std::vector<LiveChange> changes;
  for (const Override& o : overrides_for(found, *loaded)) changes.push_back({o.key, o.text});
  const std::lock_guard lock(lock_);
  shot_.change(changes, word(words, "touch"));
  told_ = fmt::format("Just sharp from {} to {}.", short_metres_text(found.near),
                      short_metres_text(found.far));
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
  const PixelSize size = draft_size(made.picture.size(), thumb_width, thumb_width);
  const Frame small = reduced({made.picture, {}}, size);
  const std::lock_guard lock(lock_);
  const std::size_t i = shot_.keep(word(words, "name"));
  kept_.push_back({size, display_bytes(small.colour)});
  told_ = "Kept as '" + shot_.tries()[i].name + "'.";
  ++serial_;
  changes_.notify_all();
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
