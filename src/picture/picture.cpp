#include "jolly_iris/picture/picture.hpp"

#include <fmt/format.h>

#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/optics/memory.hpp"

namespace jolly_iris {

Picture::Picture(PixelSize size, const Rgba& fill) : size_(size) {
  if (size.width < 1 || size.height < 1) {
    throw UsageError(
        fmt::format("a picture of {} x {} pixels has nothing to show; both sides are "
                    "at least 1",
                    size.width, size.height));
  }
  require_memory(static_cast<double>(sizeof(Rgba)) * size.width * size.height,
                 fmt::format("a picture of {} x {} pixels", size.width, size.height));
  pixels_.assign(static_cast<std::size_t>(size.width) * static_cast<std::size_t>(size.height),
                 fill);
}

void require_within(const Box& box, PixelSize whole) {
  const bool within = box.x >= 0 && box.y >= 0 && box.width > 0 && box.height > 0 &&
                      box.width <= whole.width - box.x && box.height <= whole.height - box.y;
  if (within) return;
  throw UsageError(fmt::format("the box {},{},{},{} does not lie within the picture of {} x {}",
                               box.x, box.y, box.width, box.height, whole.width, whole.height));
}

Frame crop(const Frame& frame, const Box& box) {
  const PixelSize whole = frame.colour.size();
  require_within(box, whole);
  Frame part{Picture({box.width, box.height}), {}};
  for (int y = 0; y < box.height; ++y) {
    for (int x = 0; x < box.width; ++x) {
      part.colour.at(x, y) = frame.colour.at(box.x + x, box.y + y);
      if (!frame.has_depth()) continue;
      part.depth.push_back(
          frame.depth[static_cast<std::size_t>(box.y + y) * static_cast<std::size_t>(whole.width) +
                      static_cast<std::size_t>(box.x + x)]);
    }
  }
  return part;
}

}  // namespace jolly_iris
