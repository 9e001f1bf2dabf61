// Memory of a picture's size, in pages as large as the machine has: touched once and given back, a
// frame's buffers would otherwise spend more time on being mapped than on being filled.
#pragma once

#include <cstddef>
#include <cstdlib>
#include <memory>
#include <new>
#include <vector>

#if defined(__linux__)
#include <sys/mman.h>
#endif

namespace jolly_iris::blur {

inline constexpr std::size_t large_page = std::size_t{1} << 21U;

/// While one lives, memory of a picture's size that is given back is kept for the next picture, up
/// to 512 MB: being mapped anew would be an eighth of its time.
class LargeMemoryKept {
 public:
  LargeMemoryKept();
  ~LargeMemoryKept();
  LargeMemoryKept(const LargeMemoryKept&) = delete;
  LargeMemoryKept& operator=(const LargeMemoryKept&) = delete;
};

/// Kept memory of that many bytes; null: there is none. What is in it is not said.
void* kept_memory(std::size_t bytes);
/// Whether it is kept, or to be freed.
bool keep_memory(void* memory, std::size_t bytes) noexcept;

/// std::allocator's like; what it gives is only asked to be in large pages, and works without.
template <class T>
struct LargeAllocator {
  using value_type = T;
  LargeAllocator() = default;
  template <class U>
  LargeAllocator(const LargeAllocator<U>&) noexcept {}  // NOLINT: allocators convert

  T* allocate(std::size_t n) {
    const std::size_t bytes = n * sizeof(T);
    if (bytes < large_page) return static_cast<T*>(::operator new(bytes));
    const std::size_t whole = (bytes + large_page - 1) / large_page * large_page;
    if (void* again = kept_memory(whole)) return static_cast<T*>(again);
    void* memory = std::aligned_alloc(large_page, whole);
    if (memory == nullptr) throw std::bad_alloc();
#if defined(__linux__)
    (void)madvise(memory, whole, MADV_HUGEPAGE);  // a wish: without it, the memory is as good
#endif
    return static_cast<T*>(memory);
  }
  void deallocate(T* memory, std::size_t n) noexcept {
    if (n * sizeof(T) < large_page) {
      ::operator delete(memory);
    } else if (!keep_memory(memory, (n * sizeof(T) + large_page - 1) / large_page * large_page)) {
      std::free(memory);
    }
  }
  template <class U>
  bool operator==(const LargeAllocator<U>&) const noexcept {
    return true;
  }
};

template <class T>
using LargeVector = std::vector<T, LargeAllocator<T>>;

/// An array that is not filled.
template <class T>
class LargeArray {
 public:
  LargeArray() = default;
  explicit LargeArray(std::size_t n) : memory_(LargeAllocator<T>{}.allocate(n), Release{n}) {
    static_assert(std::is_trivially_destructible_v<T>);
  }
  T* get() const { return memory_.get(); }
  T& operator[](std::size_t i) const { return memory_.get()[i]; }

 private:
  struct Release {
    std::size_t n = 0;
    void operator()(T* memory) const { LargeAllocator<T>{}.deallocate(memory, n); }
  };
  std::unique_ptr<T[], Release> memory_{nullptr, Release{}};
};

}  // namespace jolly_iris::blur
