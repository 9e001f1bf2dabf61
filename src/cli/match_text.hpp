// What match found, in words and as JSON: for the verb and for the page.
#pragma once

#include <nlohmann/json.hpp>
#include <string>
#include <vector>

#include "jolly_iris/facts_against.hpp"
#include "jolly_iris/match.hpp"

namespace jolly_iris::cli {

using Json = nlohmann::ordered_json;

/// "58.03 mm", "2.000", "2.350 m", "1.000 x".
std::string value_text(Unknown u, double v);
std::string unknowns_text(const MatchResult& m);
std::string observations_text(const MatchResult& m);
/// The verdict, and the likeliest mistakes. @param count of all observations
std::string explanations_text(const Explanations& e, std::size_t count);
/// What the plate's file says otherwise than the notes, or beyond them; a blank line behind it.
std::string facts_text(const std::vector<FactAgainstNote>& facts, const std::string& file,
                       const std::vector<std::string>& doubts);

Json json_of(const MatchResult& m);
Json json_of(const Explanations& e);
Json json_of(const std::vector<FactAgainstNote>& facts);

}  // namespace jolly_iris::cli
