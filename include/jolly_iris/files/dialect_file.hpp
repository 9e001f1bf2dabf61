// Reading dialects and numbers typed in them (TOML; see docs/dialects.md).
#pragma once

#include <filesystem>
#include <map>
#include <string>

#include "jolly_iris/export.hpp"
#include "jolly_iris/optics/dialect.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// @throws FileError for a file that is missing, ShotFileError with all its mistakes
Dialect read_dialect(const std::filesystem::path& path);

/// The file of a dialect: the path itself, or where none is there, one of those that come with the
/// tool by its short name ("focal-and-gate") or its file's.
/// @param shipped folder of those
/// @throws FileError for neither, listing what comes with the tool
std::filesystem::path find_dialect(const std::filesystem::path& named,
                                   const std::filesystem::path& shipped);

/// Numbers somebody typed into a program, by the labels of its dialect.
struct TypedCamera {
  std::string file{};
  Dialect dialect{};
  std::map<std::string, double> values{};
};
/// @param shipped folder of the dialects that come with the tool
/// @throws as read_dialect
TypedCamera read_typed(const std::filesystem::path& path,
                       const std::filesystem::path& shipped = {});

}  // namespace jolly_iris
