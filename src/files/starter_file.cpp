#include "jolly_iris/files/starter_file.hpp"

#include <fmt/format.h>

namespace jolly_iris {

namespace {

// What stands in a comment ends with its line.
std::string on_one_line(std::string text) {
  for (char& c : text) {
    if (static_cast<unsigned char>(c) < 0x20 || c == 0x7f) c = '?';
  }
  return text;
}

std::string text_of(const StarterLine& line) {
  const std::string set = fmt::format("{}{} = {}", line.may ? "# " : "", line.key, line.value);
  if (line.comment.empty()) return set + '\n';
  return fmt::format("{:<33} # {}\n", set, on_one_line(line.comment));
}

// A table of which nothing is set is a comment as a whole.
bool is_example(const StarterSection& section) {
  for (const StarterLine& l : section.lines) {
    if (!l.may) return false;
  }
  return !section.lines.empty();
}

}  // namespace

std::string toml_text(std::string_view text) {
  std::string safe;
  for (const char c : text) {
    const auto code = static_cast<unsigned char>(c);
    if (code < 0x20 || code == 0x7f) {
      safe += fmt::format("\\u{:04X}", code);
      continue;
    }
    if (c == '"' || c == '\\') safe += '\\';
    safe += c;
  }
  return '"' + safe + '"';
}

std::string starter_text(const std::vector<std::string>& title,
                         const std::vector<StarterSection>& sections,
                         const std::vector<Guess>& guesses) {
  std::string out;
  for (const std::string& line : title) out += "# " + on_one_line(line) + '\n';
  for (const StarterSection& section : sections) {
    out += '\n';
    if (!section.name.empty()) {
      const std::string head = fmt::format("{}[{}]", is_example(section) ? "# " : "", section.name);
      out += section.comment.empty() ? head + '\n'
                                     : fmt::format("{:<33} # {}\n", head, section.comment);
    }
    for (const StarterLine& line : section.lines) out += text_of(line);
  }
  if (guesses.empty()) return out;
  out += "\n[guessed]                         # take a line off once somebody has confirmed it\n";
  for (const Guess& g : guesses) {
    out += text_of({g.key, toml_text(g.why), "settled by " + g.settle, false});
  }
  return out;
}

}  // namespace jolly_iris
