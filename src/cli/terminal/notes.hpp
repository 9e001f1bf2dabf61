// What a run decided or doubts besides its answer: each sentence once on stderr, and all of them
// under "notes" in the JSON, where a script reads them.
#pragma once

#include <iosfwd>
#include <mutex>
#include <string>
#include <vector>

namespace jolly_iris::cli {

class Notes {
 public:
  explicit Notes(std::ostream& err) : err_(err) {}
  /// What was decided, "note: …" on stderr; nothing the second time. May be called by any thread.
  void note(const std::string& sentence) { tell("note: ", sentence, ""); }
  /// What looks wrong, "warning: …". @param on_stderr_besides how it is typed, for people only
  void warn(const std::string& sentence, const std::string& on_stderr_besides = {}) {
    tell("warning: ", sentence, on_stderr_besides);
  }
  /// In the order they were told.
  std::vector<std::string> told() const;
  /// Before the verb runs again.
  void clear();

 private:
  void tell(const char* kind, const std::string& sentence, const std::string& besides);

  std::ostream& err_;
  mutable std::mutex mutex_{};
  std::vector<std::string> told_{};
};

}  // namespace jolly_iris::cli
