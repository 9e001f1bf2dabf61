// Counts of pixels as the standard library counts.
#pragma once

#include <cstddef>

namespace jolly_iris {

/// @param count 0 or more
inline std::size_t to_size(int count) { return static_cast<std::size_t>(count); }

}  // namespace jolly_iris
