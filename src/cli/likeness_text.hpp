// How alike a plate and CG are, in words and as JSON: for the verb and for the page.
#pragma once

#include <nlohmann/json.hpp>
#include <string>
#include <vector>

#include "jolly_iris/likeness.hpp"
#include "jolly_iris/load.hpp"

namespace jolly_iris::cli {

/// Everything of one comparison. @param values what made CG, as its file says
std::string likeness_text(const Likeness& like, const LoadedShot& loaded, const std::string& plate,
                          const std::string& cg, const std::string& values);
nlohmann::ordered_json likeness_json(const Likeness& like, const LoadedShot& loaded);

/// What differs, row by row: what, how much, a word to it.
std::vector<std::array<std::string, 3>> likeness_rows(const Likeness& like);

/// "take.stop = f/2.1 (now f/2): …."
std::string move_text(const NextMove& move);

/// Of several tries, one line each.
std::string tries_text(const std::vector<Likeness>& likes, const std::string& plate);
std::string tries_head();
std::string tries_row(const Likeness& like);

}  // namespace jolly_iris::cli
