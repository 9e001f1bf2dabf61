// The grammar of USD's text format, as far as cameras need it: prims with attributes.
#pragma once

#include <map>
#include <string>
#include <variant>
#include <vector>

namespace jolly_iris::usda {

/// A value: a number, text, or a list of values (tuples and arrays alike).
struct Value {
  std::variant<std::monostate, double, std::string, std::vector<Value>> data{};
  int line = 0;
};

/// An attribute: its default and its time samples.
struct Attribute {
  Value value{};
  std::map<double, Value> samples{};
  int line = 0;
};

struct Prim {
  std::string type{};
  std::string name{};
  std::map<std::string, Attribute> attributes{};
  std::vector<Prim> children{};
  int line = 0;
};

struct Stage {
  std::map<std::string, Value> metadata{};
  std::vector<Prim> prims{};
};

/// @throws FileError with file and line
Stage parse(const std::string& text, const std::string& file);

}  // namespace jolly_iris::usda
