// From arguments to a verb that is ready to run.
#pragma once

#include <memory>
#include <string>
#include <vector>

#include "cli/verbs/verb.hpp"

namespace jolly_iris::cli {

/// What was typed, or the text to print and the code to end with (help, version).
struct Parsed {
  std::unique_ptr<Verb> verb{};
  std::string text{};
  std::string memory{};  ///< how much of it may be used; empty: as usual
  int code = 0;
};

/// @throws UsageError for what cannot be meant
Parsed parse(const std::vector<std::string>& args);

}  // namespace jolly_iris::cli
