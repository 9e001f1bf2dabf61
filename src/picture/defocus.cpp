#include "jolly_iris/defocus.hpp"

#include <fmt/format.h>
#include <tbb/blocked_range.h>
#include <tbb/parallel_reduce.h>
#include <tbb/task_arena.h>

#include <algorithm>
#include <cmath>

#include "jolly_iris/errors.hpp"
#include "magnify.hpp"
#include "prepare.hpp"

namespace jolly_iris {

namespace {

using namespace blur;

// The first index that is bad, or `count`; on all cores.
template <class Bad>
std::size_t first_of(std::size_t count, const Bad& bad) {
  return tbb::parallel_reduce(
      tbb::blocked_range<std::size_t>(0, count, 65536), count,
      [&](const tbb::blocked_range<std::size_t>& range, std::size_t found) {
        for (std::size_t i = range.begin(); i < range.end() && i < found; ++i) {
          if (bad(i)) return i;
        }
        return found;
      },
      [](std::size_t a, std::size_t b) { return std::min(a, b); });
}

void check(const Frame& frame, const DefocusSettings& settings) {
  if (frame.colour.empty()) throw PictureError("the picture has no pixels");
  const auto width = static_cast<std::size_t>(frame.colour.width());
  const auto refuse = [&](std::size_t i, const std::string& what) {
    throw PictureError(fmt::format("{} at pixel {}, {}", what, i % width, i / width));
  };
  const auto dark = [&](std::size_t i) {
    const Rgba& p = frame.colour.pixels()[i];
    return !std::isfinite(p[0] + p[1] + p[2] + p[3]);
  };
  for (std::size_t i = first_of(frame.colour.pixels().size(), dark);
       i < frame.colour.pixels().size(); ++i) {
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
  const auto behind = [&](std::size_t k) { return !(frame.depth[k] > 0.0F); };
  const std::size_t i = first_of(frame.depth.size(), behind);
  if (i < frame.depth.size()) {
    const float z = frame.depth[i];
    if (std::isnan(z)) refuse(i, "the depth is not a number");
    refuse(i, fmt::format("the depth is {:g} m, which is not in front of the camera,", z));
  }
}

}  // namespace

Picture defocus(const Frame& frame, const VirtualCamera& camera, const DefocusSettings& settings) {
  Picture result;
  tbb::task_arena arena(settings.threads > 0 ? settings.threads : tbb::task_arena::automatic);
  arena.execute([&] {
    check(frame, settings);
    const Preparation ready(frame, camera, settings);
    const auto pass = [&](std::size_t colour, double done, double part) {
      const auto p = ready.pass(colour);
      std::function<void(double)> progress;
      if (settings.progress) {
        progress = [&settings, done, part](double share) {
          settings.progress(done + part * share);
        };
      }
      return fill_open(spread_and_join(*p, progress), p->table.reach());
    };
    if (!camera.faults.shifts_colours()) {
      result = pass(1, 0.0, 1.0);
    } else {  // each colour is blurred on its own
      result = Picture(frame.colour.size());
      for (std::size_t c = 0; c < 3; ++c) {
        const Picture one = pass(c, static_cast<double>(c) / 3.0, 1.0 / 3.0);
        for (std::size_t i = 0; i < result.pixels().size(); ++i) {
          result.pixels()[i][c] = one.pixels()[i][c];
          if (c == 1) result.pixels()[i][3] = one.pixels()[i][3];
        }
      }
    }
    result = magnified(std::move(result), camera.faults.magnification, ready.map());
  });
  return result;
}

}  // namespace jolly_iris
