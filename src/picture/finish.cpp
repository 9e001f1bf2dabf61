#include "jolly_iris/picture/finish.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "disc_table.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/optics/exposure.hpp"
#include "jolly_iris/optics/white.hpp"
#include "jolly_iris/picture/grain.hpp"
#include "jolly_iris/picture/highlight_lift.hpp"
#include "jolly_iris/picture/scatter.hpp"
#include "parallel.hpp"
#include "require_finite.hpp"
#include "to_size.hpp"

namespace jolly_iris {

namespace {

constexpr double cast_base_K = 6504.0;  // D65, the white of the pictures
constexpr double max_corner_stops = 20.0;

Picture times(const Picture& picture, const Rgb& gains) {
  Picture out = picture;
  const std::array<float, 3> g{static_cast<float>(gains[0]), static_cast<float>(gains[1]),
                               static_cast<float>(gains[2])};
  parallel_for(std::size_t{0}, out.pixels().size(), [&](std::size_t i) {
    for (std::size_t c = 0; c < 3; ++c) out.pixels()[i][c] *= g[c];
  });
  return out;
}

Picture with_corners(const Picture& picture, const Corners& corners, const VirtualCamera& camera,
                     const Margin& margin) {
  if (!(std::abs(corners.stops) <= max_corner_stops)) {
    throw OpticsError(fmt::format("finish.corners: {:g} stops are more than the {:g} that make "
                                  "sense",
                                  corners.stops, max_corner_stops),
                      "finish.corners");
  }
  if (!(corners.power > 0.0 && corners.power <= 100.0)) {
    throw OpticsError(
        fmt::format("finish.corners_power: {:g} is not above 0, up to 100", corners.power),
        "finish.corners_power");
  }
  Picture out = picture;
  const blur::GateMap map = blur::gate_map(camera, picture.size(), margin);
  // The delivered picture's own middle and corner: a hand turns at what it sees.
  const double half_width = 0.5 * (picture.width() - 2.0 * margin.beside) * map.pixel_width;
  const double half_height = 0.5 * (picture.height() - 2.0 * margin.above) * map.pixel_height;
  const double corner = std::hypot(half_width, half_height);
  parallel_for(0, picture.height(), [&](int y) {
    const double v = (y + 0.5 - 0.5 * picture.height()) * map.pixel_height;
    for (int x = 0; x < picture.width(); ++x) {
      const double u = (x + 0.5 - 0.5 * picture.width()) * map.pixel_width;
      const auto keeps = static_cast<float>(corner_fraction(corners, std::hypot(u, v) / corner));
      for (std::size_t c = 0; c < 3; ++c) out.at(x, y)[c] *= keeps;
    }
  });
  return out;
}

void scatter(FinishedPicture& work, const VirtualCamera& camera, const Finish& finish,
             const FinishSettings& settings) {
  const PixelSize size = work.picture.size();
  std::vector<ScatterKernel> kernels;
  if (finish.halo) kernels.push_back(halo_kernel(*finish.halo, camera, size, settings.margin));
  if (finish.spikes) {
    kernels.push_back(spike_kernel(*finish.spikes, camera, size, settings.margin));
  }
  if (finish.streak) {
    kernels.push_back(streak_kernel(*finish.streak, camera, size, settings.margin));
  }
  for (const ScatterKernel& k : kernels) {
    const ScatterShape& shape = *k.shape[1];
    work.notes.push_back(fmt::format("{}: {:.3g} % of the light is spread, as far as {} px", k.name,
                                     100.0 * k.fraction[1],
                                     std::max(shape.reach_x, shape.reach_y)));
  }
  Scattered made =
      scattered(work.picture, kernels, settings.layers, settings.execution.part(0.0, 0.9));
  work.picture = std::move(made.picture);
  for (ScatterLayer& layer : made.layers) {
    work.layers.push_back({std::move(layer.name), std::move(layer.added)});
  }
}

}  // namespace

void take_part(FinishedPicture& work, const char* name, Picture made, bool layers) {
  if (layers) {
    FinishLayer layer{name, made};
    for (std::size_t i = 0; i < made.pixels().size(); ++i) {
      for (std::size_t c = 0; c < 4; ++c) layer.added.pixels()[i][c] -= work.picture.pixels()[i][c];
    }
    work.layers.push_back(std::move(layer));
  }
  work.picture = std::move(made);
}

double corner_fraction(const Corners& corners, double r) {
  return std::exp2(-corners.stops * std::pow(r, corners.power));
}

Rgb cast_gains(const Cast& cast, Primaries primaries) {
  const double base = mired(Temperature::from_kelvin(cast_base_K));
  const double wanted = base + cast.mired;
  const double coolest = mired(Temperature::from_kelvin(coolest_white_K));
  const double warmest = mired(Temperature::from_kelvin(warmest_white_K));
  if (!(wanted >= coolest && wanted <= warmest)) {
    throw OpticsError(fmt::format("finish.cast: {:+g} mired is beyond all whites; from {:.0f} to "
                                  "{:+.0f} there is one",
                                  cast.mired, coolest - base, warmest - base),
                      "finish.cast");
  }
  if (!(std::abs(cast.tint) <= max_tint)) {
    throw OpticsError(fmt::format("finish.cast_tint: {:g} is beyond ±{:g}", cast.tint, max_tint),
                      "finish.cast_tint");
  }
  const Rgb from = white_rgb({Temperature::from_kelvin(cast_base_K), 0.0}, primaries);
  const Rgb to = white_rgb({from_mired(wanted), cast.tint}, primaries);
  Rgb gains{};
  for (std::size_t c = 0; c < 3; ++c) gains[c] = to[c] / from[c];
  return gains;
}

FinishedPicture before_lens(Picture picture, const Finish& finish, const FinishSettings& settings) {
  require_finite(picture);
  FinishedPicture work{std::move(picture), {}, {}};
  if (!finish.lift) return work;
  LiftedPicture made = lifted(work.picture, *finish.lift);
  if (made.pixels == 0) {
    work.notes.push_back(fmt::format(
        "lift: nothing reaches {:+g} stops from mid-grey (the brightest is at {:+.1f}), "
        "so nothing is lifted",
        finish.lift->from_stops, made.peak_stops));
  } else {
    work.notes.push_back(
        fmt::format("lift: {} px above {:+g} stops from mid-grey; the brightest "
                    "goes from {:+.1f} to {:+.1f}",
                    made.pixels, finish.lift->from_stops, made.peak_stops, finish.lift->to_stops));
  }
  take_part(work, "lift", std::move(made.picture), settings.layers);
  return work;
}

FinishedPicture after_lens(Picture picture, const VirtualCamera& camera, const Finish& finish,
                           const FinishSettings& settings) {
  require_finite(picture);
  require_margin(settings.margin, picture.size());
  FinishedPicture work{std::move(picture), {}, {}};
  with_threads(settings.execution.threads, [&] {
    if (finish.scatters()) scatter(work, camera, finish, settings);
    settings.execution.check();
    if (finish.corners) {
      take_part(work, "corners",
                with_corners(work.picture, *finish.corners, camera, settings.margin),
                settings.layers);
      work.notes.push_back(fmt::format("corners: {:+g} stops", -finish.corners->stops));
    }
    Rgb light = settings.gains;
    for (double& g : light) g *= settings.factor;
    if (light != Rgb{1.0, 1.0, 1.0}) {
      take_part(work, "exposure", times(work.picture, light), settings.layers);
    }
    if (finish.cast) {
      const Rgb gains = cast_gains(*finish.cast);
      take_part(work, "cast", times(work.picture, gains), settings.layers);
      work.notes.push_back("cast: " + cast_in_words(gains));
    }
    if (finish.grain) {
      const blur::GateMap map = blur::gate_map(camera, work.picture.size(), settings.margin);
      const double size_px = finish.grain->size.value > 0.0
                                 ? on_gate(finish.grain->size, camera).m() / map.pixel_height
                                 : 0.0;
      // Where nobody wants the layer, none of both is kept.
      Picture before = settings.layers ? work.picture : std::move(work.picture);
      take_part(work, "grain",
                with_grain(std::move(before), *finish.grain, size_px, settings.frame),
                settings.layers);
      work.notes.push_back(fmt::format("grain: {:.2g} % of mid-grey, softened over {:.2g} px",
                                       100.0 * finish.grain->grey[1] / grey_value, size_px));
    }
    settings.execution.tell(1.0);
  });
  return work;
}

FinishedPicture finished(Picture picture, const VirtualCamera& camera, const Finish& finish,
                         const FinishSettings& settings) {
  FinishedPicture before = before_lens(std::move(picture), finish, settings);
  FinishedPicture out = after_lens(std::move(before.picture), camera, finish, settings);
  out.layers.insert(out.layers.begin(), std::make_move_iterator(before.layers.begin()),
                    std::make_move_iterator(before.layers.end()));
  out.notes.insert(out.notes.begin(), before.notes.begin(), before.notes.end());
  return out;
}

}  // namespace jolly_iris
