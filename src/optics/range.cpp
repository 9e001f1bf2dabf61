#include "jolly_iris/optics/range.hpp"

#include <fmt/format.h>

namespace jolly_iris {

std::string words_of(const Range& range, std::string_view unit) {
  return fmt::format("from {} to {}{}{}", range.min, range.max, unit.empty() ? "" : " ", unit);
}

}  // namespace jolly_iris
