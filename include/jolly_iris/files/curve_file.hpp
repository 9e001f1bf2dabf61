// Transfer curves as tables (CSV; see docs/exposure.md).
#pragma once

#include <filesystem>

#include "jolly_iris/export.hpp"
#include "jolly_iris/optics/shot.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// Reads rows of `number` (as the picture file has it, 0 … 1 for files of whole numbers) and
/// `light` (linear, 0.18 is mid-grey); both strictly rising, two rows or more.
/// @throws FileError with the line for what is missing, no number, or does not rise
Curve read_curve(const std::filesystem::path& path);

}  // namespace jolly_iris
