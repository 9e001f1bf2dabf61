#include "jolly_iris/files/shot_edit.hpp"

#include <fmt/format.h>

#include "jolly_iris/files/shot_file.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "named_rows.hpp"
#include "toml_editor.hpp"
#include "toml_layout.hpp"
#include "toml_tree.hpp"

namespace jolly_iris {

namespace {

std::string said_of(const TomlValue& value) {
  return fmt::format("{} {}", value.data.index(), value.text);
}

// What a file says, without where.
std::map<std::string, std::string> said_by(const std::string& text, const std::string& name) {
  std::map<std::string, std::string> said;
  const TomlTree tree = parse_toml(text, name);
  for (const auto& [key, value] : tree) {
    said[lasting_key(tree, key)] = said_of(value);
  }
  // `lens = "FILE"` is short for this.
  for (const char* section : {"lens", "body"}) {
    if (auto found = said.extract(section)) {
      found.key() = std::string(section) + ".file";
      said.insert(std::move(found));
    }
  }
  return said;
}

// A row is called otherwise from now on, or is gone.
void expect_row(std::map<std::string, std::string>& said, const std::string& row,
                const std::string& then) {
  std::map<std::string, std::string> moved;
  const std::string prefix = row + ".";
  for (const auto& [key, value] : said) {
    if (key.starts_with(prefix)) moved[key.substr(prefix.size())] = value;
  }
  std::erase_if(said, [&](const auto& entry) { return entry.first.starts_with(prefix); });
  if (then.empty()) return;
  for (const auto& [last, value] : moved) said[fmt::format("{}.{}", then, last)] = value;
}

// What the file says after an edit if all else says what it said.
void expect(const ShotEdit& edit, const TomlValue& value,
            const std::map<std::string, std::string>& now,
            std::map<std::string, std::string>& said) {
  const auto row = named_row(edit.key);
  std::string key = edit.key;
  if (row && row->is_pull()) {
    const std::string whole = row->list + "." + row->name;
    key = whole + "." + row->last;
    if (row->last == "frame") {
      const std::string then = edit.value ? row->list + "." + name_of_row(value) : "";
      expect_row(said, whole, then);
      key = then + ".frame";
    } else if (edit.value && now.contains(whole + ".frame")) {
      said[whole + ".frame"] = now.at(whole + ".frame");  // a key that was begun
    }
  } else if (row) {
    // Subjects are counted, and a new one is the last.
    const auto named = [&](std::size_t i) {
      const auto found = now.find(fmt::format("{}.name", row->row(i)));
      return found == now.end() ? std::string() : found->second;
    };
    const std::string mine = fmt::format("0 {}", row->name);  // as said_of says a text
    std::size_t i = 0;
    while (!named(i).empty() && named(i) != mine) ++i;
    key = row->row(i) + "." + row->last;
    if (edit.value) said[row->row(i) + ".name"] = now.at(row->row(i) + ".name");
  }
  if (edit.value) {
    said[key] = said_of(value);
  } else {
    said.erase(key);
  }
}

}  // namespace

std::string edited_shot(const std::string& text, const std::string& name,
                        const std::vector<ShotEdit>& edits) {
  auto wanted = said_by(text, name);
  std::string edited = text;
  for (const ShotEdit& edit : edits) {
    const auto failed = [&](const std::string& why) {
      throw FileError(fmt::format("{}: {} cannot be {}: {}; nothing is changed", name, edit.key,
                                  edit.value ? "set to " + *edit.value : "taken out", why));
    };
    const std::string lasting = lasting_key(parse_toml(edited, name), edit.key);
    TomlTree value;
    if (edit.value) {
      try {
        value = parse_toml("v = " + *edit.value, name);
      } catch (const ShotFileError& e) {
        failed(e.mistakes().front().message);
      }
      if (value.size() != 1 || !value.contains("v")) failed("that is no one value");
    }
    try {
      edited = with_edit(edited, name, edit);
    } catch (const ShotFileError& e) {
      failed(e.mistakes().front().message);
    }
    const auto now = said_by(edited, name);
    expect({lasting, edit.value}, edit.value ? value.at("v") : TomlValue{}, now, wanted);
    if (now != wanted) failed("something else would change");
  }
  return edited;
}

std::optional<std::string> written_value(const std::string& text, const std::string& name,
                                         const std::string& key) {
  std::string numbered = key;
  if (const auto row = named_row(key)) {
    const auto i = number_of(parse_toml(text, name), *row);
    if (!i) return std::nullopt;
    numbered = row->row(*i) + "." + row->last;
  }
  const TomlLayout layout = layout_of_toml(text, name);
  const auto found = layout.values.find(numbered);
  if (found == layout.values.end()) return std::nullopt;
  return text.substr(found->second.begin, found->second.end - found->second.begin);
}

std::vector<std::string> written_keys(const std::string& text, const std::string& name,
                                      const std::string& prefix) {
  std::vector<std::string> keys;
  for (const auto& [key, value] : parse_toml(text, name)) {
    if (key.starts_with(prefix)) keys.push_back(key);
  }
  return keys;
}

}  // namespace jolly_iris
