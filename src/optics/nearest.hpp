// "Did you mean …": the known name closest to one that was typed.
#pragma once

#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "jolly_iris/export.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// Number of single-letter edits (insert, delete, replace, swap of neighbours) between two names,
/// ignoring case. Source: optimal string alignment distance (Damerau 1964, Levenshtein 1966).
int edit_distance(std::string_view a, std::string_view b);

/// The candidate with the fewest edits; none if even the best shares too little to be meant
/// (more than half of its letters would have to change).
std::optional<std::string> nearest_name(std::string_view name,
                                        const std::vector<std::string>& candidates);

/// " Did you mean 'boat'?" or, without a near name, " Known: 'boat', 'reeds'."; empty if there are
/// no candidates. For the end of a message.
std::string did_you_mean(std::string_view name, const std::vector<std::string>& candidates);

}  // namespace jolly_iris
