#include "named_rows.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <charconv>
#include <string_view>

namespace jolly_iris {

namespace {

using Row = std::map<std::string, TomlValue>;

// The pulls, taken out of the tree, each by what stands behind "pull[2].".
std::vector<Row> take_pulls(TomlTree& tree) {
  std::vector<Row> rows;
  for (std::size_t i = 0;; ++i) {
    const std::string prefix = fmt::format("pull[{}].", i);
    Row row;
    for (auto at = tree.lower_bound(prefix); at != tree.end() && at->first.starts_with(prefix);) {
      row.emplace(at->first.substr(prefix.size()), std::move(at->second));
      at = tree.erase(at);
    }
    if (row.empty()) return rows;
    rows.push_back(std::move(row));
  }
}

}  // namespace

std::optional<double> frame_in(std::string_view text) {
  double frame = 0.0;
  const auto [end, error] = std::from_chars(text.data(), text.data() + text.size(), frame);
  if (error != std::errc{} || end != text.data() + text.size()) return std::nullopt;
  return frame;
}

std::string name_of_row(const TomlValue& value) {
  if (const auto* frame = std::get_if<double>(&value.data)) return fmt::format("{}", *frame);
  const auto* text = std::get_if<std::string>(&value.data);
  return text == nullptr ? std::string() : *text;
}

std::string NamedRow::row(std::size_t i) const { return fmt::format("{}[{}]", list, i); }

std::optional<NamedRow> named_row(const std::string& key) {
  std::size_t begin = 0;
  if (key.starts_with("variant.")) {
    begin = key.find('.', std::string_view("variant.").size());
    if (begin == std::string::npos) return std::nullopt;
    ++begin;
  }
  const std::size_t dot = key.rfind('.');
  for (const std::string_view list : {"subject", "pull"}) {
    if (key.compare(begin, list.size(), list) != 0) continue;
    const std::size_t name = begin + list.size() + 1;
    if (key.size() <= name || key[name - 1] != '.' || dot <= name) continue;
    NamedRow row{key.substr(0, name - 1), key.substr(name, dot - name), key.substr(dot + 1)};
    if (list == "pull") {
      const auto frame = frame_in(row.name);
      if (!frame) return std::nullopt;
      row.name = fmt::format("{}", *frame);
    } else if (begin > 0) {
      return std::nullopt;  // a variant's subjects are those of the shot, by name
    }
    return row;
  }
  return std::nullopt;
}

std::vector<std::string> names_of_rows(const TomlTree& tree, const NamedRow& row) {
  std::vector<std::string> names;
  for (std::size_t i = 0;; ++i) {
    const auto at = tree.find(fmt::format("{}.{}", row.row(i), row.tells()));
    if (at == tree.end()) return names;
    names.push_back(name_of_row(at->second));
  }
}

std::optional<std::size_t> number_of(const TomlTree& tree, const NamedRow& row) {
  const std::vector<std::string> names = names_of_rows(tree, row);
  const auto found = std::find(names.begin(), names.end(), row.name);
  if (found == names.end()) return std::nullopt;
  return static_cast<std::size_t>(found - names.begin());
}

std::string lasting_key(const TomlTree& tree, const std::string& key) {
  const auto open = key.find("pull[");
  const auto close = key.find("].", open == std::string::npos ? 0 : open);
  if (open == std::string::npos || close == std::string::npos) return key;
  const auto frame = tree.find(key.substr(0, close + 2) + "frame");
  if (frame == tree.end()) return key;
  return key.substr(0, open) + "pull." + name_of_row(frame->second) + key.substr(close + 1);
}

bool is_focus_way(const std::string& last) {
  constexpr std::array<std::string_view, 11> ways{
      "on", "part", "at", "radial", "tape", "mark", "floor", "area", "off_axis", "pixel", "height"};
  return std::find(ways.begin(), ways.end(), last) != ways.end();
}

void put_pull(TomlTree& tree, const NamedRow& named, const TomlValue& value) {
  std::vector<Row> rows = take_pulls(tree);
  const auto is_it = [&](const Row& r) {
    const auto frame = r.find("frame");
    return frame != r.end() && name_of_row(frame->second) == named.name;
  };
  auto row = std::find_if(rows.begin(), rows.end(), is_it);
  const auto* text = std::get_if<std::string>(&value.data);
  if (named.last == "frame" && text != nullptr && *text == "none") {
    if (row != rows.end()) rows.erase(row);
  } else {
    if (row == rows.end()) {
      TomlValue frame = value;
      frame.data = *frame_in(named.name);
      frame.text = named.name;
      const auto later = std::find_if(rows.begin(), rows.end(), [&](const Row& r) {
        const auto at = r.find("frame");
        const auto* number = at == r.end() ? nullptr : std::get_if<double>(&at->second.data);
        return number != nullptr && *number > std::get<double>(frame.data);
      });
      row = rows.insert(later, Row{{"frame", frame}});
    }
    // Another way leads over this one only if it was given in the same breath: see make_room.
    row->insert_or_assign(named.last, value);
  }
  for (std::size_t i = 0; i < rows.size(); ++i) {
    for (auto& [last, v] : rows[i]) tree.emplace(fmt::format("pull[{}].{}", i, last), std::move(v));
  }
}

}  // namespace jolly_iris
