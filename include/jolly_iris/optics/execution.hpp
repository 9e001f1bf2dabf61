// How long work is done: on how many cores, who is told how far it is, and who may stop it.
//
//   std::stop_source stop;                                   // a button
//   const Execution execution{.progress = [](double done) { draw_bar(done); },
//                             .stop = stop.get_token()};
#pragma once

#include <functional>
#include <stop_token>

#include "jolly_iris/export.hpp"
#include "jolly_iris/optics/errors.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// Somebody asked for the work to stop before it was done. Nothing of it is left: no file, no
/// thread.
class Cancelled : public Error {
 public:
  Cancelled() : Error("stopped before it was done") {}
};

/// Passed to every call that can take over a tenth of a second.
struct Execution {
  int threads = 0;  ///< cores to use; 0: all. Results do not depend on it
  /// Takes the fraction done, 0 … 1, from any thread; may be empty.
  std::function<void(double)> progress{};
  std::stop_token stop{};  ///< asked between the parts of the work, some tens of milliseconds apart

  /// @throws Cancelled once a stop was asked for
  void check() const {
    if (stop.stop_requested()) throw Cancelled();
  }
  /// The same, and how far the work is.
  void tell(double done) const {
    check();
    if (progress) progress(done);
  }
  /// For one part of the work: its 0 … 1 becomes `from` … `to` of the whole.
  Execution part(double from, double to) const {
    Execution out{threads, {}, stop};
    if (progress) {
      out.progress = [whole = progress, from, to](double done) {
        whole(from + (to - from) * done);
      };
    }
    return out;
  }
};

}  // namespace jolly_iris
