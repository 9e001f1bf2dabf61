// Work that takes a while, asked for from Python: without its lock, on a thread of its own, while
// the caller's thread tells how far it is and looks for Ctrl-C.
#pragma once

#include <pybind11/pybind11.h>

#include <atomic>
#include <chrono>
#include <future>
#include <optional>
#include <stop_token>
#include <utility>

#include "jolly_iris/optics/execution.hpp"

namespace jolly_iris::python {

/// @param progress called with 0 … 1 now and then, from the caller's thread; none: nobody is told
/// @param work takes an Execution
/// @throws what the work throws; KeyboardInterrupt, or what `progress` raises, once the work has
///         stopped
template <class Work>
auto run_long(int threads, const pybind11::object& progress, Work work) {
  namespace py = pybind11;
  std::stop_source stop;
  std::atomic<double> done{0.0};
  Execution execution{threads, [&](double now) { done = now; }, stop.get_token()};
  auto result = std::async(std::launch::async, [&] { return work(execution); });
  constexpr std::chrono::milliseconds glance{20};
  std::optional<py::error_already_set> raised;
  double told = -1.0;
  while (true) {
    std::future_status status{};
    {
      const py::gil_scoped_release unlocked;
      status = result.wait_for(glance);
    }
    if (status == std::future_status::ready) break;
    if (raised) continue;
    try {
      if (PyErr_CheckSignals() != 0) throw py::error_already_set();
      if (const double now = done; !progress.is_none() && now != told) progress(told = now);
    } catch (py::error_already_set& e) {
      raised.emplace(std::move(e));
      stop.request_stop();
    }
  }
  if (raised) {
    try {
      (void)result.get();
    } catch (const Cancelled&) {
      // It is what was asked for.
    }
    throw std::move(*raised);
  }
  auto out = result.get();
  if (!progress.is_none()) progress(1.0);
  return out;
}

}  // namespace jolly_iris::python
