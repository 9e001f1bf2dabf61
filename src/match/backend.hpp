// What the module that links Ceres offers to the library that loads it on first use.
#pragma once

#include "jolly_iris/match.hpp"

namespace jolly_iris::matching {

std::vector<MatchResult> match(const std::vector<NotedPlate>& plates,
                               const MatchSettings& settings);
Explanations explanations(const std::vector<NotedPlate>& plates,
                          const std::vector<Unknown>& shared);

struct Backend {
  decltype(&matching::match) match;
  decltype(&matching::explanations) explanations;
};

/// Name of the module's only entry, which returns a Backend.
inline constexpr const char* entry_name = "jolly_iris_match_backend";

}  // namespace jolly_iris::matching
