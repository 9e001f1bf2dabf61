// match --accept: what the plate says, written beside the notes.
#pragma once

#include <string>
#include <vector>

#include "jolly_iris/match.hpp"
#include "jolly_iris/solved_file.hpp"
#include "seen_in_plate.hpp"

namespace jolly_iris::cli {

/// The notes that the plate changes, as keys of a shot file; what only the note says stays noted.
std::vector<SolvedValue> solved_values(const MatchResult& found, const LoadedShot& loaded,
                                       const SeenInPlate& plate);

/// Writes NAME.solved.toml. @return a line that says so
/// @param reason stands in its head
std::string accept(const std::string& shot_file, const MatchResult& found, const LoadedShot& loaded,
                   const SeenInPlate& plate, const std::string& reason);

}  // namespace jolly_iris::cli
