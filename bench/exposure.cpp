// Metering against reading: a 4096 × 2160 picture of half floats, and a sequence of 24 of them on
// one core and on all.
//
//   exposure TOOL SHOT       makes its pictures in the temporary folder; prints ratios (best of 5)
#include <fmt/format.h>
#include <sys/resource.h>

#include <chrono>
#include <cmath>
#include <cstdlib>
#include <filesystem>
#include <iostream>
#include <string>

#include "jolly_iris/picture/meter.hpp"
#include "jolly_iris/picture_files/picture_file.hpp"

namespace {

using namespace jolly_iris;

struct Took {
  double seconds = 1e9;
  double cores = 0.0;  // of all processes begun meanwhile
};

double cpu_of_children() {
  rusage usage{};
  ::getrusage(RUSAGE_CHILDREN, &usage);
  const auto seconds = [](const timeval& t) {
    return static_cast<double>(t.tv_sec) + 1e-6 * static_cast<double>(t.tv_usec);
  };
  return seconds(usage.ru_utime) + seconds(usage.ru_stime);
}

template <class Work>
Took best_of(int times, const Work& work) {
  Took best;
  for (int i = 0; i < times; ++i) {
    const double cpu = cpu_of_children();
    const auto begin = std::chrono::steady_clock::now();
    work();
    const std::chrono::duration<double> took = std::chrono::steady_clock::now() - begin;
    if (took.count() < best.seconds) {
      best = {took.count(), (cpu_of_children() - cpu) / took.count()};
    }
  }
  return best;
}

Picture canal(PixelSize size) {
  Picture p(size);
  unsigned state = 7;
  for (int y = 0; y < size.height; ++y) {
    for (int x = 0; x < size.width; ++x) {
      state = state * 1664525U + 1013904223U;
      const float noise = 0.9F + 0.2F * static_cast<float>(state >> 8U) * 0x1p-24F;
      const float v =
          noise * std::exp2(-5.0F + 6.0F * static_cast<float>(x) / static_cast<float>(size.width));
      p.at(x, y) = {v, 0.9F * v, 0.7F * v, 1.0F};
    }
  }
  return p;
}

}  // namespace

int main(int argc, char** argv) {
  if (argc < 3) {
    std::cerr << "usage: exposure TOOL SHOT\n";
    return 2;
  }
  const auto folder = std::filesystem::temp_directory_path() / "jolly_iris_bench_exposure";
  std::filesystem::create_directories(folder);
  const std::string first = (folder / "in.01.exr").string();
  write_picture(first, Frame{canal({4096, 2160}), {}});
  for (int f = 2; f <= 24; ++f) {
    std::filesystem::copy_file(first, folder / fmt::format("in.{:02}.exr", f),
                               std::filesystem::copy_options::overwrite_existing);
  }
  double sum = 0.0;
  const Took reading = best_of(5, [&] { sum += read_picture(first).colour.at(0, 0)[0]; });
  fmt::print("reading 4096 x 2160 half floats {:.3f} s\n", reading.seconds);
  for (const MeterWay way : {MeterWay::average, MeterWay::centre, MeterWay::highlights}) {
    const Took both =
        best_of(5, [&] { sum += meter(read_picture(first).colour, {.way = way}).level; });
    fmt::print("reading and metering, {:<10} {:.3f} s: {:.2f} times reading\n", to_string(way),
               both.seconds, both.seconds / reading.seconds);
  }
  const std::string verb = fmt::format("{} expose {} {}/in.##.exr --frames 1-24 > /dev/null",
                                       argv[1], argv[2], folder.string());
  const auto run = [&](const std::string& command) {
    if (std::system(command.c_str()) != 0) std::exit(1);
  };
  const Took one = best_of(3, [&] { run(fmt::format("{} --threads 1", verb)); });
  const Took all = best_of(3, [&] { run(verb); });
  fmt::print(
      "24 frames: one thread {:.2f} s ({:.2f} cores busy), all {:.2f} s ({:.2f} cores busy)\n",
      one.seconds, one.cores, all.seconds, all.cores);
  std::filesystem::remove_all(folder);
  return sum > 0.0 ? 0 : 1;
}
