#include "camera_track.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <charconv>
#include <cmath>
#include <sstream>

#include "jolly_iris/disk.hpp"
#include "jolly_iris/errors.hpp"
#include "jolly_iris/nearest.hpp"

namespace jolly_iris {

namespace {

const std::vector<std::string> known_columns{"frame", "x",  "y",  "z",  "pan", "tilt",
                                             "roll",  "qx", "qy", "qz", "qw",  "focal_mm"};

std::vector<std::string> cells_of(std::string line) {
  std::vector<std::string> cells;
  if (!line.empty() && line.back() == '\r') line.pop_back();
  std::istringstream in(line);
  for (std::string cell; std::getline(in, cell, ',');) {
    const auto first = cell.find_first_not_of(" \t\"");
    const auto last = cell.find_last_not_of(" \t\"");
    cells.push_back(first == std::string::npos ? "" : cell.substr(first, last - first + 1));
  }
  return cells;
}

struct Table {
  std::string file;
  std::vector<std::string> columns;

  [[noreturn]] void refuse(int line, const std::string& why) const {
    throw FileError(fmt::format("{}:{}: {}", file, line, why));
  }
  std::optional<std::size_t> index(const std::string& name) const {
    const auto found = std::find(columns.begin(), columns.end(), name);
    if (found == columns.end()) return std::nullopt;
    return static_cast<std::size_t>(found - columns.begin());
  }
  double number(const std::vector<std::string>& cells, const std::string& name, int line) const {
    const std::string& text = cells.at(*index(name));
    double value = 0.0;
    const auto [end, error] = std::from_chars(text.data(), text.data() + text.size(), value);
    if (error != std::errc{} || end != text.data() + text.size() || !std::isfinite(value)) {
      refuse(line, fmt::format("'{}' in the column {} is not a number", text, name));
    }
    return value;
  }
};

void check_columns(const Table& table, int line) {
  for (const std::string& name : table.columns) {
    if (std::find(known_columns.begin(), known_columns.end(), name) == known_columns.end()) {
      table.refuse(line, fmt::format("'{}' is not a column of a camera track.{}", name,
                                     did_you_mean(name, known_columns)));
    }
    if (std::count(table.columns.begin(), table.columns.end(), name) > 1) {
      table.refuse(line, fmt::format("the column {} stands there twice", name));
    }
  }
  const bool angles = table.index("pan") && table.index("tilt") && table.index("roll");
  const bool quaternion =
      table.index("qx") && table.index("qy") && table.index("qz") && table.index("qw");
  const bool place =
      table.index("frame") && table.index("x") && table.index("y") && table.index("z");
  if (!place || angles == quaternion) {
    table.refuse(line,
                 "a camera track needs the columns frame, x, y, z, and either pan, tilt, roll or "
                 "qx, qy, qz, qw; focal_mm may follow");
  }
}

TrackRow row_of(const Table& table, const std::vector<std::string>& cells, int line) {
  const auto get = [&](const char* name) { return table.number(cells, name, line); };
  TrackRow row;
  row.frame = get("frame");
  row.place = {get("x"), get("y"), get("z")};
  if (table.index("pan")) {
    row.pan_tilt_roll = {get("pan"), get("tilt"), get("roll")};
  } else {
    row.rotation = {get("qx"), get("qy"), get("qz"), get("qw")};
    const auto& q = *row.rotation;
    if (!(q[0] * q[0] + q[1] * q[1] + q[2] * q[2] + q[3] * q[3] > 1e-12)) {
      table.refuse(line, "the rotation is all zeros, which turns nowhere; none is 0, 0, 0, 1");
    }
  }
  if (table.index("focal_mm")) {
    row.focal = Length::from_mm(get("focal_mm"));
    if (!(row.focal->mm() > 0.0)) {
      table.refuse(line,
                   fmt::format("the focal length of {:g} mm is not above zero", row.focal->mm()));
    }
  }
  return row;
}

}  // namespace

std::vector<TrackRow> read_track(const std::string& file) {
  std::istringstream in(read_whole_file(file));
  Table table{file, {}};
  std::vector<TrackRow> rows;
  int line = 0;
  for (std::string text; std::getline(in, text);) {
    ++line;
    const std::vector<std::string> cells = cells_of(text);
    if (cells.empty() || cells[0].starts_with("#") || (cells.size() == 1 && cells[0].empty())) {
      continue;
    }
    if (table.columns.empty()) {
      table.columns = cells;
      check_columns(table, line);
      continue;
    }
    if (cells.size() != table.columns.size()) {
      table.refuse(line,
                   fmt::format("has {} values for {} columns", cells.size(), table.columns.size()));
    }
    rows.push_back(row_of(table, cells, line));
    if (rows.size() > 1 && !(rows.back().frame > rows[rows.size() - 2].frame)) {
      table.refuse(line, fmt::format("frame {:g} does not come after frame {:g}", rows.back().frame,
                                     rows[rows.size() - 2].frame));
    }
  }
  if (rows.empty()) throw FileError(file + ": has no row of a camera track");
  return rows;
}

}  // namespace jolly_iris
