// From what was typed to values, with a sentence for what cannot be meant.
#pragma once

#include <functional>
#include <initializer_list>
#include <optional>
#include <string>
#include <utility>
#include <vector>

#include "jolly_iris/files/shot_file.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/optics/sharpness.hpp"
#include "jolly_iris/picture/picture.hpp"
#include "jolly_iris/workflow/exposure_look.hpp"
#include "jolly_iris/workflow/lens_tries.hpp"

namespace jolly_iris::cli {

/// "take.stop=f/2.8". All of these: @throws UsageError naming the option and what would be right
Override override_of(const std::string& text);
/// "800,300,200,200"; nothing for nothing.
std::optional<Box> box_of(const std::string& text);
std::vector<Box> boxes_of(const std::vector<std::string>& texts);
/// "a, b" → a and b, without blanks around them.
std::vector<std::string> split(const std::string& text);
/// Two of them; none for nothing.
std::vector<std::string> two(const char* option, const std::string& text, const char* example);
/// "take.stop=f/1.8,f/2.2"; no steps for nothing.
Steps steps_of(const std::string& text, const char* option);
/// "12, 40.5" → numbers, of which there are `min` to `max`.
std::vector<double> numbers_of(const char* option, const std::string& text, std::size_t min,
                               std::size_t max, const char* wanted);
/// "800,300,60,40": left, top, width, height.
PxBox px_box(const char* option, const std::string& text);
/// "2 stops/s" → 2: a number and exactly one of these words.
std::optional<double> number_before(const std::string& text,
                                    std::initializer_list<const char*> units);

/// "40,24" or "40": px that a picture has beyond the frame; none for nothing.
Margin margin_of(const char* option, const std::string& text);

/// "5 %" or "0.05" → 0.05, from 0 up to but not 1.
double fraction_of(const char* option, const std::string& text, const char* example);

/// One of these words.
template <class Value>
Value one_of(const char* option, const std::string& text,
             std::initializer_list<std::pair<const char*, Value>> choices) {
  std::string names;
  for (const auto& [name, value] : choices) {
    if (text == name) return value;
    names += std::string(names.empty() ? "" : ", ") + name;
  }
  throw UsageError(std::string(option) + " " + text + ": write one of " + names);
}

/// What the library refuses is said with the option that asked for it.
template <class Work>
auto for_option(const std::string& option, const Work& work) {
  try {
    return work();
  } catch (const UsageError& e) {
    throw UsageError(option + ": " + e.what());
  }
}

/// The same of --box, where boxes were given.
template <class Work>
auto for_boxes(const std::vector<Box>& boxes, const Work& work) {
  return boxes.empty() ? work() : for_option("--box", work);
}

}  // namespace jolly_iris::cli
