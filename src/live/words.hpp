// The words of a question, read with care: they come from outside.
#pragma once

#include <string>

#include "live/desk.hpp"

namespace jolly_iris::live {

/// The first of that name; empty: there is none.
const std::string& word(const Words& words, const std::string& name);
bool has(const Words& words, const std::string& name);
/// @throws UsageError unless it is a finite number
double number(const Words& words, const std::string& name);
/// @throws UsageError unless it is a whole number from `least` to `most`
int whole_number(const Words& words, const std::string& name, int least, int most);

inline constexpr int largest_side = 16384;  ///< px of a screen, generously

}  // namespace jolly_iris::live
