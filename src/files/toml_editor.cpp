#include "toml_editor.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cctype>

#include "jolly_iris/files/starter_file.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "named_rows.hpp"
#include "toml_layout.hpp"
#include "toml_tree.hpp"

namespace jolly_iris {

namespace {

struct KeyParts {
  std::string table{};  // "lens.iris"; empty: none
  std::string last{};   // "blades"
};

KeyParts parts_of(const std::string& key) {
  const auto dot = key.rfind('.');
  if (dot == std::string::npos) return {"", key};
  return {key.substr(0, dot), key.substr(dot + 1)};
}

bool is_bare(const std::string& part) {
  return !part.empty() && std::all_of(part.begin(), part.end(), [](unsigned char c) {
    return (c < 0x80 && std::isalnum(c) != 0) || c == '_' || c == '-';
  });
}

// A dotted key as it is written: parts that are not plain are in quotes.
std::string written_key(const std::string& key) {
  std::string out;
  for (std::size_t begin = 0; begin <= key.size();) {
    const std::size_t end = std::min(key.find('.', begin), key.size());
    const std::string part = key.substr(begin, end - begin);
    out += (out.empty() ? "" : ".") + (is_bare(part) ? part : toml_text(part));
    begin = end + 1;
  }
  return out;
}

class Editor {
 public:
  Editor(std::string text, std::string name) : text_(std::move(text)), name_(std::move(name)) {
    // What is written below a line begins on one of its own, as the file's other lines end.
    newline_ = text_.find("\r\n") != std::string::npos ? "\r\n" : "\n";
    look();
  }

  void make(const ShotEdit& edit) {
    const auto row = named_row(edit.key);
    if (row && row->is_pull() && row->last == "frame" && !edit.value) {
      if (const auto i = number_of(tree(), *row)) take_row_out(row->row(*i));
      look();
      return;
    }
    const std::string key = row ? numbered(*row, edit) : edit.key;
    if (key.empty()) return;
    const auto found = layout_.values.find(key);
    if (!edit.value) {
      if (found != layout_.values.end()) take_out(found->second);
    } else if (found != layout_.values.end()) {
      replace(found->second, *edit.value);
    } else {
      add(key, *edit.value);
    }
    look();
  }

  const std::string& text() const { return text_; }

 private:
  [[noreturn]] void refuse(const std::string& key, const std::string& why) const {
    throw FileError(fmt::format("{}: {} {}; nothing is changed", name_, key, why));
  }

  void look() { layout_ = layout_of_toml(text_, name_); }
  TomlTree tree() const { return parse_toml(text_, name_); }

  // "subject.boat.at" → "subject[0].at"; a row that is not there is begun. Empty: nothing to do.
  std::string numbered(const NamedRow& row, const ShotEdit& edit) {
    const TomlTree now = tree();
    if (const auto i = number_of(now, row)) return row.row(*i) + "." + row.last;
    if (!edit.value) return {};
    if (layout_.inlines.contains(row.row(0))) {
      refuse(edit.key,
             fmt::format("is to be among {0}s in braces; write them as [[{0}]]", row.list));
    }
    const std::vector<std::string> names = names_of_rows(now, row);
    std::size_t i = names.size();
    std::size_t at = text_.size();
    if (row.is_pull()) {
      const auto frame = frame_in(row.name);
      while (i > 0 && frame_in(names[i - 1]) > frame) --i;
      if (!names.empty()) at = i < names.size() ? row_begin(row.row(i)) : row_end(row.row(i - 1));
    }
    const std::string name = row.is_pull() ? row.name : toml_text(row.name);
    const std::string begun = fmt::format("[[{}]]{}{} = {}{}", written_key(row.list), newline_,
                                          row.tells(), name, newline_);
    if (at == text_.size()) {
      end_with_line();
      text_ += newline_ + begun;
    } else {
      text_.insert(at, i < names.size() ? begun + newline_ : newline_ + begun);
    }
    look();
    return row.row(i) + "." + row.last;
  }

  const TomlLayout::Header* header_of(const std::string& table) const {
    for (const TomlLayout::Header& header : layout_.headers) {
      if (header.table == table) return &header;
    }
    return nullptr;
  }

