// How much quicker defocus is than two plain ways of doing the same, and whether it comes to the
// same. All in one run, taking turns; the least time of each counts. Read the ratios.
//
//   defocus_race                                  all
//   defocus_race --benchmark_filter=ramp/1920     some
//
// "ramp" blurs from nothing at the top to 100 px at the bottom, "slope" from corner to corner,
// "jitter" is the ramp with 2 % of noise in the depth.
#include <benchmark/benchmark.h>
#include <fmt/format.h>
#include <sys/resource.h>

#include <algorithm>
#include <chrono>
#include <cmath>
#include <random>
#include <string>

#include "jolly_iris/jolly_iris.hpp"
#include "plain_scatter.hpp"
#include "spread_kernel.hpp"

namespace {

using namespace jolly_iris;

enum class Way { ramp, slope, jitter };

VirtualCamera camera_for(int width, double coc_px) {
  const Iris iris{.blades = 7, .rotation = 11_deg, .blade_radius = BladeRadius::multiple(1.5)};
  Lens lens{.focal = 53_mm, .adapter = 0.76, .iris = iris};
  lens.vignetting = {{21_mm, 40_mm}, {23_mm, Length::from_mm(-35.0)}};
  const Body body{.gate = {25.9_mm, 14.56875_mm}, .pixels = {width, width * 9 / 16}};
  // The stop that blurs infinity by a little more than asked for.
  VirtualCamera camera = resolve(body, lens, {.stop = f_number(2.0)}, 2_m);
  const double now = to_pixels(circle_of_confusion(camera, Length::infinity()), camera);
  const double k = 1.02 * coc_px / now;
  camera.aperture_radius = camera.aperture_radius * k;
  camera.f_number /= k;
  for (VignettingRim& rim : camera.vignetting) {
    rim.radius = rim.radius * k;
    rim.ahead = rim.ahead * k;
  }
  return camera;
}

Frame frame_for(const VirtualCamera& camera, Way way, double coc_px) {
  const PixelSize size = camera.pixels;
  Frame frame{Picture(size), {}};
  std::mt19937 random(5);
  std::uniform_real_distribution<float> uniform(0.0F, 1.0F);
  const double strength =
      2.0 * camera.aperture_radius.m() * camera.focal.m() / camera.pixel_pitch().m();
  for (int y = 0; y < size.height; ++y) {
    for (int x = 0; x < size.width; ++x) {
      const float v = 0.05F + 0.4F * uniform(random);
      frame.colour.at(x, y) = {v, 0.8F * v, 0.6F * v + 0.1F, 1.0F};
      const double down = (y + 0.5) / size.height;
      const double across = (x + 0.5) / size.width;
      double c = coc_px * (way == Way::slope ? 0.5 * (down + across) : down);
      if (way == Way::jitter) c *= 1.0 + 0.02 * (2.0 * static_cast<double>(uniform(random)) - 1.0);
      frame.depth.push_back(static_cast<float>(1.0 / (1.0 / camera.focus.m() - c / strength)));
    }
  }
  for (int i = 0; i < 60; ++i) {
    const int x = static_cast<int>(uniform(random) * static_cast<float>(size.width));
    const int y = static_cast<int>(uniform(random) * static_cast<float>(size.height));
    const float light = i == 0 ? 1e6F : 1e3F;
    frame.colour.at(std::min(x, size.width - 1), std::min(y, size.height - 1)) = {
        light, 0.8F * light, 0.5F * light, 1.0F};
  }
  return frame;
}

double seconds(const std::function<void()>& work) {
  const auto start = std::chrono::steady_clock::now();
  work();
  return std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count();
}

// The largest |a − b| / (|b| + median of b): what must stay within 1e-3.
double worst_difference(const Picture& a, const Picture& b) {
  double worst = 0.0;
  for (std::size_t c = 0; c < 3; ++c) {
    std::vector<float> all;
    for (const Rgba& p : b.pixels()) all.push_back(std::abs(p[c]));
    std::nth_element(all.begin(), all.begin() + static_cast<std::ptrdiff_t>(all.size() / 2),
                     all.end());
    const auto median = static_cast<double>(all[all.size() / 2]);
    for (std::size_t i = 0; i < all.size(); ++i) {
      const auto x = static_cast<double>(a.pixels()[i][c]);
      const auto y = static_cast<double>(b.pixels()[i][c]);
      worst = std::max(worst, std::abs(x - y) / (std::abs(y) + median));
    }
  }
  return worst;
}

void race(benchmark::State& state, Way way, bool with_shape_test) {
  const auto width = static_cast<int>(state.range(0));
  const double coc_px = 100.0 * width / 1920.0;
  const VirtualCamera camera = camera_for(width, coc_px);
  const Frame frame = frame_for(camera, way, coc_px);
  double avx2 = 1e9;
  double plain = 1e9;
  double spans = 1e9;
  double spans_avx2 = 1e9;
  double tested = 1e9;
  Picture ours;
  Picture theirs;
  for (auto _ : state) {
    blur::use_plain_kernel(true);
    plain = std::min(plain, seconds([&] { ours = defocus(frame, camera); }));
    blur::use_plain_kernel(false);
    avx2 = std::min(avx2, seconds([&] { ours = defocus(frame, camera); }));
    spans = std::min(
        spans, seconds([&] { theirs = blur::plain_defocus(frame, camera, blur::Plain::spans); }));
    spans_avx2 = std::min(spans_avx2, seconds([&] {
                            theirs = blur::plain_defocus(frame, camera, blur::Plain::spans_avx2);
                          }));
  }
  state.counters["worst"] = worst_difference(ours, theirs);
  if (with_shape_test) {
    tested = seconds([&] { theirs = blur::plain_defocus(frame, camera, blur::Plain::shape_test); });
    state.counters["worst_tested"] = worst_difference(ours, theirs);
    state.counters["tested_s"] = tested;
    state.counters["x_tested"] = tested / avx2;
    state.counters["x_tested_plain"] = tested / plain;
  }
  state.counters["ours_s"] = avx2;
  state.counters["ours_plain_s"] = plain;
  state.counters["spans_s"] = spans;
  state.counters["spans_avx2_s"] = spans_avx2;
  state.counters["x_spans_plain"] = spans / plain;
  state.counters["x_spans"] = spans / avx2;
  state.counters["x_spans_both_avx2"] = spans_avx2 / avx2;
}

void ramp(benchmark::State& state) { race(state, Way::ramp, state.range(1) != 0); }
void slope(benchmark::State& state) { race(state, Way::slope, false); }
void jitter(benchmark::State& state) { race(state, Way::jitter, false); }
BENCHMARK(ramp)->Args({480, 1})->Args({1920, 1})->Iterations(5)->Unit(benchmark::kSecond);
BENCHMARK(slope)->Args({1920, 0})->Iterations(5)->Unit(benchmark::kSecond);
BENCHMARK(jitter)->Args({1920, 0})->Iterations(5)->Unit(benchmark::kSecond);

// What doubling every disc costs, with even discs and with textured ones.
void doubling(benchmark::State& state) {
  const bool textured = state.range(0) != 0;
  const auto time_at = [&](double coc_px) {
    VirtualCamera camera = camera_for(1920, coc_px);
    if (textured) {
      camera.iris.edge_falloff = 1.0;
      camera.vignetting.clear();
    }
    const Frame frame = frame_for(camera, Way::ramp, coc_px);
    return seconds([&] { benchmark::DoNotOptimize(defocus(frame, camera)); });
  };
  double small = 1e9;
  double large = 1e9;
  for (auto _ : state) {
    small = std::min(small, time_at(textured ? 30.0 : 50.0));
    large = std::min(large, time_at(textured ? 60.0 : 100.0));
  }
  state.counters["small_s"] = small;
  state.counters["large_s"] = large;
  state.counters["times"] = large / small;
}
BENCHMARK(doubling)->Arg(0)->Arg(1)->Iterations(5)->Unit(benchmark::kSecond);

// 3840 × 2160 with discs of 200 px: seconds, and the process's peak memory.
void large(benchmark::State& state) {
  const VirtualCamera camera = camera_for(3840, 200.0);
  const Frame frame = frame_for(camera, state.range(0) == 0 ? Way::ramp : Way::jitter, 200.0);
  for (auto _ : state) benchmark::DoNotOptimize(defocus(frame, camera));
  rusage usage{};
  getrusage(RUSAGE_SELF, &usage);
  state.counters["peak_GB"] = static_cast<double>(usage.ru_maxrss) / 1048576.0;
}
BENCHMARK(large)->Arg(0)->Arg(1)->Iterations(1)->Unit(benchmark::kSecond);

}  // namespace

BENCHMARK_MAIN();
