// The words of an enumeration, from one list.
#pragma once

#include <cstddef>
#include <string_view>

namespace jolly_iris {

/// @tparam last the last enumerator: a list that misses one, or has one too many, does not compile
/// @param names in the order of the enumerators
template <auto last, std::size_t count>
constexpr std::string_view name_of(decltype(last) value, const std::string_view (&names)[count]) {
  static_assert(count == static_cast<std::size_t>(last) + 1);
  return names[static_cast<std::size_t>(value)];
}

}  // namespace jolly_iris
