// Prescriptions as files: NAME.glass.toml (docs/glass.md). A file is read whole: all its mistakes
// are told in one go, each with its place.
#pragma once

#include <filesystem>
#include <string>

#include "jolly_iris/export.hpp"
#include "jolly_iris/glass/prescription.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// A last gap that is left out is to where infinity meets, by the axis.
/// @throws FileError for a file that is missing; ShotFileError for everything that is wrong in it;
///         OpticsError for surfaces that form no image
Prescription read_glass(const std::filesystem::path& path);

/// The same from text; `name` is for places.
Prescription parse_glass(const std::string& text, const std::string& name);

/// A prescription as such a file; read again it is the same to nine digits. Its iris is written as
/// far as blades, rotation and blade radius.
std::string glass_text(const Prescription& prescription);

}  // namespace jolly_iris
