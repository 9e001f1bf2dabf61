// A local page on which one plays with a shot: it shows the picture through the lens, and
// everything that is turned on it is turned by the library in this process.
//
//   LiveServer server({.shot = {.file = "hero.shot.toml"}, .sources = {.pictures =
//   {"pinhole.exr"}}}); fmt::print("{}\n", server.address());   // http://127.0.0.1:40321/3f9a…/
//   server.serve();                         // until stop() or somebody says "end" on the page
//
// Only this machine reaches it, and only who knows the address: it is bound to the loopback, holds
// a token that nobody guesses, and answers no other site's page (Host and Origin are checked).
#pragma once

#include <memory>
#include <string>
#include <vector>

#include "jolly_iris/export.hpp"
#include "jolly_iris/workflow/live_look.hpp"
#include "jolly_iris/workflow/load.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

struct LiveRequest {
  ShotRequest shot{};
  LiveSources sources{};
  int port = 0;  ///< 0: any that is free
};

class LiveServer {
 public:
  /// Reads the shot and its pictures, and takes the port.
  /// @throws as LiveShot and LiveLook; UsageError for a port that is taken or may not be had
  explicit LiveServer(const LiveRequest& request);
  ~LiveServer();
  LiveServer(const LiveServer&) = delete;
  LiveServer& operator=(const LiveServer&) = delete;

  /// Where the page is, token included.
  std::string address() const;
  /// What reading decided or doubts, a sentence each.
  std::vector<std::string> notes() const;
  /// Answers until it is stopped.
  void serve();
  /// From any thread.
  void stop();

 private:
  class Inside;
  std::unique_ptr<Inside> inside_;
};

}  // namespace jolly_iris
