#include "spread_kernel.hpp"

#include <array>
#include <cstring>

namespace jolly_iris::blur {

namespace {

// Vectors of the compiler; unaligned, and allowed to lie over plain floats.
using V4 = float __attribute__((vector_size(16), aligned(4), may_alias));
using V8 = float __attribute__((vector_size(32), aligned(4), may_alias));

template <class V>
[[gnu::always_inline]] inline void add_scaled(float* to, const float* from, float k,
                                              std::size_t n) {
  constexpr std::size_t wide = sizeof(V) / sizeof(float);
  std::size_t i = 0;
  for (; i + wide <= n; i += wide) {
    *reinterpret_cast<V*>(to + i) += k * *reinterpret_cast<const V*>(from + i);
  }
  for (; i < n; i += 4) {  // n is a multiple of 4
    *reinterpret_cast<V4*>(to + i) += k * *reinterpret_cast<const V4*>(from + i);
  }
}

// Two taps side by side in one pass: a · from, and b · from one pixel further right.
template <class V>
[[gnu::always_inline]] inline void add_pair(float* to, const float* from, float a, float b,
                                            std::size_t n, std::size_t pixel) {
  constexpr std::size_t wide = sizeof(V) / sizeof(float);
  for (std::size_t i = 0; i < pixel; i += 4) {
    *reinterpret_cast<V4*>(to + i) += a * *reinterpret_cast<const V4*>(from + i);
    *reinterpret_cast<V4*>(to + n + i) += b * *reinterpret_cast<const V4*>(from + n - pixel + i);
  }
  std::size_t i = pixel;
  for (; i + wide <= n; i += wide) {
    *reinterpret_cast<V*>(to + i) += a * *reinterpret_cast<const V*>(from + i) +
                                     b * *reinterpret_cast<const V*>(from + i - pixel);
  }
  for (; i < n; i += 4) {
    *reinterpret_cast<V4*>(to + i) += a * *reinterpret_cast<const V4*>(from + i) +
                                      b * *reinterpret_cast<const V4*>(from + i - pixel);
  }
}

template <class V>
[[gnu::always_inline]] inline void add_all(const RunJob& job, int channels) {
  const Disc& disc = *job.disc;
  float* to = job.to;
  if (job.floats == 4) {
    const V4 source = *reinterpret_cast<const V4*>(job.source);
    for (int row = job.first_row; row < job.last_row; ++row, to += job.stride) {
      const Disc::Row& r = disc.rows[static_cast<std::size_t>(row)];
      const Disc::Tap* tap = disc.taps.data() + r.first;
      for (const Disc::Tap* end = tap + r.count; tap != end; ++tap) {
        *reinterpret_cast<V4*>(to + std::ptrdiff_t{4} * tap->x) += tap->step * source;
      }
    }
    return;
  }
  const auto pixel = static_cast<std::size_t>(channels);
  // A short run's next tap reads what this one has just written: only vectors of one pixel find it
  // whole in the store buffer.
  if (sizeof(V) > sizeof(V4) && job.floats < 48) {
    add_all<V4>(job, channels);
    return;
  }
  for (int row = job.first_row; row < job.last_row; ++row, to += job.stride) {
    const Disc::Row& r = disc.rows[static_cast<std::size_t>(row)];
    const Disc::Tap* tap = disc.taps.data() + r.first;
    const Disc::Tap* end = tap + r.count;
    while (tap != end) {
      float* at = to + static_cast<std::ptrdiff_t>(channels) * tap->x;
      if (tap + 1 != end && tap[1].x == tap->x + 1) {
        add_pair<V>(at, job.source, tap->step, tap[1].step, job.floats, pixel);
        tap += 2;
      } else {
        add_scaled<V>(at, job.source, tap->step, job.floats);
        ++tap;
      }
    }
  }
}

void add_plain(const RunJob& job, int channels) { add_all<V4>(job, channels); }

#if defined(__x86_64__)
[[gnu::target("avx2,fma")]] void add_avx2(const RunJob& job, int channels) {
  add_all<V8>(job, channels);
}
#endif

using Adder = void (*)(const RunJob&, int);

Adder best_adder() {
#if defined(__x86_64__)
  if (__builtin_cpu_supports("avx2") && __builtin_cpu_supports("fma")) return add_avx2;
#endif
  return add_plain;
}

Adder current_adder = best_adder();

void add_tinted(const RunJob& job, int channels) {
  const Disc& disc = *job.disc;
  float* to = job.to;
  const auto pixel = static_cast<std::size_t>(channels);
  for (int row = job.first_row; row < job.last_row; ++row, to += job.stride) {
    const Disc::Row& r = disc.rows[static_cast<std::size_t>(row)];
    for (int k = r.first; k < r.first + r.count; ++k) {
      const Disc::Tap& tap = disc.taps[static_cast<std::size_t>(k)];
      const auto& tint = disc.tint[static_cast<std::size_t>(k)];
      const V4 step{tap.step * tint[0], tap.step * tint[1], tap.step * tint[2], tap.step};
      float* at = to + static_cast<std::ptrdiff_t>(channels) * tap.x;
      for (std::size_t i = 0; i < job.floats; i += pixel) {
        *reinterpret_cast<V4*>(at + i) += step * *reinterpret_cast<const V4*>(job.source + i);
        if (pixel > 4) {
          *reinterpret_cast<V4*>(at + i + 4) +=
              tap.step * *reinterpret_cast<const V4*>(job.source + i + 4);
        }
      }
    }
  }
}

}  // namespace

void use_plain_kernel(bool plain) { current_adder = plain ? add_plain : best_adder(); }

void add_run(const RunJob& job, int channels) {
  if (job.disc->tint.empty()) {
    current_adder(job, channels);
  } else {
    add_tinted(job, channels);
  }
}

}  // namespace jolly_iris::blur