  // With the comments right above its heading, which speak of it.
  std::size_t row_begin(const std::string& row) const {
    const TomlLayout::Header* header = header_of(row);
    if (header == nullptr) refuse(row, "has no heading of its own");
    std::size_t begin = header->line.begin;
    while (begin > 0) {
      const std::size_t above = line_begin(begin - 1);
      const std::size_t word = text_.find_first_not_of(" \t", above);
      if (text_[word] != '#') break;
      begin = above;
    }
    return begin;
  }

  std::size_t row_end(const std::string& row) const {
    const TextSpan* last = last_sibling(row);
    if (last == nullptr) refuse(row, "has nothing in it");
    return line_end(last->end);
  }

  void take_row_out(const std::string& row) {
    const TomlLayout::Header* header = header_of(row);
    if (header == nullptr) refuse(row, "has no heading of its own");
    const std::size_t begin = header->line.begin;
    std::size_t end = row_end(row);
    const std::size_t next = text_.find_first_not_of(" \t\r\n", end);
    if (next == std::string::npos || text_[next] == '[')
      end = next == std::string::npos ? end : next;
    text_.erase(begin, end - begin);
  }

  std::size_t line_begin(std::size_t at) const {
    const auto before = at == 0 ? std::string::npos : text_.rfind('\n', at - 1);
    return before == std::string::npos ? 0 : before + 1;
  }
  std::size_t line_end(std::size_t at) const {
    const auto end = text_.find('\n', at);
    return end == std::string::npos ? text_.size() : end + 1;
  }

  void end_with_line() {
    if (!text_.empty() && text_.back() != '\n') text_ += newline_;
  }

  // A comment behind the value stays in its column where there is room for that.
  void replace(const TextSpan& span, const std::string& value) {
    const std::string old = text_.substr(span.begin, span.end - span.begin);
    if (old == value) return;
    const std::size_t comment = text_.find_first_not_of(" \t", span.end);
    const bool has_comment =
        comment != std::string::npos && text_[comment] == '#' && comment > span.end;
    std::size_t end = span.end;
    std::string gap;
    if (has_comment) {
      const auto column = static_cast<std::ptrdiff_t>(comment - span.begin);
      const auto wide = static_cast<std::ptrdiff_t>(value.size());
      gap = std::string(static_cast<std::size_t>(std::max<std::ptrdiff_t>(1, column - wide)), ' ');
      end = comment;
    }
    text_.replace(span.begin, end - span.begin, value + gap);
  }

  // Where the key of a value begins: backwards over "blades = ".
  std::size_t key_begin(const TextSpan& value) const {
    std::size_t i = text_.rfind('=', value.begin);
    if (i == std::string::npos) refuse("a value", "has no key in front of it");
    bool quoted = false;
    char quote = '"';
    while (i > 0) {
      const char c = text_[i - 1];
      if (quoted) {
        quoted = c != quote;
      } else if (c == '"' || c == '\'') {
        quoted = true;
        quote = c;
      } else if (c == '\n' || c == ',' || c == '{') {
        break;
      }
      --i;
    }
    return text_.find_first_not_of(" \t", i);
  }

  std::string key_text(const TextSpan& value) const {
    const std::size_t begin = key_begin(value);
    std::string key = text_.substr(begin, text_.rfind('=', value.begin) - begin);
    key.erase(key.find_last_not_of(" \t") + 1);
    return key;
  }

  // The innermost table in braces that a place is in; nothing: none.
  const TextSpan* braces_around(std::size_t at) const {
    const TextSpan* inner = nullptr;
    for (const auto& [key, span] : layout_.inlines) {
      if (span.holds(at) && (inner == nullptr || span.begin > inner->begin)) inner = &span;
    }
    return inner;
  }

  void take_out(const TextSpan& value) {
    const std::size_t begin = key_begin(value);
    if (const TextSpan* braces = braces_around(begin)) {
      std::size_t from = begin;
      std::size_t to = text_.find_first_not_of(" \t", value.end);
      if (to != std::string::npos && text_[to] == ',') {
        to = text_.find_first_not_of(" \t", to + 1);
      } else {
        const std::size_t comma = text_.find_last_not_of(" \t", begin - 1);
        if (comma != std::string::npos && comma > braces->begin && text_[comma] == ',')
          from = comma;
        to = value.end;
      }
      text_.erase(from, to - from);
      return;
    }
    const std::size_t from = line_begin(begin);
    text_.erase(from, line_end(value.end) - from);
  }

