// The middle of many values, and what lies at other shares of them.
#pragma once

#include <algorithm>
#include <cstddef>
#include <vector>

namespace jolly_iris {

/// The value below which `fraction` of them lie, one of them; T{} for none.
template <class T>
T quantile(std::vector<T> values, double fraction) {
  if (values.empty()) return T{};
  const auto k = static_cast<std::ptrdiff_t>(fraction * static_cast<double>(values.size() - 1));
  std::nth_element(values.begin(), values.begin() + k, values.end());
  return values[static_cast<std::size_t>(k)];
}

/// The middle one, the higher of two; T{} for none. Reorders them.
template <class T>
T upper_median(std::vector<T>& values) {
  if (values.empty()) return T{};
  const auto middle = values.begin() + static_cast<std::ptrdiff_t>(values.size() / 2);
  std::nth_element(values.begin(), middle, values.end());
  return *middle;
}

/// The middle one, the mean of two; T{} for none.
template <class T>
T median(std::vector<T> values) {
  if (values.empty()) return T{};
  const T upper = upper_median(values);
  if (values.size() % 2 == 1) return upper;
  const auto middle = values.begin() + static_cast<std::ptrdiff_t>(values.size() / 2);
  return T{0.5} * (upper + *std::max_element(values.begin(), middle));
}

}  // namespace jolly_iris
