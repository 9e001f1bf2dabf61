#include "jolly_iris/picture/smear.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/optics/memory.hpp"
#include "jolly_iris/picture/prepared_frame.hpp"
#include "moved_pixels.hpp"
#include "parallel.hpp"

namespace jolly_iris {

namespace {

using smearing::MovedPixels;
using smearing::Shown;

// As many moments as leave no steps to be seen: pixels are a tent of two wide.
constexpr double step_px = 1.5;
constexpr int most_moments = 64;
constexpr int most_taps = 8;
// While things go this far, one blur holds for all of it.
constexpr double blur_step_px = 5.0;
constexpr int most_blurs = 16;

int steps_of(double px, double step, int most) {
  return std::clamp(static_cast<int>(std::ceil(px / step)), 1, most);
}

void require_span(const ShutterSpan& span) {
  if (std::isfinite(span.opens) && std::isfinite(span.closes) && span.closes > span.opens) return;
  throw OpticsError(fmt::format("a shutter that opens at {:g} and closes at {:g} frames lets no "
                                "light through",
                                span.opens, span.closes),
                    "take.shutter");
}

void require_room(PixelSize size) {
  require_memory(110.0 * size.width * size.height,
                 fmt::format("smearing a picture of {} x {} pixels", size.width, size.height));
}

struct Steps {
  int moments = 1;
  int taps = 1;
};
Steps steps_for(double px) {
  const int moments = std::max(4, steps_of(px, step_px, most_moments));
  return {moments, steps_of(px / moments, step_px, most_taps)};
}

}  // namespace

SmearedPicture smeared(const Frame& frame, const MotionVectors& vectors, const ShutterSpan& span,
                       const Execution& execution) {
  require_span(span);
  require_room(frame.colour.size());
  SmearedPicture out;
  with_threads(execution.threads, [&] {
    const MovedPixels pixels(frame, vectors, span);
    const Steps steps = steps_for(pixels.longest_px());
    out = {pixels.between(span.opens, span.closes, steps.moments, steps.taps, false, execution)
               .picture,
           pixels.longest_px(), pixels.unusable()};
  });
  return out;
}

SmearedPicture smeared_defocus(const Frame& frame, const MotionVectors& vectors,
                               const ShutterSpan& span, const VirtualCamera& camera,
                               const DefocusSettings& settings) {
  require_span(span);
  require_room(frame.colour.size());
  SmearedPicture out;
  with_threads(settings.execution.threads, [&] {
    const MovedPixels pixels(frame, vectors, span);
    out.longest_px = pixels.longest_px();
    out.unusable = pixels.unusable();
    const int parts = steps_of(out.longest_px, blur_step_px, most_blurs);
    const Steps steps = steps_for(out.longest_px / parts);
    const double time = (span.closes - span.opens) / parts;
    for (int k = 0; k < parts; ++k) {
      const double opens = span.opens + k * time;
      const Execution part = settings.execution.part(static_cast<double>(k) / parts,
                                                     static_cast<double>(k + 1) / parts);
      Shown shown =
          pixels.between(opens, opens + time, steps.moments, steps.taps, true, part.part(0.0, 0.3));
      Frame moved{std::move(shown.picture), {}, {}};
      DefocusSettings now = settings;
      now.execution = part.part(0.3, 1.0);
      if (frame.has_depth()) {
        moved.depth.resize(shown.from.size());
        for (std::size_t i = 0; i < shown.from.size(); ++i) {
          moved.depth[i] = frame.depth[shown.from[i]];
        }
      }
      for (std::size_t i = 0; i < now.coc_px.size(); ++i) {
        now.coc_px[i] = settings.coc_px[shown.from[i]];
      }
      const Picture blurred = defocus(moved, camera, now);
      if (k == 0) out.picture = Picture(blurred.size());
      const float fraction = 1.0F / static_cast<float>(parts);
      for (std::size_t i = 0; i < blurred.pixels().size(); ++i) {
        for (std::size_t c = 0; c < 4; ++c) {
          out.picture.pixels()[i][c] += fraction * blurred.pixels()[i][c];
        }
      }
    }
  });
  return out;
}

}  // namespace jolly_iris
