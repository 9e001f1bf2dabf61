// How quick things are. Machines differ and are noisy, so read these against each other within one
// run, not against another day's.
//
//   speed --benchmark_filter=report      the tool's start to end, TOOL and SHOT from the
//   environment
#include <benchmark/benchmark.h>
#include <fcntl.h>
#include <spawn.h>
#include <sys/wait.h>

#include <cstdlib>
#include <string>

#include "jolly_iris/jolly_iris.hpp"

extern char** environ;

namespace {

using namespace jolly_iris;

VirtualCamera camera(int blades) {
  Iris iris{.blades = blades};
  if (blades > 0) iris.blade_radius = BladeRadius::multiple(1.6);
  return resolve({.gate = {24.6_mm, 13.8_mm}, .pixels = {1920, 1080}},
                 {.focal = 58_mm, .adapter = 0.71, .iris = iris}, {.stop = f_number(2.0)}, 2.35_m);
}

// A verb that needs no picture starts and ends in under 30 ms.
void report(benchmark::State& state) {
  const char* tool = std::getenv("TOOL");
  const char* shot = std::getenv("SHOT");
  if (tool == nullptr || shot == nullptr) {
    state.SkipWithError("set TOOL and SHOT");
    return;
  }
  std::string verb = "report";
  std::string path = shot;
  std::string name = tool;
  char* args[] = {name.data(), verb.data(), path.data(), nullptr};
  posix_spawn_file_actions_t actions;
  posix_spawn_file_actions_init(&actions);
  posix_spawn_file_actions_addopen(&actions, 1, "/dev/null", O_WRONLY, 0);
  for (auto _ : state) {
    pid_t pid = 0;
    int status = 1;
    if (posix_spawn(&pid, tool, &actions, nullptr, args, environ) == 0) ::waitpid(pid, &status, 0);
    if (status != 0) state.SkipWithError("the tool failed");
  }
  posix_spawn_file_actions_destroy(&actions);
}
BENCHMARK(report)
    ->Unit(benchmark::kMillisecond)
    ->Iterations(1)
    ->Repetitions(20)
    ->UseRealTime()
    ->ReportAggregatesOnly();

// Points on the pupil, per core; round against blades.
void pupil_samples(benchmark::State& state) {
  const VirtualCamera c = camera(static_cast<int>(state.range(0)));
  const Opening opening(c.iris, c.aperture_radius);
  double u = 0.1;
  double v = 0.2;
  for (auto _ : state) {
    u += 0.7548776662466927;  // an irrational step, so that every branch is taken
    v += 0.5698402909980532;
    u -= static_cast<double>(static_cast<int>(u));
    v -= static_cast<double>(static_cast<int>(v));
    benchmark::DoNotOptimize(opening.sample(u, v));
  }
  state.SetItemsProcessed(state.iterations());
}
BENCHMARK(pupil_samples)->Arg(0)->Arg(8);

// A slope from near to far over the picture, blurred by up to about 40 px (at 1920).
void defocus_slope(benchmark::State& state) {
  const int width = static_cast<int>(state.range(0));
  const int height = width * 9 / 16;
  Frame frame{Picture({width, height}, {0.2F, 0.3F, 0.4F, 1.0F}), {}};
  for (int y = 0; y < height; ++y) {
    const float z = 1.2F / (0.03F + 0.9F * static_cast<float>(y) / static_cast<float>(height));
    frame.depth.insert(frame.depth.end(), static_cast<std::size_t>(width), z);
  }
  const VirtualCamera c = camera(8);
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
