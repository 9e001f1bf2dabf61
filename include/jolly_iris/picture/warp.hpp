// Pictures seen through a map of places: undistorted, redistorted, levelled.
#pragma once

#include <array>
#include <functional>
#include <optional>
#include <vector>

#include "jolly_iris/export.hpp"
#include "jolly_iris/optics/undistort.hpp"
#include "jolly_iris/picture/picture.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// For a place of the new picture, the place of the old one that it shows; none: nothing.
using PlaceMap = std::function<std::optional<std::array<double, 2>>(const std::array<double, 2>&)>;

/// Every pixel by a cubic through the sixteen around its place, kept within their values, so that a
/// lamp throws no dark ring (Catmull and Rom 1974). Depth is taken from the nearest pixel: a mean
/// of two distances is a place where nothing is. What the old picture does not show is empty and
/// far.
Frame warp(const Frame& frame, PixelSize size, const PlaceMap& from);

/// The plate as a lens without distortion would have shown it, with a margin on each side, so that
/// nothing is lost.
/// @param plate of the map's size, or smaller or larger in the same shape
/// @throws PictureError for a picture of another shape
Frame undistorted(const Frame& plate, const DistortionMap& map, const Margin& margin);

/// A CG picture as the lens would have bent it, of the plate's size.
/// @param cg as large as the plate, or with the map's margin on each side (then it fills the frame)
/// @throws PictureError for another size, with both that would be right
Frame redistorted(const Frame& cg, const DistortionMap& map);

/// Where each pixel of the result comes from, px of the source, from its top left corner; NaN-free:
/// places that show nothing are (−1, −1). Row by row.
struct PositionMap {
  PixelSize size{};
  PixelSize source{};
  std::vector<std::array<double, 2>> from{};
};
PositionMap undistorting_map(const DistortionMap& map, const Margin& margin);
PositionMap redistorting_map(const DistortionMap& map, const Margin& margin);

/// By the mean of all the pixels that a smaller one covers; the same picture if it is as small.
/// @throws UsageError for a width below 1
Picture shrunk(const Picture& picture, int width);

}  // namespace jolly_iris
