#include "parallel.hpp"

#include <tbb/blocked_range.h>
#include <tbb/parallel_for.h>
#include <tbb/task_arena.h>

namespace jolly_iris::parallel {

void over_ranges(std::size_t count, Range range, const void* body) {
  using Blocks = tbb::blocked_range<std::size_t>;
  tbb::parallel_for(Blocks(0, count), [&](const Blocks& b) { range(body, b.begin(), b.end()); });
}

void within(int threads, Call call, const void* body) {
  tbb::task_arena arena(threads > 0 ? threads : tbb::task_arena::automatic);
  arena.execute([&] { call(body); });
}

void alone(Call call, const void* body) {
  tbb::this_task_arena::isolate([&] { call(body); });
}

}  // namespace jolly_iris::parallel
