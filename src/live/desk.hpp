// What the page asks for and gets, without a word about how it travels.
#pragma once

#include <condition_variable>
#include <cstdint>
#include <map>
#include <memory>
#include <mutex>
#include <stop_token>
#include <string>
#include <thread>
#include <vector>

#include "disk/json.hpp"
#include "jolly_iris/live/live.hpp"
#include "jolly_iris/workflow/live_look.hpp"
#include "jolly_iris/workflow/live_shot.hpp"

namespace jolly_iris::live {

/// Names and values of one question; a name may come several times.
using Words = std::multimap<std::string, std::string>;

struct Reply {
  int status = 200;
  std::string type = "application/json";
  std::string body{};
  std::map<std::string, std::string> headers{};
};

Reply json_reply(const Json& json);

/// May be asked from several threads.
class Desk {
 public:
  explicit Desk(const LiveRequest& request);
  ~Desk();
  Desk(const Desk&) = delete;
  Desk& operator=(const Desk&) = delete;

  /// Looks: state, picture, plate, place, plan.png, curve, truth, thumb.
  Reply look(const std::string& what, const Words& words);
  /// Changes: the state afterwards, with `error` where it could not be.
  Reply act(const std::string& what, const Words& words);

  std::vector<std::string> notes() const;
  /// Lets go whoever waits.
  void close();

 private:
  struct Kept {  // beside the shot's tries
    PixelSize size{};
    std::string bytes{};
  };
  std::shared_ptr<const LoadedShot> now() const;
  Reply state_after(const std::string& error);
  Json state();
  Reply wait_for_change(const Words& words);
  Reply picture(const Words& words);
  Reply plate(const Words& words);
  Reply place(const Words& words);
  Reply plan(const Words& words);
  Reply focus_curve_reply();
  Reply truth(const Words& words);
  Reply thumb(const Words& words);
  bool are_offered(const std::string& looks) const;
  void change(const Words& words);
  void add_what_belongs(std::vector<LiveChange>& changes, bool keep_framing) const;
  std::vector<LiveChange> keyed(std::vector<LiveChange> changes, const Words& words) const;
  void match();
  void focus_at(const Words& words);
  void focus_key(const Words& words);
  void hold(const Words& words);
  void blur(const Words& words);
  void keep(const Words& words);
  void write(const Words& words);
  void changed();
  bool plate_was_saved();
  void watch();

  mutable std::mutex lock_;  // of all below
  LiveShot shot_;
  LiveLook look_;
  std::shared_ptr<const LoadedShot> snapshot_{};
  std::uint64_t serial_ = 1;   // rises with everything that a page shows
  std::uint64_t version_ = 1;  // rises where pictures may be others
  std::string file_trouble_{};
  std::string told_{};  // what was done last, in words
  std::vector<Kept> kept_{};
  std::optional<Frame> plate_{};
  std::string plate_stamp_{};
  std::uint64_t plate_saved_ = 1;     // rises where the plate may be another
  std::vector<std::string> looks_{};  // look files beside the shot
  bool closed_ = false;
  int waiting_ = 0;
  struct Advice {  // what the plate says of the notes
    bool asked = false;
    bool running = false;
    std::string trouble{};
    std::vector<std::string> said{};
    std::vector<LiveValue> values{};
  };
  Advice advice_{};
  std::stop_source stop_matching_{};
  std::condition_variable changes_;
  std::thread watcher_;
  std::jthread matcher_{};
};

}  // namespace jolly_iris::live
