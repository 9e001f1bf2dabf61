#include "jolly_iris/trace/trace.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <atomic>
#include <limits>

#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/optics/memory.hpp"
#include "picture/parallel.hpp"
#include "sobol.hpp"
#include "splat.hpp"
#include "stage.hpp"

namespace jolly_iris {

namespace {

using namespace tracing;

struct Job {
  const Stage& stage;
  const LensView& view;
  const TraceSettings& settings;
  Box box;
  double row_fraction = 1.0;  // of the work, for the progress
};

struct PixelLight {
  Vec3f light;
  float covered = 0.0F;  // whether it met something
  float open = 1.0F;     // whether it got past the barrel at all
};

using Numbers = std::array<double, 4>;

// What one ray brings. Where the barrel hides the scene it brings no light, and tells nothing of
// what is there.
PixelLight look(const Job& job, int x, int y, const Numbers& numbers, const ViewRay& ray) {
  if (ray.weight.is_zero()) return {Vec3f{}, 0.0F, 0.0F};
  const Hit hit = job.stage.look(ray.origin, ray.direction);
  Vec3f light = hit.radiance.times(ray.weight);
  if (job.view.colours_discs()) {
    light = light.times(job.view.disc_colour(x + numbers[0], y + numbers[1], hit.depth));
  }
  return {light, hit.found || job.stage.has_sky() ? 1.0F : 0.0F, 1.0F};
}

PixelLight look(const Job& job, int x, int y, const Numbers& numbers, std::size_t colour) {
  const auto [a, b, c, d] = numbers;
  return look(job, x, y, numbers, job.view.ray(x + a, y + b, c, d, colour));
}

// Each colour goes its own way through the glass, all of a pixel's rays of one colour together.
Rgba trace_pixel_through_glass(const Job& job, int x, int y, std::uint32_t seed) {
  const auto n = static_cast<std::size_t>(job.settings.samples);
  std::vector<Numbers> numbers(n);
  for (std::size_t i = 0; i < n; ++i) {
    const auto index =
        static_cast<std::uint32_t>(job.settings.first_ray) + static_cast<std::uint32_t>(i);
    numbers[i] = job.settings.plain_random ? random4(index, seed) : sobol4(index, seed);
  }
  std::vector<ViewRay> rays(n);
  Vec3f sum = Vec3f{};
  float covered = 0.0F;
  float open = 0.0F;
  for (std::size_t c = 0; c < 3; ++c) {
    job.view.rays(numbers, x, y, c, rays);
    for (std::size_t i = 0; i < n; ++i) {
      const PixelLight seen = look(job, x, y, numbers[i], rays[i]);
      sum[c] += seen.light[c];
      covered += seen.covered;
      open += seen.open;
    }
  }
  const float fraction = 1.0F / static_cast<float>(n);
  return {sum[0] * fraction, sum[1] * fraction, sum[2] * fraction, covered / std::max(open, 1.0F)};
}

Rgba trace_pixel(const Job& job, int x, int y) {
  const int n = job.settings.samples;
  const std::uint32_t seed =
      mix(mix(job.settings.seed, static_cast<std::uint32_t>(x)), static_cast<std::uint32_t>(y));
  if (job.view.through_glass()) return trace_pixel_through_glass(job, x, y, seed);
  Vec3f sum = Vec3f{};
  float covered = 0.0F;
  float open = 0.0F;
  for (int i = 0; i < n; ++i) {
    const auto index = static_cast<std::uint32_t>(job.settings.first_ray + i);
    const Numbers numbers = job.settings.plain_random ? random4(index, seed) : sobol4(index, seed);
    if (!job.view.coloured()) {
      const PixelLight seen = look(job, x, y, numbers, 1);
      sum += seen.light;
      covered += seen.covered;
      open += seen.open;
      continue;
    }
    for (std::size_t c = 0; c < 3; ++c) {  // each colour goes its own way
      const PixelLight seen = look(job, x, y, numbers, c);
      sum[c] += seen.light[c];
      covered += seen.covered;
      open += seen.open;
    }
  }
  const float fraction = 1.0F / static_cast<float>(n);
  return {sum[0] * fraction, sum[1] * fraction, sum[2] * fraction, covered / std::max(open, 1.0F)};
}

void trace_rows(const Job& job, Frame& frame) {
  std::atomic<int> done{0};
  parallel_for(0, job.box.height, [&](int row) {
    for (int column = 0; column < job.box.width; ++column) {
      const int x = job.box.x + column;
      const int y = job.box.y + row;
      frame.colour.at(column, row) = trace_pixel(job, x, y);
      if (!job.settings.pinhole) continue;
      const ViewRay middle = job.view.straight(x + 0.5, y + 0.5);
      const double z = job.stage.depth(middle.origin, middle.direction);
      frame.depth[static_cast<std::size_t>(row) * static_cast<std::size_t>(job.box.width) +
                  static_cast<std::size_t>(column)] = static_cast<float>(z);
    }
    const int rows = done.fetch_add(1) + 1;
    job.settings.execution.tell(job.row_fraction * rows / job.box.height);
  });
}

void add_splats(const Splats& splats, Frame& frame) {
  for (std::size_t i = 0; i < splats.light.size(); ++i) {
    Rgba& pixel = frame.colour.pixels()[i];
    const float surface = (pixel[0] + pixel[1] + pixel[2]) / 3.0F;
    for (std::size_t c = 0; c < 3; ++c) {
      pixel[c] += splats.light[i][c];
    }
    // A pixel that shows mostly a lamp is as far away as that lamp.
    if (frame.has_depth() && splats.brightest[i] > surface) frame.depth[i] = splats.depth[i];
  }
}

}  // namespace

Frame trace(const Scene& scene, const VirtualCamera& camera, const Pose& place,
            const TraceSettings& settings) {
  if (settings.samples < 1) {
    throw UsageError(
        fmt::format("{} samples a pixel make no picture; use at least 1", settings.samples));
  }
  if (settings.first_ray < 0 || settings.first_ray % settings.samples != 0) {
    throw UsageError(fmt::format("rays that begin with number {} are no block of {}",
                                 settings.first_ray, settings.samples));
  }
  if (!(settings.density > 0.0 && settings.density <= 1.0)) {
    throw UsageError(
        fmt::format("a density of {:g} is no share of the points; use more than 0 and "
                    "at most 1",
                    settings.density));
  }
  const PixelSize size = settings.size.value_or(camera.pixels);
  const Box box = settings.box.value_or(Box{0, 0, size.width, size.height});
  require_within(box, size);
  // Colour, depth, and what a writer keeps of them; measured.
  require_memory(45.0 * box.width * box.height,
                 fmt::format("tracing a picture of {} x {} pixels", box.width, box.height));
  const LensView view(camera, size, settings.pinhole, settings.glass.get());
  const Stage stage(scene, place, view, sight_of(scene, settings));
  Frame frame{Picture({box.width, box.height}), {}};
  if (settings.pinhole) {
    frame.depth.assign(frame.colour.pixels().size(), std::numeric_limits<float>::infinity());
  }
  with_threads(settings.execution.threads, [&] {
    // Emitters are a small part of the work in most scenes; the bar need not know it better.
    const double row_fraction = stage.emitters().empty() ? 1.0 : 0.8;
    trace_rows({stage, view, settings, box, row_fraction}, frame);
    const SplatJob splats{stage,
                          view,
                          box,
                          size,
                          settings.samples,
                          static_cast<std::uint32_t>(settings.first_ray / settings.samples),
                          settings.seed,
                          settings.density,
                          settings.execution.part(row_fraction, 1.0)};
    add_splats(splat_emitters(splats), frame);
  });
  return frame;
}

}  // namespace jolly_iris
