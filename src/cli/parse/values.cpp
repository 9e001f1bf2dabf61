#include "cli/parse/values.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <charconv>
#include <cmath>

namespace jolly_iris::cli {

Override override_of(const std::string& text) {
  const auto equals = text.find('=');
  if (equals == std::string::npos || equals == 0) {
    throw UsageError(fmt::format("--set {}: write KEY=VALUE, e.g. --set take.stop=f/2.8", text));
  }
  return {text.substr(0, equals), text.substr(equals + 1), "--set"};
}

std::optional<Box> box_of(const std::string& text) {
  if (text.empty()) return std::nullopt;
  std::array<int, 4> v{};
  const char* at = text.data();
  const char* end = text.data() + text.size();
  for (std::size_t i = 0; i < 4; ++i) {
    const auto [next, error] = std::from_chars(at, end, v[i]);
    const bool last = i == 3;
    if (error != std::errc{} || (last ? next != end : next == end || *next != ',')) {
      throw UsageError(fmt::format(
          "--box {}: write four whole numbers x,y,width,height, e.g. --box 800,300,200,200", text));
    }
    at = next + (last ? 0 : 1);
  }
  return Box{v[0], v[1], v[2], v[3]};
}

std::vector<Box> boxes_of(const std::vector<std::string>& texts) {
  std::vector<Box> boxes;
  for (const std::string& text : texts) {
    if (const auto box = box_of(text)) boxes.push_back(*box);
  }
  return boxes;
}

std::vector<std::string> split(const std::string& text) {
  std::vector<std::string> parts;
  std::size_t from = 0;
  while (!text.empty() && from <= text.size()) {
    const std::size_t end = std::min(text.find(',', from), text.size());
    std::string part = text.substr(from, end - from);
    part.erase(0, std::min(part.find_first_not_of(' '), part.size()));
    part.erase(part.find_last_not_of(' ') + 1);
    parts.push_back(part);
    from = end + 1;
  }
  return parts;
}

std::vector<std::string> two(const char* option, const std::string& text, const char* example) {
  std::vector<std::string> parts = split(text);
  if (parts.empty()) return parts;
  if (parts.size() != 2 || parts[0].empty() || parts[1].empty()) {
    throw UsageError(fmt::format("{} {}: write two, with a comma between, e.g. {} {}", option, text,
                                 option, example));
  }
  return parts;
}

Steps steps_of(const std::string& text, const char* option) {
  if (text.empty()) return {};
  const auto equals = text.find('=');
  Steps steps;
  steps.place = option;
  if (equals != std::string::npos && equals > 0) {
    steps.key = text.substr(0, equals);
    steps.values = split(text.substr(equals + 1));
  }
  const bool blank = std::any_of(steps.values.begin(), steps.values.end(),
                                 [](const std::string& v) { return v.empty(); });
  // A variant is tried beside the shot without it.
  const std::size_t least = tries_variants(steps) ? 1 : 2;
  if (tries_variants(steps) && (steps.values.empty() || blank)) {
    throw UsageError(fmt::format(
        "{0} {1}: write variants of the shot, e.g. {0} variant=night or {0} variant=night,wide",
        option, text));
  }
  if (steps.values.size() < least || blank) {
    throw UsageError(fmt::format(
        "{0} {1}: write a key and two or more values, e.g. {0} take.stop=f/1.8,f/2.2,f/2.8", option,
        text));
  }
  if (steps.values.size() > 24) {
    throw UsageError(fmt::format("{}: {} values are too many to look at; 24 are the most", option,
                                 steps.values.size()));
  }
  return steps;
}

std::vector<double> numbers_of(const char* option, const std::string& text, std::size_t min,
                               std::size_t max, const char* wanted) {
  std::vector<double> numbers;
  bool good = true;
  for (const std::string& part : split(text)) {
    double value = 0.0;
    const auto [end, error] = std::from_chars(part.data(), part.data() + part.size(), value);
    good = good && error == std::errc{} && end == part.data() + part.size() && std::isfinite(value);
    numbers.push_back(value);
  }
  if (!good || numbers.size() < min || numbers.size() > max) {
    throw UsageError(fmt::format("{} {}: write {}", option, text, wanted));
  }
  return numbers;
}

PxBox px_box(const char* option, const std::string& text) {
  const std::string wanted = fmt::format(
      "numbers with commas between, e.g. {} 800,300,60,40 (left, top, width, height)", option);
  const auto n = numbers_of(option, text, 4, 4, wanted.c_str());
  return {n[0], n[1], n[2], n[3]};
}

std::optional<double> number_before(const std::string& text,
                                    std::initializer_list<const char*> units) {
  double value = 0.0;
  const char* end = text.data() + text.size();
  const auto [next, error] = std::from_chars(text.data(), end, value);
  if (error != std::errc{}) return std::nullopt;
  std::string rest(next, end);
  rest.erase(0, rest.find_first_not_of(' '));
  for (const char* unit : units) {
    if (rest == unit) return value;
  }
  return std::nullopt;
}

Margin margin_of(const char* option, const std::string& text) {
  if (text.empty()) return {};
  const char* wanted = "px beside and above, e.g. 40,24; or one number for both";
  const std::size_t count = text.find(',') == std::string::npos ? 1 : 2;
  const auto m = numbers_of(option, text, count, count, wanted);
  const Margin out{static_cast<int>(m.front()), static_cast<int>(m.back())};
  if (m.front() < 0.0 || m.back() < 0.0 || m.front() != out.beside || m.back() != out.above) {
    throw UsageError(fmt::format("{} {}: write whole {}", option, text, wanted));
  }
  return out;
}

double fraction_of(const char* option, const std::string& text, const char* example) {
  auto fraction = number_before(text, {"%"});
  if (fraction) *fraction /= 100.0;
  if (!fraction) fraction = number_before(text, {""});
  if (!fraction || !(*fraction >= 0.0 && *fraction < 1.0)) {
    throw UsageError(
        fmt::format("{} {}: write a share under 100 %, e.g. {}", option, text, example));
  }
  return *fraction;
}

}  // namespace jolly_iris::cli
