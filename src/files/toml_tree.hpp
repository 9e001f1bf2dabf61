// A TOML file as a flat map from dotted keys to values that know their place. The only files that
// include toml++ are toml_tree.cpp and toml_layout.cpp.
#pragma once

#include <map>
#include <string>
#include <variant>
#include <vector>

#include "jolly_iris/optics/shot.hpp"

namespace jolly_iris {

/// A value as TOML has it. Dates stay text, so that a message can show them.
struct TomlValue {
  std::variant<std::string, double, bool, std::vector<double>> data{};
  std::string place{};
  std::string text{};  ///< as a person would write it, for messages
  Origin::Source source = Origin::Source::noted;
  std::size_t rows = 0;  ///< of a list of lists of numbers, which `data` has one after the other
  bool odd = false;      ///< a kind no key takes: a date, an array of other things
};

/// Keys like "take.stop" and, in arrays of tables, "subject[0].name".
using TomlTree = std::map<std::string, TomlValue>;

/// Parses TOML text; `name` is for places. @throws ShotFileError for a syntax error
TomlTree parse_toml(const std::string& text, const std::string& name);

/// A value given for one run: TOML numbers, truths and arrays, everything else text.
/// @param place the origin it is told with
TomlValue tried_value(const std::string& text, const std::string& place);

}  // namespace jolly_iris
