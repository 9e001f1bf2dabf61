// Changes to a shot file as somebody would make them by hand: only the lines of what changes, with
// comments, order, spacing and all other spelling as they were.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "jolly_iris/export.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

struct ShotEdit {
  /// Dotted: "take.stop", "subject.boat.at", "variant.night.take.stop", "guessed.take.stop".
  std::string key{};
  std::optional<std::string> value{};  ///< as TOML has it (toml_text for text); none: taken out
};

/// A value that is there is replaced where it stands. A new one goes below those of its table, or
/// into a new table at the end; a subject that is not there is begun there. A key that shall go and
/// is not there is gone already.
/// @param text of the file, @param name of the file, for messages
/// @throws ShotFileError for text that is no TOML; FileError where an edit cannot be made so that
///         nothing else changes, with the key; then nothing is changed
std::string edited_shot(const std::string& text, const std::string& name,
                        const std::vector<ShotEdit>& edits);

}  // namespace jolly_iris
