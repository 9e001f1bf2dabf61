#include "jolly_iris/defocus.hpp"

#include <fmt/format.h>
#include <tbb/task_arena.h>

#include <algorithm>
#include <cmath>

#include "disc.hpp"
#include "jolly_iris/errors.hpp"
#include "jolly_iris/sharpness.hpp"
#include "lamps.hpp"
#include "layers.hpp"

namespace jolly_iris {

namespace {

void check(const Frame& frame, const DefocusSettings& settings) {
  if (frame.colour.empty()) throw PictureError("the picture has no pixels");
  const auto width = static_cast<std::size_t>(frame.colour.width());
  const auto refuse = [&](std::size_t i, const std::string& what) {
    throw PictureError(fmt::format("{} at pixel {}, {}", what, i % width, i / width));
  };
  for (std::size_t i = 0; i < frame.colour.pixels().size(); ++i) {
    for (const float v : frame.colour.pixels()[i]) {
      if (!std::isfinite(v)) refuse(i, fmt::format("the colour is {}, which is no light,", v));
    }
  }
  if (settings.distance) {
    if (!(settings.distance->mm() > 0.0)) {
      throw PictureError(fmt::format("the stated distance of {:g} m is not in front of the camera",
                                     settings.distance->m()));
    }
    return;
  }
  if (!frame.has_depth()) {
    throw PictureError(
        "the picture has no depth; give a picture with a channel Z (axial metres), or one distance "
        "for everything");
  }
  if (frame.depth.size() != frame.colour.pixels().size()) {
    throw PictureError("the depth picture has another size than the colour");
  }
  for (std::size_t i = 0; i < frame.depth.size(); ++i) {
    const float z = frame.depth[i];
    if (std::isnan(z)) refuse(i, "the depth is not a number");
    if (!(z > 0.0F)) {
      refuse(i, fmt::format("the depth is {:g} m, which is not in front of the camera,", z));
    }
  }
}

// A disc of many frames' size says that the depth is in another unit, not that the blur is large.
void require_sane(double coc_px, Length z, std::size_t pixel, PixelSize size) {
  constexpr double frames = 2.0;
  if (std::abs(coc_px) <= frames * std::max(size.width, 32)) return;
  const auto width = static_cast<std::size_t>(size.width);
  throw PictureError(
      fmt::format("at pixel {}, {} the depth is {:.4g} m, which would be blurred over {:.0f} px, "
                  "more than {:g} "
                  "times the picture's width; is the depth in metres?",
                  pixel % width, pixel / width, z.m(), std::abs(coc_px), frames));
}

}  // namespace

Picture defocus(const Frame& frame, const VirtualCamera& camera, const DefocusSettings& settings) {
  check(frame, settings);
  Picture result;
  tbb::task_arena arena(settings.threads > 0 ? settings.threads : tbb::task_arena::automatic);
  arena.execute([&] {
    // Sizes count in pixels' height; the disc's shape takes care of pixels that are not square.
    const double px_a_mm_wide = frame.colour.width() / camera.picture.width.mm();
    const double px_a_mm = px_a_mm_wide * (camera.pixel_pitch_wide() / camera.pixel_pitch());
    const Opening opening(camera.iris, camera.aperture_radius);
    blur::DiscSet discs(opening, camera.pupil_aspect() * px_a_mm_wide / px_a_mm);
    const std::vector<float> lamps = blur::lamp_share(frame.colour);
    blur::Spread spread{frame.colour, lamps, {}, {}, 1, 0, discs};
    const std::size_t pixels = frame.colour.pixels().size();
    spread.step.resize(pixels);
    spread.layer.resize(pixels);
    for (std::size_t i = 0; i < pixels; ++i) {
      const Length z = settings.distance ? *settings.distance
                                         : Length::from_m(static_cast<double>(frame.depth[i]));
      const double coc_px = circle_of_confusion(camera, z).mm() * px_a_mm;
      require_sane(coc_px, z, i, frame.colour.size());
      spread.step[i] = blur::DiscSet::step(coc_px);
      spread.layer[i] = blur::layer_of(coc_px);
    }
    const auto [front, back] = std::minmax_element(spread.layer.begin(), spread.layer.end());
    spread.layers = *back - *front + 1;
    const int nearest = *front;
    spread.focus_layer = blur::layer_of(0.0) - nearest;
    for (int& layer : spread.layer) layer -= nearest;
    discs.prepare(spread.step);
    result = blur::fill_open(blur::spread_and_join(spread, settings.progress), discs.reach());
  });
  return result;
}

}  // namespace jolly_iris
