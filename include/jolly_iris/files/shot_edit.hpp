// Changes to a shot file as somebody would make them by hand: only the lines of what changes, with
// comments, order, spacing and all other spelling as they were.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "jolly_iris/export.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

struct ShotEdit {
  /// Dotted: "take.stop", "subject.boat.at", "variant.night.take.stop", "guessed.take.stop"; a key
  /// of the focus by its frame: "pull.1024.on", "variant.night.pull.1024.on". Taking its "frame"
  /// out takes the whole key out.
  std::string key{};
  std::optional<std::string> value{};  ///< as TOML has it (toml_text for text); none: taken out
};

/// A value that is there is replaced where it stands. A new one goes below those of its table, or
/// into a new table at the end; a subject that is not there is begun there, a key of the focus
/// among the others in their order. A key that shall go and is not there is gone already.
/// @param text of the file, @param name of the file, for messages
/// @throws ShotFileError for text that is no TOML; FileError where an edit cannot be made so that
///         nothing else changes, with the key; then nothing is changed
std::string edited_shot(const std::string& text, const std::string& name,
                        const std::vector<ShotEdit>& edits);

/// What a file has for a key, as it is written there ("\"f/2\" "); none: the key is not there.
/// @throws ShotFileError for text that is no TOML
std::optional<std::string> written_value(const std::string& text, const std::string& name,
                                         const std::string& key);

/// The keys under a prefix, "focus.", that a file has; lists by number: "pull[0].frame".
/// @throws ShotFileError for text that is no TOML
std::vector<std::string> written_keys(const std::string& text, const std::string& name,
                                      const std::string& prefix);

/// A value as somebody types it to be tried ("f/2.8", "800", "2.4 m") as TOML has it.
/// @param before what stands in its place, as TOML has it: a length or an angle keeps that unit
std::string toml_spelling(const std::string& typed, const std::optional<std::string>& before = {});

/// A value as TOML has it ("\"f/2\"", "800") as somebody types it to be tried. Empty: it is a
/// table.
/// @throws ShotFileError for what is no TOML
std::string typed_spelling(const std::string& toml);

}  // namespace jolly_iris
