// Pictures of light have numbers in them.
#pragma once

#include <cstddef>
#include <functional>
#include <string>

#include "jolly_iris/export.hpp"
#include "jolly_iris/optics/sharpness.hpp"
#include "jolly_iris/picture/picture.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// The first index below `count` that is bad, or `count`; on all cores.
std::size_t first_bad(std::size_t count,
                      const std::function<std::size_t(std::size_t from, std::size_t to)>& first_in);
template <class Bad>
std::size_t first_of(std::size_t count, const Bad& bad) {
  return first_bad(count, [&](std::size_t from, std::size_t to) {
    while (from < to && !bad(from)) ++from;
    return from;
  });
}

/// @throws PictureError "… at pixel 3, 4"
[[noreturn]] void refuse_pixel(const Picture& picture, std::size_t i, const std::string& what);

/// @throws PictureError for a picture without pixels, or colour that is not finite; it names the
/// pixel
void require_finite(const Picture& picture);

/// @throws PictureError for a margin that leaves nothing of a picture of this size
void require_margin(const Margin& margin, PixelSize size);

}  // namespace jolly_iris
