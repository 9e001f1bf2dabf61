// A shot file that is begun: lines with comments, what may be added, and what was guessed.
#pragma once

#include <string>
#include <string_view>
#include <vector>

#include "jolly_iris/export.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// A value that nobody said.
struct Guess {
  std::string key{};     ///< dotted, "take.stop"
  std::string value{};   ///< as it stands in the file, for people: "f/2.8"
  std::string why{};     ///< a sentence: what it was taken from
  std::string settle{};  ///< what would settle it: "what the lens's ring said"
};

struct StarterLine {
  std::string key{};
  std::string value{};    ///< as TOML has it; toml_text() for text
  std::string comment{};  ///< in one line, without #
  bool may = false;       ///< an example of what may be added: the whole line is a comment
};

/// The lines of a table; without a name, those before all tables. Where all lines only may be added
/// the table is a comment too.
struct StarterSection {
  std::string name{};  ///< "take"; of a list "[subject]"
  std::string comment{};
  std::vector<StarterLine> lines{};
};

/// Text in quotes, safe whatever it holds.
std::string toml_text(std::string_view text);

/// The file. @param title lines of a comment on top
std::string starter_text(const std::vector<std::string>& title,
                         const std::vector<StarterSection>& sections,
                         const std::vector<Guess>& guesses);

}  // namespace jolly_iris
