// How alike a plate and CG are, in words and as JSON.
#pragma once

#include <array>
#include <string>
#include <vector>

#include "disk/json.hpp"
#include "jolly_iris/export.hpp"
#include "jolly_iris/workflow/comparison.hpp"

namespace jolly_iris {
namespace JOLLY_IRIS_EXPORT report {

/// Everything of one picture, or a line for each of several tries.
std::string comparison_text(const PlateComparison& comparison, const LoadedShot& loaded);
/// What the page says beneath both pictures: what to change, and where they differ; or why
/// nothing is advised.
std::vector<std::string> advice_lines(const ImageComparison& like, const CgMade& made);

Json comparison_json(const PlateComparison& comparison);

/// What differs, row by row: what, how much, a word to it.
std::vector<std::array<std::string, 3>> comparison_rows(const ImageComparison& like);

/// "take.stop = f/2.1 (now f/2): …."
std::string suggestion_text(const Suggestion& suggestion);

}  // namespace report
}  // namespace jolly_iris
