// What a plate said instead of the notes: NAME.solved.toml beside NAME.shot.toml.
//
// The notes stay as they were written. Whoever reads the shot gets what was solved laid over them,
// as long as the notes are those that it was solved from; every value knows that it is solved.
#pragma once

#include <filesystem>
#include <string>
#include <vector>

#include "jolly_iris/export.hpp"
#include "jolly_iris/optics/shot.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// One value, as a shot file would have it.
struct SolvedValue {
  std::string key{};      ///< "take.stop"
  std::string value{};    ///< as TOML has it: "\"f/2.02\"", "0.76"
  std::string message{};  ///< to stand behind it: what was noted, and the margin
};

/// "hero.solved.toml" beside "hero.shot.toml" (any other name gains ".solved.toml").
std::filesystem::path solved_file_of(const std::filesystem::path& shot_file);

/// The file's text. It remembers the notes that it was solved from.
/// @param why a line or two for its head
/// @throws as read_shot
std::string solved_text(const std::filesystem::path& shot_file, const std::string& why,
                        const std::vector<SolvedValue>& values);

}  // namespace jolly_iris
