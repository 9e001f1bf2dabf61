// A progress bar for work of over a second, where stderr is a terminal.
#pragma once

#include <memory>
#include <ostream>
#include <string>

#include "jolly_iris/optics/execution.hpp"

namespace jolly_iris::cli {

class Progress {
 public:
  /// Draws on `err` if that is the terminal's own stream; else stays silent.
  Progress(std::ostream& err, std::string what);
  ~Progress();
  Progress(const Progress&) = delete;
  Progress& operator=(const Progress&) = delete;

  /// To hand to long work.
  Execution execution(int threads = 0);
  double seconds() const;

 private:
  struct State;
  std::unique_ptr<State> state_;
};

}  // namespace jolly_iris::cli
