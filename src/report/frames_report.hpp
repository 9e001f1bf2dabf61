// The focus table of many frames, as people read it.
#pragma once

#include <string>
#include <vector>

#include "jolly_iris/export.hpp"
#include "jolly_iris/files/load.hpp"

namespace jolly_iris {
namespace JOLLY_IRIS_EXPORT report {

/// Whose blur a table shows: those asked for, else what the focus goes to and the file names.
/// @throws UsageError for a subject that is in none of the answers
std::vector<std::string> shown_subjects(const std::vector<std::string>& of,
                                        const LoadedShot& loaded,
                                        const std::vector<Answer>& answers);

std::string frames_text(const LoadedShot& loaded, const std::vector<Answer>& answers,
                        const std::vector<std::string>& names);

}  // namespace report
}  // namespace jolly_iris
