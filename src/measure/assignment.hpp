// Who gets what so that all together cost least.
#pragma once

#include <cstddef>
#include <optional>
#include <vector>

namespace jolly_iris::measuring {

/// Which column each row gets, at the least sum of costs; none where `alone` is cheaper than any
/// column that is left. Kuhn (1955), by shortest augmenting paths (Jonker and Volgenant 1987):
/// n³ for n rows.
/// @param cost by row, then column, ≥ 0; infinite: never
/// @param alone what a row costs that gets none
std::vector<std::optional<std::size_t>> cheapest_pairs(const std::vector<std::vector<double>>& cost,
                                                       double alone);

}  // namespace jolly_iris::measuring
