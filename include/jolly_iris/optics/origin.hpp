// Where a value of a shot came from.
#pragma once

#include <string>
#include <string_view>

#include "jolly_iris/export.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// Where a value came from.
struct Origin {
  enum class Source {
    noted,     ///< written in the shot file, or in a body or lens file it names
    metadata,  ///< read out of a picture
    solved,    ///< computed from the plate
    tried,     ///< given for this one run, without touching the file
    guessed    ///< nobody said it, so a sensible one was taken: [guessed] says why
  };
  Source source = Source::noted;
  std::string place{};  ///< "hero.shot.toml:12:8"
  std::string text{};   ///< as it was written
  std::string why{};    ///< of a guessed one: what it was taken from
};

/// "noted", "metadata", "solved", "tried", "guessed".
std::string_view to_string(Origin::Source source);

}  // namespace jolly_iris
