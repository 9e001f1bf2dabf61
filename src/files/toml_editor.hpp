// One value of a TOML file set or taken out where a person would do it.
#pragma once

#include <string>

#include "jolly_iris/files/shot_edit.hpp"

namespace jolly_iris {

/// The text with one edit made, all its other lines as they were. Whether it says what is meant
/// then is for edited_shot to see.
/// @throws ShotFileError for text that is no TOML; FileError where it cannot be
std::string with_edit(const std::string& text, const std::string& name, const ShotEdit& edit);

}  // namespace jolly_iris
