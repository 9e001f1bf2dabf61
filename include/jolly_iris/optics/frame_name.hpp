// Names of sequences: "cg.####.exr", where the last run of # stands for the frame's number.
#pragma once

#include <string>

#include "jolly_iris/export.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// Whether a name has a place for a frame's number.
bool is_sequence(const std::string& name);

/// "cg.####.exr", 12 → "cg.0012.exr"; −3 → "cg.-003.exr". Without a # the name stays.
/// @throws UsageError for a frame that is not whole
std::string numbered(const std::string& name, double frame);

}  // namespace jolly_iris
