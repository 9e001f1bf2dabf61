#include "csv_table.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <charconv>
#include <sstream>

#include "disk/disk.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/optics/range.hpp"
#include "optics/nearest.hpp"

namespace jolly_iris {

namespace {

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

}  // namespace

void CsvTable::refuse(int line, const std::string& why) const {
  throw FileError(fmt::format("{}:{}: {}", file, line, why));
}

std::optional<std::size_t> CsvTable::index(const std::string& name) const {
  const auto found = std::find(columns.begin(), columns.end(), name);
  if (found == columns.end()) return std::nullopt;
  return static_cast<std::size_t>(found - columns.begin());
}

double CsvTable::number(const std::vector<std::string>& cells, const std::string& name,
                        int line) const {
  const std::string& text = cells.at(*index(name));
  double value = 0.0;
  const auto [end, error] = std::from_chars(text.data(), text.data() + text.size(), value);
  if (error != std::errc{} || end != text.data() + text.size() || !range::entry.holds(value)) {
    refuse(line, fmt::format("'{}' in the column {} is not a number {}", text, name,
                             words_of(range::entry)));
  }
  return value;
}

void CsvTable::require_known(const std::vector<std::string>& known, const std::string& of,
                             int line) const {
  const auto is_known = [&](const std::string& name) {
    return std::find(known.begin(), known.end(), name) != known.end();
  };
  // Whatever file that is, its contents are nobody's business.
  if (std::none_of(columns.begin(), columns.end(), is_known)) {
    refuse(line, fmt::format("is not {}: its first line names none of the columns {}", of,
                             fmt::join(known, ", ")));
  }
  for (const std::string& name : columns) {
    if (!is_known(name)) {
      refuse(line,
             fmt::format("'{}' is not a column of {}.{}", name, of, did_you_mean(name, known)));
    }
    if (std::count(columns.begin(), columns.end(), name) > 1) {
      refuse(line, fmt::format("the column {} stands there twice", name));
    }
  }
}

void read_csv(
    const std::string& file, const std::function<void(const CsvTable&, int)>& columns,
    const std::function<void(const CsvTable&, const std::vector<std::string>&, int)>& row) {
  std::istringstream in(read_whole_file(file));
  CsvTable table{file, {}};
  int line = 0;
  for (std::string text; std::getline(in, text);) {
    ++line;
    const std::vector<std::string> cells = cells_of(text);
    if (cells.empty() || cells[0].starts_with("#") || (cells.size() == 1 && cells[0].empty())) {
      continue;
    }
    if (table.columns.empty()) {
      table.columns = cells;
      columns(table, line);
      continue;
    }
    if (cells.size() != table.columns.size()) {
      table.refuse(line,
                   fmt::format("has {} values for {} columns", cells.size(), table.columns.size()));
    }
    row(table, cells, line);
  }
}

std::string csv_cell(const std::string& text) {
  if (text.find_first_of(",\"\r\n") == std::string::npos) return text;
  std::string out(1, '"');
  for (const char c : text) out.append(c == '"' ? 2 : 1, c);
  out.push_back('"');
  return out;
}

}  // namespace jolly_iris
