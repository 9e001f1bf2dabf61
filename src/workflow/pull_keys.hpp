// Keys of a focus as a shot file has them.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "jolly_iris/optics/ease.hpp"

namespace jolly_iris {

struct PullKey {
  double frame = 0.0;
  double dioptres = 0.0;       ///< ≤ 0: infinity
  std::optional<Ease> ease{};  ///< how it came from the key before; none: steadily
};

/// Adds one, at a tenth of a frame; one that does not come after the last is left out.
void add_key(std::vector<PullKey>& keys, PullKey key);

/// "[[pull]]" tables, one below the other; and the same as one list, for a value of `pull`.
std::string pull_tables(const std::vector<PullKey>& keys);
std::string pull_list(const std::vector<PullKey>& keys);

}  // namespace jolly_iris
