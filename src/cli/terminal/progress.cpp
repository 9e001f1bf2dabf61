#include "cli/terminal/progress.hpp"

#include <fmt/format.h>
#include <unistd.h>

#include <chrono>
#include <iostream>
#include <mutex>

namespace jolly_iris::cli {

namespace {
using Clock = std::chrono::steady_clock;
constexpr double patience = 1.0;  // seconds before the bar appears
constexpr double between = 0.1;   // seconds between two drawings
constexpr int bar_width = 30;
}  // namespace

struct Progress::State {
  std::ostream& err;
  std::string what;
  bool visible = false;
  bool drawn = false;
  std::mutex mutex{};
  Clock::time_point begin = Clock::now();
  Clock::time_point last = begin;
  double max = 0.0;

  double since(Clock::time_point t) const {
    return std::chrono::duration<double>(Clock::now() - t).count();
  }

  void draw(double fraction) {
    const std::scoped_lock lock(mutex);
    max = std::max(max, fraction);
    if (since(begin) < patience || since(last) < between) return;
    last = Clock::now();
    drawn = true;
    const int full = static_cast<int>(max * bar_width);
    const double left = max > 0.0 ? since(begin) * (1.0 - max) / max : 0.0;
    err << fmt::format("\r{} [{:#<{}}{:.<{}}] {:3.0f} %, {:.0f} s left ", what, "", full, "",
                       bar_width - full, 100.0 * max, left)
        << std::flush;
  }
};

Progress::Progress(std::ostream& err, std::string what) : state_(new State{err, std::move(what)}) {
  state_->visible = &err == &std::cerr && ::isatty(STDERR_FILENO) == 1;
}

Progress::~Progress() {
  if (state_->drawn) state_->err << "\r\033[K" << std::flush;
}

Execution Progress::execution(int threads) {
  Execution out;
  out.threads = threads;
  if (state_->visible) out.progress = [state = state_.get()](double done) { state->draw(done); };
  return out;
}

double Progress::seconds() const { return state_->since(state_->begin); }

}  // namespace jolly_iris::cli