  // ---- what is new
  // --------------------------------------------------------------------------------

  void add(const std::string& key, const std::string& value) {
    const KeyParts parts = parts_of(key);
    const auto braces = layout_.inlines.find(parts.table);
    if (braces != layout_.inlines.end()) {
      return into_braces(braces->second, written_key(parts.last), value);
    }
    if (const TextSpan* beside = last_sibling(parts.table))
      return below(*beside, parts.last, value);
    for (const TomlLayout::Header& header : layout_.headers) {
      if (header.table != parts.table) continue;
      insert_line(header.line.end, written_key(parts.last) + " = " + value);
      return;
    }
    if (parts.table.empty()) {
      const std::size_t at = layout_.headers.empty() ? text_.size() : layout_.headers[0].line.begin;
      insert_line(at, written_key(parts.last) + " = " + value);
      return;
    }
    if (into_ancestor(key, value)) return;
    end_with_line();
    text_ += fmt::format("{0}[{1}]{0}{2} = {3}{0}", newline_, written_key(parts.table),
                         written_key(parts.last), value);
  }

  // The last value that stands directly in a table.
  const TextSpan* last_sibling(const std::string& table) const {
    const TextSpan* last = nullptr;
    for (const auto& [key, span] : layout_.values) {
      if (parts_of(key).table == table && (last == nullptr || span.begin > last->begin))
        last = &span;
    }
    return last;
  }

  void below(const TextSpan& sibling, const std::string& last, const std::string& value) {
    const std::string beside = key_text(sibling);
    const auto dot = beside.rfind('.');  // keys of ours that have a dot in quotes are no siblings
    const std::string key =
        (dot == std::string::npos ? "" : beside.substr(0, dot + 1)) + written_key(last);
    if (braces_around(sibling.begin) != nullptr) {
      text_.insert(sibling.end, fmt::format(", {} = {}", key, value));
      return;
    }
    const std::size_t begin = line_begin(key_begin(sibling));
    const std::string indent = text_.substr(begin, key_begin(sibling) - begin);
    insert_line(line_end(sibling.end), indent + key + " = " + value);
  }

  void into_braces(const TextSpan& braces, const std::string& key, const std::string& value) {
    const std::size_t close = braces.end - 1;
    const std::size_t last = text_.find_last_not_of(" \t", close - 1);
    const bool empty = last == braces.begin;
    text_.insert(last + 1, fmt::format("{} {} = {}{}", empty ? "" : ",", key, value,
                                       empty && close == last + 1 ? " " : ""));
  }

  // `lens = { … }` and `lens = "FILE"` take what belongs below them into their braces.
  bool into_ancestor(const std::string& key, const std::string& value) {
    for (std::size_t dot = key.rfind('.'); dot != std::string::npos && dot > 0;
         dot = key.rfind('.', dot - 1)) {
      const std::string above = key.substr(0, dot);
      const std::string rest = written_key(key.substr(dot + 1));
      const auto braces = layout_.inlines.find(above);
      if (braces != layout_.inlines.end()) {
        into_braces(braces->second, rest, value);
        return true;
      }
      const auto file = layout_.values.find(above);
      if (file == layout_.values.end()) continue;
      if (above != "lens" && above != "body") refuse(key, "stands below a value, " + above);
      const std::string name =
          text_.substr(file->second.begin, file->second.end - file->second.begin);
      text_.replace(file->second.begin, name.size(),
                    fmt::format("{{ file = {}, {} = {} }}", name, rest, value));
      return true;
    }
    return false;
  }

  void insert_line(std::size_t at, const std::string& line) {
    std::string before;
    if (at > 0 && text_[at - 1] != '\n') before = newline_;
    text_.insert(at, before + line + newline_);
  }

  std::string text_;
  std::string name_;
  std::string newline_;
  TomlLayout layout_{};
};

}  // namespace

std::string with_edit(const std::string& text, const std::string& name, const ShotEdit& edit) {
  Editor editor(text, name);
  editor.make(edit);
  return editor.text();
}

}  // namespace jolly_iris
