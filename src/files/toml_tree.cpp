#include "toml_tree.hpp"

#include <fmt/format.h>

#include <toml++/toml.h>
#include <sstream>

#include "jolly_iris/files/shot_file.hpp"
#include "nesting.hpp"

namespace jolly_iris {

namespace {

std::string place_of(const std::string& name, const toml::source_region& at) {
  return fmt::format("{}:{}:{}", name, at.begin.line, at.begin.column);
}

std::string text_of(const toml::node& node) {
  if (const auto* s = node.as_string()) return s->get();
  if (const auto* v = node.as_floating_point()) return fmt::format("{}", v->get());  // the shortest
  std::ostringstream out;
  node.visit([&](const auto& n) { out << n; });
  return out.str();
}

void flatten(const std::string& name, const std::string& key, const toml::node& node,
             TomlTree& tree);

void flatten_table(const std::string& name, const std::string& prefix, const toml::table& table,
                   TomlTree& tree) {
  for (const auto& [key, value] : table) {
    const std::string dotted =
        prefix.empty() ? std::string(key.str()) : fmt::format("{}.{}", prefix, key.str());
    flatten(name, dotted, value, tree);
  }
}

void fill_numbers(const toml::array& array, TomlValue& value) {
  auto& numbers = std::get<std::vector<double>>(value.data);
  const auto add = [&](const toml::node& item) {
    const auto number = item.value<double>();
    if (!number || item.is_boolean()) value.odd = true;
    numbers.push_back(number.value_or(0.0));
  };
  const bool lists = !array.empty() && array.is_homogeneous<toml::array>();
  for (const toml::node& item : array) {
    if (!lists) {
      add(item);
      continue;
    }
    // Rows of one length; others are told as odd.
    ++value.rows;
    const toml::array& row = *item.as_array();
    for (const toml::node& cell : row) add(cell);
    if (numbers.size() != value.rows * array[0].as_array()->size()) value.odd = true;
  }
}

void flatten_array(const std::string& name, const std::string& key, const toml::array& array,
                   TomlTree& tree) {
  const bool tables = !array.empty() && array.is_homogeneous<toml::table>();
  if (tables) {
    for (std::size_t i = 0; i < array.size(); ++i) {
      flatten(name, fmt::format("{}[{}]", key, i), array[i], tree);
    }
    return;
  }
  TomlValue value{std::vector<double>{}, place_of(name, array.source()), text_of(array)};
  fill_numbers(array, value);
  tree[key] = std::move(value);
}

void flatten(const std::string& name, const std::string& key, const toml::node& node,
             TomlTree& tree) {
  if (const auto* table = node.as_table()) return flatten_table(name, key, *table, tree);
  if (const auto* array = node.as_array()) return flatten_array(name, key, *array, tree);
  TomlValue value{text_of(node), place_of(name, node.source()), text_of(node)};
  if (const auto* b = node.as_boolean())
    value.data = b->get();
  else if (node.is_number())
    value.data = *node.value<double>();
  else
    value.odd = !node.is_string();
  tree[key] = std::move(value);
}

}  // namespace

TomlTree parse_toml(const std::string& text, const std::string& name) {
  if (toml_key_parts(text) > deepest_nesting) {
    throw ShotFileError({{name, "",
                          fmt::format("has a key of more than {} parts; no key has more than a few",
                                      deepest_nesting)}});
  }
  try {
    TomlTree tree;
    flatten_table(name, "", toml::parse(text, name), tree);
    return tree;
  } catch (const toml::parse_error& e) {
    throw ShotFileError({{place_of(name, e.source()), "", std::string(e.description())}});
  }
}

TomlValue tried_value(const std::string& text, const std::string& place) {
  TomlValue value{text, place, text, Origin::Source::tried};
  if (toml_key_parts(text) > deepest_nesting) return value;
  try {
    TomlTree tree;
    flatten_table(place, "", toml::parse("v = " + text), tree);
    const auto found = tree.find("v");
    if (tree.size() == 1 && found != tree.end() && !found->second.odd) {
      value.data = found->second.data;
      value.rows = found->second.rows;
    }
  } catch (const toml::parse_error&) {
    // Not a TOML value: plain text such as f/2.8, which is what people mostly type.
  }
  return value;
}

}  // namespace jolly_iris
