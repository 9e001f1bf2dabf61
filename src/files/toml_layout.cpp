#include "toml_layout.hpp"

#include <fmt/format.h>

#include <toml++/toml.h>

#include <algorithm>

#include "toml_tree.hpp"

namespace jolly_iris {

namespace {

// From lines and columns, which count letters, to bytes.
class Lines {
 public:
  explicit Lines(const std::string& text) : text_(text) {
    starts_.push_back(0);
    for (std::size_t i = 0; i < text.size(); ++i) {
      if (text[i] == '\n') starts_.push_back(i + 1);
    }
  }

  std::size_t at(const toml::source_position& place) const {
    const std::size_t line = std::min<std::size_t>(std::max(1U, place.line), starts_.size());
    std::size_t i = starts_[line - 1];
    for (toml::source_index column = 1; column < place.column && i < text_.size(); ++column) {
      do {
        ++i;
      } while (i < text_.size() && (static_cast<unsigned char>(text_[i]) & 0xC0U) == 0x80U);
    }
    return i;
  }

  std::size_t count() const { return starts_.size(); }
  TextSpan line(std::size_t i) const {
    return {starts_[i], i + 1 < starts_.size() ? starts_[i + 1] : text_.size()};
  }

 private:
  const std::string& text_;
  std::vector<std::size_t> starts_{};
};

class LayoutReader {
 public:
  LayoutReader(const std::string& text, const toml::table& root) : text_(text), lines_(text) {
    table("", root);
    headers();
  }
  TomlLayout taken() { return std::move(out_); }

 private:
  TextSpan span_of(const toml::node& node) const {
    return {lines_.at(node.source().begin), lines_.at(node.source().end)};
  }

  void table(const std::string& key, const toml::table& table) {
    if (table.is_inline()) out_.inlines[key] = span_of(table);
    for (const auto& [name, value] : table) {
      node(key.empty() ? std::string(name.str()) : fmt::format("{}.{}", key, name.str()), value);
    }
  }

  void node(const std::string& key, const toml::node& value) {
    if (const auto* t = value.as_table()) return table(key, *t);
    const auto* array = value.as_array();
    if (array != nullptr && !array->empty() && array->is_homogeneous<toml::table>()) {
      for (std::size_t i = 0; i < array->size(); ++i)
        node(fmt::format("{}[{}]", key, i), (*array)[i]);
      return;
    }
    out_.values[key] = span_of(value);
  }

  // Lines that begin with a bracket, but those within a value.
  void headers() {
    std::vector<TextSpan> taken;
    for (const auto& [key, span] : out_.values) taken.push_back(span);
    for (const auto& [key, span] : out_.inlines) taken.push_back(span);
    std::map<std::string, std::size_t> rows;
    for (std::size_t i = 0; i < lines_.count(); ++i) {
      const TextSpan line = lines_.line(i);
      const std::size_t first = text_.find_first_not_of(" \t", line.begin);
      if (first == std::string::npos || first >= line.end || text_[first] != '[') continue;
      if (std::any_of(taken.begin(), taken.end(),
                      [&](const TextSpan& s) { return s.holds(first); })) {
        continue;
      }
      out_.headers.push_back({table_named_by(text_.substr(first, line.end - first), rows), line});
    }
  }

  // "[lens.iris]" → "lens.iris"; the third "[[subject]]" → "subject[2]", and what follows it.
  static std::string table_named_by(const std::string& header,
                                    std::map<std::string, std::size_t>& rows) {
    const TomlTree tree = parse_toml(header + "\n_ = 0\n", "");
    if (tree.empty()) return {};
    std::string name = tree.begin()->first;
    name.resize(name.size() - std::string_view("._").size());
    const auto row = name.rfind("[0]");
    if (row != std::string::npos && row + 3 == name.size()) {
      name.resize(row);
      return fmt::format("{}[{}]", name, rows[name]++);
    }
    // A table below the last row of a list.
    for (const auto& [list, n] : rows) {
      if (n > 0 && name.starts_with(list + ".")) {
        return fmt::format("{}[{}]{}", list, n - 1, name.substr(list.size()));
      }
    }
    return name;
  }

  const std::string& text_;
  Lines lines_;
  TomlLayout out_{};
};

}  // namespace

TomlLayout layout_of_toml(const std::string& text, const std::string& name) {
  (void)parse_toml(text, name);  // says what is wrong with it, if anything is
  return LayoutReader(text, toml::parse(text, name)).taken();
}

}  // namespace jolly_iris
