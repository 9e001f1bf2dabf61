// Whether the scene is as large as the things in it are in reality.
#pragma once

#include <vector>

#include "jolly_iris/scene/answer.hpp"

namespace jolly_iris {

/// Compares each subject of known size with its node's longest side; those that differ by more than
/// a tenth, with the likely reason where the factor is one that has a name.
std::vector<ScaleFinding> scale_check(const Shot& shot, const std::vector<SubjectPlace>& places);

/// What a factor scene / reality usually means: "centimetres taken for metres"; empty if nothing.
std::string scale_reason(double factor);

}  // namespace jolly_iris
