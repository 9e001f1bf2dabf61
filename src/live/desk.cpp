#include "live/desk.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <chrono>
#include <filesystem>
#include <utility>

#include "disk/file_stamp.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "live/words.hpp"

namespace jolly_iris::live {

namespace {

using namespace std::chrono_literals;

constexpr auto file_check = 300ms;
constexpr auto longest_wait = 20s;  // of a page that waits for news; it asks again then
constexpr int most_waiting = 8;
constexpr std::size_t longest_text = 4096;

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

Reply json_reply(const Json& json) { return {200, "application/json", json.dump(), {}}; }

Desk::Desk(const LiveRequest& request)
    : shot_(request.shot),
      look_(request.sources, shot_.as_in_file()),
      looks_(look_files(request.shot.file)) {
  snapshot_ = std::make_shared<const LoadedShot>(shot_.loaded());
  (void)plate_was_saved();
  watcher_ = std::thread([this] { watch(); });
}

Desk::~Desk() {
  close();
  stop_matching_.request_stop();
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

bool Desk::plate_was_saved() {
  const auto& plate = shot_.as_in_file().now.plate;
  const std::string stamp = plate && !plate->file.empty() ? file_stamp(plate->file) : "";
  return std::exchange(plate_stamp_, stamp) != stamp && !stamp.empty();
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
      const bool plate = plate_was_saved();
      if (shot || plate) {
        plate_.reset();
        ++plate_saved_;
      }
      if (shot || pictures || plate) {
        told_ = fmt::format("The {} was saved: it is taken in.", shot       ? "file"
                                                                 : pictures ? "picture"
                                                                            : "plate");
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

Reply Desk::look(const std::string& what, const Words& words) {
  try {
    if (what == "state") return wait_for_change(words);
    if (what == "picture") return picture(words);
    if (what == "plate") return plate(words);
    if (what == "place") return place(words);
    if (what == "plan.png" || what == "plan") return plan(words);
    if (what == "curve") return focus_curve_reply();
    if (what == "truth") return truth(words);
    if (what == "thumb") return thumb(words);
    return refusal(404, "there is no such thing");
  } catch (const Cancelled&) {
    return {204, "application/octet-stream", {}, {}};  // another state is looked at meanwhile
  } catch (const std::exception& e) {
    return refusal(422, e.what());
  }
}

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
    } else if (what == "focus-key") {
      focus_key(words);
    } else if (what == "hold") {
      hold(words);
    } else if (what == "blur") {
      blur(words);
    } else if (what == "keep") {
      keep(words);
    } else if (what == "write") {
      write(words);
    } else if (what == "match") {
      match();
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

}  // namespace jolly_iris::live
