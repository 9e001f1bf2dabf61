#include "nesting.hpp"

#include <algorithm>

namespace jolly_iris {

namespace {

// Where the text in quotes ends that begins at `at`: behind its last quote, or at the text's end.
std::size_t behind_quotes(std::string_view text, std::size_t at, bool escapes) {
  const char quote = text[at];
  const std::string_view three = text.substr(at, 3);
  const bool lines = three.size() == 3 && three[1] == quote && three[2] == quote;
  for (std::size_t i = at + (lines ? 3 : 1); i < text.size(); ++i) {
    if (escapes && text[i] == '\\') {
      ++i;
    } else if (text[i] == quote && !lines) {
      return i + 1;
    } else if (text[i] == '\n' && !lines) {
      return i;  // a mistake, which the reader tells
    } else if (lines && text.substr(i, 3) == three) {
      return i + 3;
    }
  }
  return text.size();
}

bool in_key(char c) {
  return (c >= 'a' && c <= 'z') || (c >= 'A' && c <= 'Z') || (c >= '0' && c <= '9') || c == '_' ||
         c == '-' || c == '+' || c == ' ' || c == '\t' || static_cast<unsigned char>(c) >= 0x80;
}

}  // namespace

std::size_t json_depth(std::string_view json) {
  std::size_t depth = 0;
  std::size_t deepest = 0;
  for (std::size_t i = 0; i < json.size(); ++i) {
    const char c = json[i];
    if (c == '"') {
      while (++i < json.size() && json[i] != '"') {
        if (json[i] == '\\') ++i;
      }
    } else if (c == '[' || c == '{') {
      deepest = std::max(deepest, ++depth);
    } else if ((c == ']' || c == '}') && depth > 0) {
      --depth;
    }
  }
  return deepest;
}

std::size_t toml_key_parts(std::string_view toml) {
  std::size_t parts = 1;
  std::size_t most = 1;
  for (std::size_t i = 0; i < toml.size();) {
    const char c = toml[i];
    if (c == '#') {
      i = std::min(toml.find('\n', i), toml.size());
    } else if (c == '"' || c == '\'') {
      i = behind_quotes(toml, i, c == '"');
    } else {
      if (c == '.') {
        most = std::max(most, ++parts);
      } else if (!in_key(c)) {
        parts = 1;
      }
      ++i;
    }
  }
  return most;
}

}  // namespace jolly_iris
