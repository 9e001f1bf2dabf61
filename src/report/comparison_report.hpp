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
/// The sentence behind all advice: that nothing differs, that something does though nothing that is
/// measured, that the places follow; or why nothing can be advised.
std::string verdict_sentence(const ImageComparison& like, bool any_advice);
/// "at 232, 368: 128 x 120 px differ by 42.6 of 255 …".
std::string place_text(const DifferingPlace& place);

Json comparison_json(const PlateComparison& comparison);

/// What differs, row by row: what, how much, a word to it.
std::vector<std::array<std::string, 3>> comparison_rows(const PlateComparison& comparison,
                                                        std::size_t of = 0);

/// "take.stop = f/2.1 (now f/2): …."
std::string suggestion_text(const Suggestion& suggestion);

}  // namespace report
}  // namespace jolly_iris
