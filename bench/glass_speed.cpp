// Rays through a glass, in one run: blocks against single rays, a disc of 4,096 of them, the
// compact form against tracing; a picture of the shot blurred by its discs against the same with a
// thin lens (even discs, and with spherical aberration and colours parted); one lamp's ghosts.
//
//   glass_speed demo/glass/hornbeam-50.glass.toml demo/glass/evening.shot.toml
#include <fmt/format.h>

#include <chrono>
#include <cmath>
#include <numbers>
#include <string>
#include <vector>

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

// The compact form against single rays through the surfaces.
void sampler_speed(const GlassCamera& camera, Length focus) {
  const GlassFit fit = fit_glass(camera, focus);
  constexpr int n = 20000;
  std::vector<std::array<double, 4>> numbers;
  for (int i = 0; i < n; ++i) {
    numbers.push_back({0.012 * std::fmod(i * 0.6180339887, 1.0),
                       0.007 * std::fmod(i * 0.3247179572, 1.0), std::fmod(i * 0.7548776662, 1.0),
                       std::fmod(i * 0.5698402909, 1.0)});
  }
  double keep = 0.0;
  const double compact = seconds_of([&] {
    for (const auto& [x, y, u, v] : numbers) keep += fit.sampler.ray(x, y, u, v, 1).weight;
  });
  const double traced = seconds_of([&] {
    for (const auto& [x, y, u, v] : numbers) keep += camera.ray(x, y, u, v, 1).weight;
  });
  fmt::print(
      "compact form, order 7: {:.0f} ns a ray, traced one by one {:.0f} ns: {:.1f} x ({:g})\n",
      1e9 * compact / n, 1e9 * traced / n, traced / compact, keep * 0.0);
}

void picture_speed(const std::string& file) {
  std::vector<std::string> files;
  const LoadedShot loaded = open_shot({file}, files);
  const VirtualCamera& camera = loaded.answer.camera;
  const auto glass = glass_camera_of(loaded);
  sampler_speed(*glass, camera.focus);
  TraceSettings sharp;
  sharp.pinhole = true;
  sharp.samples = 16;
  PreparedFrame frame(trace(*loaded.scene, camera, loaded.answer.place, sharp));
  DefocusSettings through;
  through.glass = glass;
  const double traced = seconds_of([&] { (void)frame.defocus(camera, through); });
  // Each time as if it were the first: no disc is kept.
  const auto plain = [&](const VirtualCamera& c) {
    return seconds_of([&] { (void)defocus(frame.frame(), c); });
  };
  VirtualCamera faulty = camera;
  faulty.aberrations.spherical = Length::from_mm(0.02);
  VirtualCamera coloured = faulty;
  coloured.aberrations.focus_shift = {Power::from_dioptres(0.02), {}, Power::from_dioptres(-0.02)};
  const double even = plain(camera);
  const double one = plain(faulty);
  const double three = plain(coloured);
  fmt::print(
      "defocus {} x {}: through the glass {:.2f} s; {:.1f} x a thin lens, {:.1f} x one with "
      "spherical "
      "aberration, {:.1f} x with colours too\n",
      camera.pixels.width, camera.pixels.height, traced, traced / even, traced / one,
      traced / three);
  const Prescription p = read_glass(loaded.now.lens.glass);
  const GhostLight ghosts(*glass, p);
  const std::vector<FlareLamp> lamp{
      {0.3 * camera.pixels.width, 0.3 * camera.pixels.height, {1e6, 1e6, 1e6}}};
  const Picture black(camera.pixels, {0, 0, 0, 1});
  const double flare = seconds_of([&] { (void)flare_of(black, lamp, camera, *glass, ghosts); });
  fmt::print("ghosts of one lamp, pairs that hold 99.9 %: {:.2f} s\n", flare);
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
  if (argc > 2) picture_speed(argv[2]);
  return 0;
}
