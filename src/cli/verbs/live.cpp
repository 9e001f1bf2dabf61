#include <fmt/format.h>
#include <unistd.h>

#include <array>
#include <ostream>
#include <string>

#include <fcntl.h>
#include <spawn.h>

#include "cli/parse/values.hpp"
#include "cli/verbs/list.hpp"
#include "cli/verbs/shot_verb.hpp"
#include "jolly_iris/live/live.hpp"

extern char** environ;  // NOLINT(readability-redundant-declaration): POSIX leaves it to the program

namespace jolly_iris::cli {

namespace {

// The desktop's own way to a browser (freedesktop.org). @return whether there is one
bool open_browser(const std::string& address) {
  std::string program = "xdg-open";
  std::string argument = address;
  std::array<char*, 3> arguments{program.data(), argument.data(), nullptr};
  posix_spawn_file_actions_t quiet;
  posix_spawn_file_actions_init(&quiet);
  posix_spawn_file_actions_addopen(&quiet, STDOUT_FILENO, "/dev/null", O_WRONLY, 0);
  posix_spawn_file_actions_addopen(&quiet, STDERR_FILENO, "/dev/null", O_WRONLY, 0);
  pid_t child = 0;
  const int failed =
      posix_spawnp(&child, program.c_str(), &quiet, nullptr, arguments.data(), environ);
  posix_spawn_file_actions_destroy(&quiet);
  return failed == 0;
}

class LiveVerb : public ShotVerb {
 public:
  void add_options(OptionSet& options) override {
    add_shot(options, "address");
    options.several("PICTURE", wanted_.sources.pictures,
                    "a sharp CG picture with depth (an EXR with Z); several are layers,\n"
                    "front to back; #### stands for the frame [the shot's scene, traced]",
                    "FILE");
    options.value("--distance", wanted_.sources.distance,
                  "a picture without depth: everything is this far, or as far as\n"
                  "this subject [the shot's depth.distance]",
                  "LENGTH|NAME");
    options.repeatable("--card", cards_,
                       "a flat picture with alpha, all of it at a subject or a distance:\n"
                       "boat.png=boat, reeds.png=1.2m (repeatable)",
                       "FILE=WHERE");
    transfer_.add(options);
    options.value("--port", wanted_.port, "[any that is free]", "N").within(1, 65535);
    options.flag("--open", open_, "open the page in the browser");
    options.example(fmt::format("live {} demo/regatta/pinhole.exr --open", regatta));
  }

  void check() override {
    ShotVerb::check();
    if (ShotVerb::watches()) throw UsageError("--watch: live follows its files by itself");
    wanted_.shot = request_;
    for (const std::string& text : cards_) wanted_.sources.cards.push_back(picture_card(text));
    wanted_.sources.decoding = transfer_.decoding();
  }

  // The page follows its files by itself.
  bool watches() const override { return false; }

  void run(const Terminal& io) override {
    LiveServer server(wanted_);
    tell_notes(server.notes(), io);
    const std::string address = server.address();
    say(form_, io, {{"address", address}},
        fmt::format("{}\n  only this machine reaches it; Ctrl-C ends it\n", address));
    io.out.flush();
    if (open_ && !open_browser(address)) {
      io.notes.warn("there is no xdg-open here; open the address in a browser yourself");
    }
    server.serve();
  }

 private:
  LiveRequest wanted_{};
  TransferText transfer_{};
  std::vector<std::string> cards_{};
  bool open_ = false;
};

}  // namespace

const VerbEntry verbs::live{"live", "a page in the browser to play with the shot",
                            make_verb<LiveVerb>};

}  // namespace jolly_iris::cli
