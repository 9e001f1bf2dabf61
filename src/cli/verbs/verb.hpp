// What a verb is: its options, what of them belongs together, and its run.
#pragma once

#include <iosfwd>
#include <memory>
#include <string>
#include <vector>

#include "cli/parse/option_set.hpp"
#include "cli/terminal/notes.hpp"

namespace jolly_iris::cli {

/// Where a verb says what it found, and where it tells which files it read, for --watch.
struct Terminal {
  std::ostream& out;
  std::ostream& err;
  std::ostream& bar;  ///< where a progress bar is drawn
  std::vector<std::string>& files;
  Notes& notes;  ///< what was decided or is doubted: on stderr, and in the JSON
};

class Verb {
 public:
  Verb() = default;
  virtual ~Verb() = default;
  Verb(const Verb&) = delete;
  Verb& operator=(const Verb&) = delete;

  virtual void add_options(OptionSet& options) = 0;
  /// Turns texts into values. @throws UsageError for what cannot be meant, or not together
  virtual void check() {}
  virtual void run(const Terminal& io) = 0;
  /// Whether it runs again on every save of a file that it read.
  virtual bool watches() const { return false; }
};

/// How a verb is listed.
struct VerbEntry {
  const char* name;
  const char* help;
  std::unique_ptr<Verb> (*make)();
};

template <class V, auto... arguments>
std::unique_ptr<Verb> make_verb() {
  return std::make_unique<V>(arguments...);
}

}  // namespace jolly_iris::cli
