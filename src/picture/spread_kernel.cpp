#include "spread_kernel.hpp"

#include <algorithm>
#include <array>
#include <cstring>
#include <type_traits>

namespace jolly_iris::blur {

namespace {

// Vectors of the compiler, copied from and to plain floats at any place. (A template forgets what
// else is said of a vector type, such as that it may lie anywhere.)
using V4 = float __attribute__((vector_size(16)));
using V8 = float __attribute__((vector_size(32)));

template <class V>
[[gnu::always_inline]] inline void load(V& v, const float* from) {
  std::memcpy(&v, from, sizeof v);
}

template <class V>
[[gnu::always_inline]] inline void store(float* to, const V& v) {
  std::memcpy(to, &v, sizeof v);
}

// sum += k × what stands there.
template <class V, class K>
[[gnu::always_inline]] inline void add_to(V& sum, const K& k, const float* from) {
  V v;
  load(v, from);
  sum += k * v;
}

// What stands there += k × what stands at `from`.
template <class V, class K>
[[gnu::always_inline]] inline void add(float* to, const K& k, const float* from) {
  V sum;
  load(sum, to);
  add_to(sum, k, from);
  store(to, sum);
}

template <class V>
[[gnu::always_inline]] inline void add_scaled(float* to, const float* from, float k,
                                              std::size_t n) {
  constexpr std::size_t width = sizeof(V) / sizeof(float);
  std::size_t i = 0;
  for (; i + width <= n; i += width) {
    add<V>(to + i, k, from + i);
  }
  for (; i < n; i += 4) {  // n is a multiple of 4
    add<V4>(to + i, k, from + i);
  }
}

// One place of several taps side by side: each is of `from` one pixel further right.
template <class V, std::size_t taps>
[[gnu::always_inline]] inline void add_at(float* to, const float* from,
                                          const std::array<float, taps>& k, std::size_t pixel) {
  V sum;
  load(sum, from);
  sum *= k[0];
  for (std::size_t t = 1; t < taps; ++t) add_to(sum, k[t], from - t * pixel);
  V there;
  load(there, to);
  store(to, there + sum);
}

// The same in one pass over a run of n ≥ (taps − 1) pixels' floats.
template <class V, std::size_t taps>
[[gnu::always_inline]] inline void add_taps(float* to, const float* from, const Disc::Tap* tap,
                                            std::size_t n, std::size_t pixel) {
  constexpr std::size_t width = sizeof(V) / sizeof(float);
  std::array<float, taps> k;
  for (std::size_t t = 0; t < taps; ++t) k[t] = tap[t].step;
  // At both ends not all taps meet.
  for (std::size_t c = 0; c < pixel; c += 4) {
    for (std::size_t p = 0; p + 1 < taps; ++p) {
      V4 first;
      V4 last;
      load(first, to + p * pixel + c);
      load(last, to + n + p * pixel + c);
      for (std::size_t t = 0; t <= p; ++t) add_to(first, k[t], from + (p - t) * pixel + c);
      for (std::size_t t = p + 1; t < taps; ++t) {
        add_to(last, k[t], from + n - (t - p) * pixel + c);
      }
      store(to + p * pixel + c, first);
      store(to + n + p * pixel + c, last);
    }
  }
  std::size_t i = (taps - 1) * pixel;
  for (; i + width <= n; i += width) add_at<V, taps>(to + i, from + i, k, pixel);
  for (; i < n; i += 4) add_at<V4, taps>(to + i, from + i, k, pixel);
}

template <class V>
[[gnu::always_inline]] inline void add_all(const RunJob& job, int channels) {
  const Disc& disc = *job.disc;
  float* to = job.to;
  if (job.floats == 4) {
    V4 source;
    load(source, job.source);
    for (int row = job.first_row; row < job.last_row; ++row, to += job.stride) {
      const Disc::Row& r = disc.rows[static_cast<std::size_t>(row)];
      const Disc::Tap* tap = disc.taps.data() + r.first;
      for (const Disc::Tap* end = tap + r.count; tap != end; ++tap) {
        float* at = to + std::ptrdiff_t{4} * tap->x;
        V4 there;
        load(there, at);
        store(at, there + tap->step * source);
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
  const int max = static_cast<int>(std::min<std::size_t>(4, job.floats / pixel));
  for (int row = job.first_row; row < job.last_row; ++row, to += job.stride) {
    const Disc::Row& r = disc.rows[static_cast<std::size_t>(row)];
    const Disc::Tap* tap = disc.taps.data() + r.first;
    const Disc::Tap* end = tap + r.count;
    while (tap != end) {
      float* at = to + static_cast<std::ptrdiff_t>(channels) * tap->x;
      int beside = 1;
      while (beside < max && tap + beside != end && tap[beside].x == tap->x + beside) ++beside;
      switch (beside) {
        case 4:
          add_taps<V, 4>(at, job.source, tap, job.floats, pixel);
          break;
        case 3:
          add_taps<V, 3>(at, job.source, tap, job.floats, pixel);
          break;
        case 2:
          add_taps<V, 2>(at, job.source, tap, job.floats, pixel);
          break;
        default:
          add_scaled<V>(at, job.source, tap->step, job.floats);
      }
      tap += beside;
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

// Of a pixel with alpha, or any other shape of run.
void add_tinted_slowly(const RunJob& job, int channels) {
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
        add<V4>(at + i, step, job.source + i);
        if (pixel > 4) add<V4>(at + i + 4, tap.step, job.source + i + 4);
      }
    }
  }
}

// Taps side by side, each with a weight a channel, in one pass over a run of n ≥ 4 (taps − 1)
// floats: as add_taps does it.
template <class V, std::size_t taps>
[[gnu::always_inline]] inline void add_tinted_taps(float* to, const float* from,
                                                   const std::array<V4, taps>& k, std::size_t n) {
  constexpr std::size_t width = sizeof(V) / sizeof(float);
  for (std::size_t p = 0; p + 1 < taps; ++p) {
    V4 first;
    V4 last;
    load(first, to + p * 4);
    load(last, to + n + p * 4);
    for (std::size_t t = 0; t <= p; ++t) add_to(first, k[t], from + (p - t) * 4);
    for (std::size_t t = p + 1; t < taps; ++t) add_to(last, k[t], from + n - (t - p) * 4);
    store(to + p * 4, first);
    store(to + n + p * 4, last);
  }
  std::array<V, taps> wide;
  for (std::size_t t = 0; t < taps; ++t) {
    std::array<float, width> both;
    for (std::size_t c = 0; c < width; ++c) both[c] = k[t][c % 4];
    load(wide[t], both.data());
  }
  const auto at = [&](std::size_t i, const auto& weight) {
    std::remove_cvref_t<decltype(weight[0])> sum;
    load(sum, to + i);
    for (std::size_t t = 0; t < taps; ++t) add_to(sum, weight[t], from + i - t * 4);
    store(to + i, sum);
  };
  std::size_t i = (taps - 1) * 4;
  for (; i + width <= n; i += width) at(i, wide);
  for (; i < n; i += 4) at(i, k);
}

template <class V>
[[gnu::always_inline]] inline void add_all_tinted(const RunJob& job) {
  const Disc& disc = *job.disc;
  float* to = job.to;
  const int max = static_cast<int>(std::min<std::size_t>(4, job.floats / 4));
  for (int row = job.first_row; row < job.last_row; ++row, to += job.stride) {
    const Disc::Row& r = disc.rows[static_cast<std::size_t>(row)];
    const Disc::Tap* tap = disc.taps.data() + r.first;
    const std::array<float, 3>* tint = disc.tint.data() + r.first;
    const Disc::Tap* end = tap + r.count;
    while (tap != end) {
      float* at = to + std::ptrdiff_t{4} * tap->x;
      int beside = 1;
      while (beside < max && tap + beside != end && tap[beside].x == tap->x + beside) ++beside;
      const auto weight = [&](std::size_t t) {
        const float s = tap[t].step;
        return V4{s * tint[t][0], s * tint[t][1], s * tint[t][2], s};
      };
      switch (beside) {
        case 4:
          add_tinted_taps<V, 4>(at, job.source, {weight(0), weight(1), weight(2), weight(3)},
                                job.floats);
          break;
        case 3:
          add_tinted_taps<V, 3>(at, job.source, {weight(0), weight(1), weight(2)}, job.floats);
          break;
        case 2:
          add_tinted_taps<V, 2>(at, job.source, {weight(0), weight(1)}, job.floats);
          break;
        default:
          add_tinted_taps<V, 1>(at, job.source, {weight(0)}, job.floats);
      }
      tap += beside;
      tint += beside;
    }
  }
}

void add_tinted_plain(const RunJob& job) { add_all_tinted<V4>(job); }

#if defined(__x86_64__)
[[gnu::target("avx2,fma")]] void add_tinted_avx2(const RunJob& job) {
  if (job.floats < 48) {
    add_all_tinted<V4>(job);
  } else {
    add_all_tinted<V8>(job);
  }
}
#endif

void add_tinted(const RunJob& job, int channels) {
  if (channels != 4) return add_tinted_slowly(job, channels);
#if defined(__x86_64__)
  if (current_adder == add_avx2) return add_tinted_avx2(job);
#endif
  add_tinted_plain(job);
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
