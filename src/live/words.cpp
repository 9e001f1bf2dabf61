#include "live/words.hpp"

#include <fmt/format.h>

#include <charconv>
#include <cmath>

#include "jolly_iris/optics/errors.hpp"

namespace jolly_iris::live {

const std::string& word(const Words& words, const std::string& name) {
  static const std::string none;
  const auto found = words.find(name);
  return found == words.end() ? none : found->second;
}

double number(const Words& words, const std::string& name) {
  const std::string& text = word(words, name);
  double value = 0.0;
  const auto [end, error] = std::from_chars(text.data(), text.data() + text.size(), value);
  if (error != std::errc{} || end != text.data() + text.size() || !std::isfinite(value)) {
    throw UsageError(fmt::format("{} is to be a number", name));
  }
  return value;
}

int whole_number(const Words& words, const std::string& name, int least, int most) {
  const double value = number(words, name);
  if (!(value >= least && value <= most) || value != std::floor(value)) {
    throw UsageError(fmt::format("{} is to be a whole number from {} to {}", name, least, most));
  }
  return static_cast<int>(value);
}

bool has(const Words& words, const std::string& name) { return words.contains(name); }

}  // namespace jolly_iris::live
