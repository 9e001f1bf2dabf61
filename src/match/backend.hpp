// What the module that links Ceres offers to the library that loads it on first use.
#pragma once

#include "jolly_iris/match.hpp"

namespace jolly_iris::matching {

MatchResult match(const Notes& notes, const std::vector<Observation>& seen,
                  const MatchSettings& settings);
Explanations explanations(const Notes& notes, const std::vector<Observation>& seen);

struct Backend {
  decltype(&matching::match) match;
  decltype(&matching::explanations) explanations;
};

/// Name of the module's only entry, which returns a Backend.
inline constexpr const char* entry_name = "jolly_iris_match_backend";

}  // namespace jolly_iris::matching
