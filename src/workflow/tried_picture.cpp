#include "jolly_iris/workflow/tried_picture.hpp"

#include <fmt/format.h>

#include <cmath>
#include <utility>

#include "jolly_iris/optics/exposure.hpp"
#include "jolly_iris/optics/white.hpp"
#include "jolly_iris/picture/finish.hpp"
#include "jolly_iris/workflow/shot_glass.hpp"

namespace jolly_iris {

namespace {

std::optional<double> ev_of(const LoadedShot& loaded) {
  return ev100(loaded.now.lens, loaded.now.take, loaded.answer.camera);
}

void put_in(const TryLight& light, Picture& picture) {
  const double times = std::exp2(light.stops.value_or(0.0));
  const Rgb white = light.white.value_or(Rgb{1.0, 1.0, 1.0});
  for (Rgba& p : picture.pixels()) {
    for (std::size_t c = 0; c < 3; ++c) p[c] *= static_cast<float>(times * white[c]);
  }
}

}  // namespace

TryLight light_beside(const LoadedShot& first, const LoadedShot& one) {
  TryLight out;
  const auto before = ev_of(first);
  const auto now = ev_of(one);
  if (before && now) out.stops = *before - *now;
  if (first.now.take.white && one.now.take.white) {
    const Rgb from = white_gains(*first.now.take.white, one.now.primaries);
    const Rgb to = white_gains(*one.now.take.white, one.now.primaries);
    out.white = {to[0] / from[0], to[1] / from[1], to[2] / from[2]};
  }
  return out;
}

std::string light_words(const TryLight& light, const LoadedShot& one) {
  std::string words = "exposure not known";
  if (light.stops) words = fmt::format("{:+.1f} stops", *light.stops + 0.0);
  if (light.white) words += fmt::format(", {:.0f} K", one.now.take.white->temperature.kelvin());
  return words;
}

Picture finished_try(Picture picture, const LoadedShot& one, const std::optional<TryLight>& light,
                     const Execution& execution) {
  if (light) put_in(*light, picture);
  const Finish& finish = one.now.finish;
  if (!finish.any()) return picture;
  return after_lens(std::move(picture), one.answer.camera, finish,
                    {.frame = one.answer.frame.value_or(0.0), .execution = execution})
      .picture;
}

Picture tried_picture(const Frame& sharp, const LoadedShot& one,
                      const std::optional<TryLight>& light, const DefocusSettings& wanted) {
  DefocusSettings settings = wanted;
  settings.glass = glass_for_discs(one);
  if (!one.now.finish.any()) {
    return finished_try(defocus(sharp, one.answer.camera, settings), one, light,
                        settings.execution);
  }
  const Frame lifted{before_lens(sharp.colour, one.now.finish).picture, sharp.depth, {}};
  return finished_try(defocus(lifted, one.answer.camera, settings), one, light, settings.execution);
}

}  // namespace jolly_iris
