#include "large_memory.hpp"

#include <algorithm>
#include <array>
#include <mutex>

namespace jolly_iris::blur {

namespace {

constexpr std::size_t most_bytes = std::size_t{512} << 20U;
// More is never given back at once by one picture.
constexpr std::size_t most_blocks = 32;

struct Block {
  void* memory = nullptr;
  std::size_t bytes = 0;
};

struct Store {
  std::mutex lock{};
  int holders = 0;
  std::size_t bytes = 0;
  std::size_t count = 0;
  std::array<Block, most_blocks> blocks{};
};

Store& store() {
  static Store the;
  return the;
}

}  // namespace

LargeMemoryKept::LargeMemoryKept() {
  const std::lock_guard lock(store().lock);
  ++store().holders;
}

LargeMemoryKept::~LargeMemoryKept() {
  Store& s = store();
  const std::lock_guard lock(s.lock);
  if (--s.holders > 0) return;
  for (std::size_t i = 0; i < s.count; ++i) std::free(s.blocks[i].memory);
  s.count = 0;
  s.bytes = 0;
}

void* kept_memory(std::size_t bytes) {
  Store& s = store();
  const std::lock_guard lock(s.lock);
  const auto end = s.blocks.begin() + static_cast<std::ptrdiff_t>(s.count);
  const auto found =
      std::find_if(s.blocks.begin(), end, [&](const Block& b) { return b.bytes == bytes; });
  if (found == end) return nullptr;
  void* memory = found->memory;
  s.bytes -= found->bytes;
  *found = s.blocks[--s.count];
  return memory;
}

bool keep_memory(void* memory, std::size_t bytes) noexcept {
  Store& s = store();
  const std::lock_guard lock(s.lock);
  if (s.holders == 0 || bytes > most_bytes) return false;
  // The oldest go first: their size is no longer asked for.
  while (s.count > 0 && (s.count == most_blocks || s.bytes + bytes > most_bytes)) {
    std::free(s.blocks[0].memory);
    s.bytes -= s.blocks[0].bytes;
    std::move(s.blocks.begin() + 1, s.blocks.begin() + static_cast<std::ptrdiff_t>(s.count),
              s.blocks.begin());
    --s.count;
  }
  s.blocks[s.count++] = {memory, bytes};
  s.bytes += bytes;
  return true;
}

}  // namespace jolly_iris::blur
