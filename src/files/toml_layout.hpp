// Where in a TOML file's text everything stands.
#pragma once

#include <cstddef>
#include <map>
#include <string>
#include <vector>

namespace jolly_iris {

/// Bytes of a text, from … to (not included).
struct TextSpan {
  std::size_t begin = 0;
  std::size_t end = 0;
  bool holds(std::size_t at) const { return begin <= at && at < end; }
};

struct TomlLayout {
  /// A line "[lens.iris]" or "[[subject]]".
  struct Header {
    std::string table{};  ///< as keys have it: "lens.iris", "subject[2]"
    TextSpan line{};      ///< with its end
  };
  std::map<std::string, TextSpan> values{};   ///< by the keys of toml_tree.hpp
  std::map<std::string, TextSpan> inlines{};  ///< tables in braces, with them
  std::vector<Header> headers{};              ///< from top to bottom
};

/// @throws ShotFileError for a syntax error
TomlLayout layout_of_toml(const std::string& text, const std::string& name);

}  // namespace jolly_iris
