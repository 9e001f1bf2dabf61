// Rays through a glass: blocks against single rays, in one run; and a disc of 4,096 of them.
//
//   glass_speed demo/glass/hornbeam-50.glass.toml
#include <fmt/format.h>

#include <chrono>
#include <cmath>
#include <numbers>

#include "jolly_iris/jolly_iris.hpp"

using namespace jolly_iris;

namespace {

double seconds_of(const auto& work) {
  double least = 1e9;
  for (int round = 0; round < 7; ++round) {
    const auto from = std::chrono::steady_clock::now();
    work();
    const std::chrono::duration<double> took = std::chrono::steady_clock::now() - from;
    least = std::min(least, took.count());
  }
  return least;
}

}  // namespace

int main(int argc, char** argv) {
  const Prescription p = read_glass(argc > 1 ? argv[1] : "demo/glass/hornbeam-50.glass.toml");
  const TracedGlass glass(p);
  const BlockTracer tracer(glass);
  const ParaxialFacts facts = paraxial_facts(glass);
  const double front = glass.surfaces().front().z;
  RayBlock first;
  first.count = RayBlock::most;
  for (std::size_t i = 0; i < RayBlock::most; ++i) {
    const double r = 0.49 * facts.entrance_diameter.mm() * std::sqrt((i + 0.5) / RayBlock::most);
    const double angle = 2.399963 * static_cast<double>(i);  // golden angle
    first.x[i] = static_cast<float>(r * std::cos(angle));
    first.y[i] = static_cast<float>(r * std::sin(angle));
    first.z[i] = static_cast<float>(front - 1.0);
    first.along_z[i] = 1.0F;
    first.open[i] = 1;
  }
  constexpr int blocks = 400;
  double keep = 0.0;
  const double block = seconds_of([&] {
    for (int b = 0; b < blocks; ++b) {
      RayBlock rays = first;
      tracer.to_film(rays);
      keep += static_cast<double>(rays.x[17]);
    }
  });
  const double single = seconds_of([&] {
    for (int b = 0; b < blocks / 10; ++b) {
      for (std::size_t i = 0; i < RayBlock::most; ++i) {
        const GlassWay way = glass.to_film(
            {{static_cast<double>(first.x[i]), static_cast<double>(first.y[i]), front - 1.0},
             {0.0, 0.0, 1.0}});
        keep += way.ray.at[0];
      }
    }
  });
  const double rays = blocks * static_cast<double>(RayBlock::most);
  fmt::print("{} surfaces: blocks {:.1f} M rays/s, single {:.2f} M rays/s: {:.1f} x\n",
             p.surfaces.size(), rays / block / 1e6, 0.1 * rays / single / 1e6,
             10.0 * single / block);
  fmt::print("a disc of 4,096 rays: {:.3f} ms ({:g})\n", 1e3 * block * 4096.0 / rays, keep * 0.0);
  return 0;
}
