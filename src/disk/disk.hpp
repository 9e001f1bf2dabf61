// Whole files in and out. A written file is complete or absent: the bytes go to a file beside it,
// are flushed to the disk, and only then take the name.
#pragma once

#include <filesystem>
#include <string>
#include <string_view>

#include "jolly_iris/export.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// All bytes of a file. @throws FileError that says why (missing, a folder, no permission)
std::string read_whole_file(const std::filesystem::path& path);

/// Writes bytes under a name, atomically. @throws FileError on a full disk, a missing folder …;
/// then neither the file nor a leftover beside it exists, and an older file keeps its contents.
void write_whole_file(const std::filesystem::path& path, std::string_view bytes);

/// From now on, what is being written is removed before the program ends by Ctrl-C, a hang-up or a
/// plain kill (SIGINT, SIGHUP, SIGTERM). For programs, not for libraries: it sets their handlers.
void leave_nothing_when_stopped();

}  // namespace jolly_iris
