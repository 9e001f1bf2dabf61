// Rows of a shot file's lists by what people call them: "subject.boat.at" for the boat's row,
// "pull.1024.on" for the key of the focus at frame 1024, wherever in their list they stand.
#pragma once

#include <cstddef>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "toml_tree.hpp"

namespace jolly_iris {

struct NamedRow {
  std::string list{};  ///< "subject", "pull", "variant.night.pull"
  std::string name{};  ///< "boat"; a frame as its number is written shortest: "1024"
  std::string last{};  ///< "at"

  bool is_pull() const { return list != "subject"; }
  /// What tells the row apart: "name", "frame".
  const char* tells() const { return is_pull() ? "frame" : "name"; }
  std::string row(std::size_t i) const;  ///< "subject[0]"
};

/// A frame as it stands in a key; none: that is no number.
std::optional<double> frame_in(std::string_view text);

/// What a row is called, from the value that tells it apart.
std::string name_of_row(const TomlValue& value);

/// Takes a key apart; none: it names no row.
std::optional<NamedRow> named_row(const std::string& key);

/// Which of its list it is; none: there is no such row.
std::optional<std::size_t> number_of(const TomlTree& tree, const NamedRow& row);

/// What all rows of a list are called.
std::vector<std::string> names_of_rows(const TomlTree& tree, const NamedRow& row);

/// "pull[3].on" → "pull.1024.on": a key that stays what it is when rows come in between.
/// Other keys stay.
std::string lasting_key(const TomlTree& tree, const std::string& key);

/// A value for a key of the focus at a frame. A key that is not there is begun, in its order; one
/// way to focus takes the place of another; `frame` moves the key, and "none" takes it out.
void put_pull(TomlTree& tree, const NamedRow& row, const TomlValue& value);

/// Ways to say a focus, which exclude each other: "on", "at", …
bool is_focus_way(const std::string& last);

}  // namespace jolly_iris
