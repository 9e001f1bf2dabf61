// How quick things are. Machines differ and are noisy, so read these against each other within one
// run, not against another day's.
//
//   speed                                everything, on the tool of this build and the demo's shot
//   speed --benchmark_filter=report      the tool's start to end alone
//   TOOL=… SHOT=… speed                  another tool, another shot
#include <benchmark/benchmark.h>
#include <fcntl.h>
#include <spawn.h>
#include <sys/wait.h>

#include <cstdlib>
#include <string>
#include <vector>

#include "jolly_iris/jolly_iris.hpp"

extern char** environ;

namespace {

using namespace jolly_iris;

VirtualCamera camera(int blades) {
  Iris iris{.blades = blades};
  if (blades > 0) iris.blade_radius = BladeRadius::multiple(1.5);
  return resolve({.gate = {25.9_mm, 14.6_mm}, .pixels = {1920, 1080}},
                 {.focal = 53_mm, .adapter = 0.76, .iris = iris}, {.stop = f_number(2.2)}, 2.35_m);
}

std::string from_environment(const char* name, const char* otherwise) {
  const char* value = std::getenv(name);
  return value == nullptr ? otherwise : value;
}

// A verb that needs no picture starts and ends in under 30 ms.
void report(benchmark::State& state) {
  std::string name = from_environment("TOOL", JOLLY_IRIS_TOOL);
  std::string path = from_environment("SHOT", JOLLY_IRIS_DEMO "/hero.shot.toml");
  std::string verb = "report";
  char* args[] = {name.data(), verb.data(), path.data(), nullptr};
  posix_spawn_file_actions_t actions;
  posix_spawn_file_actions_init(&actions);
  posix_spawn_file_actions_addopen(&actions, 1, "/dev/null", O_WRONLY, 0);
  for (auto _ : state) {
    pid_t pid = 0;
    int status = 1;
    if (posix_spawn(&pid, name.c_str(), &actions, nullptr, args, environ) == 0)
      ::waitpid(pid, &status, 0);
    if (status != 0) {
      state.SkipWithError(
          ("'" + name + " report " + path + "' failed: is the tool built?").c_str());
      break;
    }
  }
  posix_spawn_file_actions_destroy(&actions);
}
BENCHMARK(report)
    ->Unit(benchmark::kMillisecond)
    ->Iterations(1)
    ->Repetitions(20)
    ->UseRealTime()
    ->ReportAggregatesOnly();

// Points on the pupil, per core, as a renderer takes them: a batch of random numbers in, a batch of
// points out. Round, seven blades, uneven blades, a free outline, a blocked middle.
[[gnu::target("avx2,fma"), gnu::optimize("O3")]] void sample_batch(const OpeningTable& table,
                                                                   const double* u, const double* v,
                                                                   double* x, double* y,
                                                                   std::size_t n) {
  table.sample(u, v, x, y, n);
}

void pupil_samples(benchmark::State& state) {
  VirtualCamera c = camera(state.range(0) == 0 || state.range(0) >= 3 ? 0 : 7);
  if (state.range(0) == 2) c.iris.uneven = 0.04;
  if (state.range(0) == 3) c.iris.outline = {{0, 0}, {4, 0}, {4, 4}, {2, 1}, {0, 4}};
  if (state.range(0) == 4) c.iris.obstruction = 0.4;
  const Opening opening(c.iris, c.aperture_radius);
  constexpr std::size_t n = 1024;
  std::vector<double> u(n);
  std::vector<double> v(n);
  std::vector<double> x(n);
  std::vector<double> y(n);
  double a = 0.1;
  double b = 0.2;
  for (std::size_t i = 0; i < n; ++i) {
    a += 0.7548776662466927;  // irrational steps, so that every branch is taken
    b += 0.5698402909980532;
    u[i] = a -= static_cast<double>(static_cast<int>(a));
    v[i] = b -= static_cast<double>(static_cast<int>(b));
  }
  for (auto _ : state) {
    sample_batch(opening.table(), u.data(), v.data(), x.data(), y.data(), n);
    benchmark::DoNotOptimize(x.data());
    benchmark::ClobberMemory();
  }
  state.SetItemsProcessed(state.iterations() * static_cast<std::int64_t>(n));
  const char* names[] = {"round", "7 blades", "7 uneven blades", "free outline", "blocked middle"};
  state.SetLabel(names[state.range(0)]);
}
BENCHMARK(pupil_samples)->DenseRange(0, 4);

// A slope from near to far over the picture, blurred by up to about 40 px (at 1920).
void defocus_slope(benchmark::State& state) {
  const int width = static_cast<int>(state.range(0));
  const int height = width * 9 / 16;
  Frame frame{Picture({width, height}, {0.2F, 0.3F, 0.4F, 1.0F}), {}};
  for (int y = 0; y < height; ++y) {
    const float z = 1.2F / (0.03F + 0.9F * static_cast<float>(y) / static_cast<float>(height));
    frame.depth.insert(frame.depth.end(), static_cast<std::size_t>(width), z);
  }
  const VirtualCamera c = camera(7);
  for (auto _ : state) benchmark::DoNotOptimize(defocus(frame, c));
  state.SetItemsProcessed(state.iterations() * width * height);
}
BENCHMARK(defocus_slope)
    ->Arg(480)
    ->Arg(960)
    ->Arg(1920)
    ->Unit(benchmark::kMillisecond)
    ->UseRealTime();

}  // namespace

BENCHMARK_MAIN();
