#include "jolly_iris/workflow/live_shot.hpp"

#include <fmt/format.h>

#include <algorithm>

#include "disk/disk.hpp"
#include "disk/file_stamp.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "workflow/shot_values.hpp"

namespace jolly_iris {

namespace {

constexpr std::size_t max_tries = 200;  // each may come with its picture: a screen's memory

LiveValue* find_value(std::vector<LiveValue>& values, const std::string& key) {
  const auto found =
      std::find_if(values.begin(), values.end(), [&](const LiveValue& v) { return v.key == key; });
  return found == values.end() ? nullptr : &*found;
}

}  // namespace

LiveShot::LiveShot(ShotRequest request) : base_(std::move(request)) {
  State state{{}, base_.frame};
  text_ = read_whole_file(base_.file);
  for (const Override& o : base_.overrides) {
    if (o.key == "variant") variant_ = o.text;
  }
  for (const Override& o : base_.overrides) {
    if (o.key != "variant") state = changed(state, {{o.key, o.text}});
  }
  base_.overrides.clear();
  base_.frame.reset();
  open_file();
  open(std::move(state));
  history_ = {now_};
}

void LiveShot::open_file() {
  std::vector<std::string> files;
  in_file_ = open_shot(request_for({}), files);
}

// "take.stop" as the file has it where the hand would write it.
std::string LiveShot::in_file(const std::string& key) const {
  try {
    const std::string below = variant_.empty() ? key : "variant." + variant_ + "." + key;
    auto found = written_value(text_, base_.file, below);
    if (!found && !variant_.empty()) found = written_value(text_, base_.file, key);
    return found.value_or("");
  } catch (const ShotFileError&) {
    return {};  // half saved: reading it will say so
  }
}

ShotRequest LiveShot::request_for(const State& state) const {
  ShotRequest request = base_;
  request.frame = state.frame;
  if (!variant_.empty()) request.overrides.push_back({"variant", variant_, "--variant"});
  for (const LiveValue& v : state.values)
    request.overrides.push_back({v.key, v.text, "in the hand"});
  return request;
}

void LiveShot::open(State state) {
  std::vector<std::string> files;
  LoadedShot loaded = open_shot(request_for(state), files);
  std::sort(files.begin(), files.end());
  files.erase(std::unique(files.begin(), files.end()), files.end());
  loaded_ = std::move(loaded);
  if (files != files_) {
    files_ = std::move(files);
    stamps_ = file_stamps(files_);
  }
  now_ = std::move(state);
  ++version_;
}

LiveShot::State LiveShot::changed(State state, const std::vector<LiveChange>& changes) const {
  for (const LiveChange& change : changes) {
    const std::string section = focus_section(change.key);
    if (!section.empty() && change.text) {
      std::erase_if(state.values, [&](const LiveValue& v) {
        // One focus for all frames leads over its keys, and the reverse.
        const bool other = is_pull(section) ? focus_section(v.key) == "focus." : is_pull(v.key);
        const bool rival = v.key != change.key && focus_section(v.key) == section;
        return (other || rival) &&
               std::none_of(changes.begin(), changes.end(),
                            [&](const LiveChange& c) { return c.key == v.key && c.text; });
      });
    }
    if (is_pull(section) && change.text) {  // a key that was taken out is there again
      std::erase_if(state.values, [&](const LiveValue& v) { return v.key == section + "frame"; });
    }
    if (!change.text) {
      std::erase_if(state.values, [&](const LiveValue& v) { return v.key == change.key; });
    } else if (LiveValue* held = find_value(state.values, change.key)) {
      held->text = *change.text;
    } else {
      state.values.push_back({change.key, *change.text, in_file(change.key)});
    }
  }
  return state;
}

void LiveShot::enter(State state, const std::string& touch) {
  open(std::move(state));
  const bool goes_on = !touch.empty() && touch == touch_ && at_ + 1 == history_.size();
  if (goes_on && at_ > 0) {
    history_[at_] = now_;
  } else {
    history_.resize(at_ + 1);
    history_.push_back(now_);
    ++at_;
  }
  touch_ = touch;
}

void LiveShot::change(const std::vector<LiveChange>& changes, const std::string& touch) {
  enter(changed(now_, changes), touch);
}

void LiveShot::go_to_frame(std::optional<double> frame) {
  State state = now_;
  state.frame = frame;
  open(std::move(state));
  history_[at_].frame = frame;
}

void LiveShot::reset() { enter({{}, now_.frame}, {}); }

void LiveShot::undo() {
  if (!can_undo()) return;
  open(history_[at_ - 1]);
  --at_;
  touch_.clear();
}

void LiveShot::redo() {
  if (!can_redo()) return;
  open(history_[at_ + 1]);
  ++at_;
  touch_.clear();
}

std::size_t LiveShot::keep(std::string name) {
  if (tries_.size() >= max_tries) {
    throw UsageError(fmt::format("{} tries are kept; drop some first", max_tries));
  }
  const auto taken = [&](const std::string& n) {
    return std::any_of(tries_.begin(), tries_.end(), [&](const LiveTry& t) { return t.name == n; });
  };
  if (name.empty()) {
    for (std::size_t i = tries_.size() + 1; name.empty() || taken(name); ++i) {
      name = fmt::format("try {}", i);
    }
  }
  if (taken(name)) throw UsageError(fmt::format("there is a try '{}' already", name));
  tries_.push_back({std::move(name), now_.values, now_.frame});
  return tries_.size() - 1;
}

void LiveShot::take(std::size_t which) {
  if (which >= tries_.size()) throw UsageError("there is no such try");
  enter({tries_[which].values, tries_[which].frame}, {});
}

void LiveShot::drop(std::size_t which) {
  if (which >= tries_.size()) throw UsageError("there is no such try");
  tries_.erase(tries_.begin() + static_cast<std::ptrdiff_t>(which));
}

bool LiveShot::look_again() {
  const std::vector<std::string> now = file_stamps(files_);
  if (now == stamps_) return false;
  const std::string before = text_;
  text_ = read_whole_file(base_.file);
  std::vector<std::string> was;
  for (LiveValue& v : now_.values) was.push_back(std::exchange(v.in_file, in_file(v.key)));
  try {
    open_file();
    open(now_);
  } catch (...) {
    text_ = before;
    for (std::size_t i = 0; i < was.size(); ++i) now_.values[i].in_file = was[i];
    throw;
  }
  stamps_ = now;
  for (std::size_t i = 0; i < was.size(); ++i) {
    const LiveValue& v = now_.values[i];
    if (v.in_file == was[i] || v.in_file == toml_spelling(v.text, v.in_file)) continue;
    std::erase_if(conflicts_, [&](const LiveConflict& c) { return c.key == v.key; });
    conflicts_.push_back({v.key, v.text, v.in_file});
  }
  return true;
}

void LiveShot::settle(const std::string& key, bool keep_hand) {
  if (!keep_hand) change({{key, std::nullopt}});
  std::erase_if(conflicts_, [&](const LiveConflict& c) { return c.key == key; });
}

LiveWritten LiveShot::write(const std::string& variant, std::optional<std::size_t> which) {
  if (which && *which >= tries_.size()) throw UsageError("there is no such try");
  const std::vector<LiveValue>& values = which ? tries_[*which].values : now_.values;
  const std::string name = variant.empty() ? variant_ : variant;
  if (!variant.empty()) require_variant_name(variant);
  if (variant_.find_first_of(",+") != std::string::npos) {
    throw UsageError(fmt::format(
        "several variants are open, {}; open the one that it shall be written into", variant_));
  }
  if (!variant_.empty() && name != variant_) {
    throw UsageError(fmt::format(
        "the variant {} is open, and a variant of a variant there is not; write into it, or open "
        "the shot without it",
        variant_));
  }
  if (values.empty()) throw UsageError("nothing was changed, so there is nothing to write");
  const std::string now = read_own_file(base_.file);
  if (now != text_) {
    throw FileError(
        fmt::format("{}: was saved by somebody else meanwhile; look at it first", base_.file));
  }
  LiveWritten out{base_.file, name, {}};
  std::vector<ShotValue> wanted;
  for (const LiveValue& v : values) {
    wanted.push_back({v.key, v.text});
    out.keys.push_back(v.key);
  }
  const std::vector<ShotEdit> edits = edits_for(now, base_.file, name, wanted);
  const std::string text = edited_shot(now, base_.file, edits);
  rewrite_whole_file(base_.file, text);
  text_ = text;
  open_file();
  if (!which && (variant.empty() || !variant_.empty())) {
    // They are the file's now: nothing of them is in the hand any more.
    enter({{}, now_.frame}, {});
    conflicts_.clear();
  } else {
    open(now_);
  }
  stamps_ = file_stamps(files_);
  return out;
}

}  // namespace jolly_iris
