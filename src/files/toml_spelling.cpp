#include <fmt/format.h>

#include <cmath>

#include "jolly_iris/files/shot_edit.hpp"
#include "jolly_iris/files/starter_file.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/optics/quantity.hpp"
#include "toml_tree.hpp"

namespace jolly_iris {

std::string typed_spelling(const std::string& toml) {
  const TomlTree tree = parse_toml("v = " + toml, "value");
  const auto v = tree.find("v");
  return v == tree.end() ? std::string() : v->second.text;
}

namespace {

// The unit that a text of one quantity ends with: "m" of "2.4 m"; empty: it is no such text.
std::string unit_at_end(const std::string& text) {
  const auto last = text.find_last_of("0123456789.");
  if (last == std::string::npos || text.find_first_not_of("+-0123456789. ") <= last) return {};
  const auto begin = text.find_first_not_of(' ', last + 1);
  return begin == std::string::npos ? std::string() : text.substr(begin);
}

// The shortest number with a unit that reads as the same quantity.
template <class Read>
std::string shortest(double number, const std::string& unit, const Read& same) {
  for (int digits = 3; digits < 17; ++digits) {
    std::string text = fmt::format("{:.{}g} {}", number, digits, unit);
    const bool plain = text.find('e') >= text.find(' ');  // no power of ten in the number
    if (plain && same(text)) return text;
  }
  return {};
}

// The same in the unit of another text; empty where there is no such way to say it.
std::string in_unit_of(const std::string& typed, const std::string& other) {
  const std::string unit = unit_at_end(other);
  if (unit.empty() || unit == unit_at_end(typed)) return {};
  constexpr double equal = 1e-9;  // far below what a scale can be read to
  const auto near = [](double a, double b) { return std::abs(a - b) <= equal * std::abs(b); };
  try {
    const double mm = parse_length(typed).mm();
    return shortest(mm / parse_length("1 " + unit).mm(), unit,
                    [&](const std::string& text) { return near(parse_length(text).mm(), mm); });
  } catch (const QuantityError&) {
  }
  try {
    const double radians = parse_angle(typed).radians();
    return shortest(
        radians / parse_angle("1 " + unit).radians(), unit,
        [&](const std::string& text) { return near(parse_angle(text).radians(), radians); });
  } catch (const QuantityError&) {
  }
  return {};
}

}  // namespace

std::string toml_spelling(const std::string& typed, const std::optional<std::string>& before) {
  if (!std::holds_alternative<std::string>(tried_value(typed, "").data)) return typed;
  if (!before) return toml_text(typed);
  const TomlValue old = tried_value(*before, "");
  const std::string* text = std::get_if<std::string>(&old.data);
  const std::string same = text == nullptr ? std::string() : in_unit_of(typed, *text);
  return toml_text(same.empty() ? typed : same);
}

}  // namespace jolly_iris
