// Loops on many threads. oneTBB's headers take three seconds to compile: its work is asked for
// through two functions, and files that only loop do not see them.
#pragma once

#include <cstddef>

#include "jolly_iris/export.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

namespace parallel {

using Range = void (*)(const void* body, std::size_t begin, std::size_t end);
void over_ranges(std::size_t count, Range range, const void* body);
using Call = void (*)(const void* body);
void within(int threads, Call call, const void* body);
void alone(Call call, const void* body);

template <class Body>
void call(const void* body) {
  (*static_cast<const Body*>(body))();
}

}  // namespace parallel

/// Calls body(i) for begin ≤ i < end, cut up among the threads of `with_threads` as they are free.
/// Rethrows what a body throws; the others may not be called then.
template <class Index, class Body>
void parallel_for(Index begin, Index end, const Body& body) {
  if (!(begin < end)) return;
  struct Loop {
    Index begin;
    const Body& body;
  };
  const Loop loop{begin, body};
  parallel::over_ranges(
      static_cast<std::size_t>(end - begin),
      [](const void* of, std::size_t from, std::size_t to) {
        const Loop& l = *static_cast<const Loop*>(of);
        for (std::size_t i = from; i < to; ++i) l.body(l.begin + static_cast<Index>(i));
      },
      &loop);
}

/// Calls body() where loops use that many threads; 0: one a core.
template <class Body>
void with_threads(int threads, const Body& body) {
  parallel::within(threads, &parallel::call<Body>, &body);
}

/// Calls body() so that a thread that waits for a loop inside takes on nothing from outside.
template <class Body>
void isolated(const Body& body) {
  parallel::alone(&parallel::call<Body>, &body);
}

}  // namespace jolly_iris
