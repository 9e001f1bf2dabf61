// A drawn outline, for an iris of any shape.
#pragma once

#include <filesystem>
#include <string_view>
#include <vector>

#include "jolly_iris/export.hpp"
#include "jolly_iris/optics/lens_sampler.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// The first closed shape of an SVG: a path (all commands of SVG 1.1; curves become chords within
/// 1/500 of the shape's size), a polygon, a circle, an ellipse or a rectangle. y is turned up, as
/// seen. Transforms, styles and further shapes play no part.
/// @throws FileError if it cannot be read or holds no such shape, naming what is wrong and where
std::vector<Point2> read_outline(const std::filesystem::path& path);

/// The same of text; `name` is for messages.
std::vector<Point2> parse_outline(std::string_view svg, std::string_view name);

}  // namespace jolly_iris
