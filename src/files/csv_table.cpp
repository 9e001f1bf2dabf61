#include "csv_table.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <charconv>
#include <string_view>
#include <utility>

#include "disk/disk.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/optics/range.hpp"
#include "optics/nearest.hpp"

namespace jolly_iris {

namespace {

std::string without_blanks(const std::string& text) {
  const auto first = text.find_first_not_of(" \t");
  if (first == std::string::npos) return {};
  return text.substr(first, text.find_last_not_of(" \t") - first + 1);
}

// Rows one after another, by RFC 4180: a cell in quotes may hold commas, line ends and, doubled,
// quotes. Spreadsheets of countries that write decimals with a comma put ; between cells.
class Rows {
 public:
  explicit Rows(std::string text) : text_(std::move(text)) {
    constexpr std::string_view byte_order_mark = "\xef\xbb\xbf";
    if (text_.starts_with(byte_order_mark)) at_ = byte_order_mark.size();
    const std::string head = text_.substr(at_, text_.find('\n', at_) - at_);
    if (head.find(',') == std::string::npos && head.find(';') != std::string::npos) between_ = ';';
  }

  /// The cells of the next row; none at the end. @param line on which it begins
  bool next(std::vector<std::string>& cells, int& line) {
    cells.clear();
    if (at_ >= text_.size()) return false;
    line = line_;
    for (bool more = true; more;) more = take_cell(cells);
    return true;
  }

 private:
  // Whether another one follows in the row.
  bool take_cell(std::vector<std::string>& cells) {
    while (at_ < text_.size() && (text_[at_] == ' ' || text_[at_] == '\t')) ++at_;
    std::string cell;
    const bool quoted = at_ < text_.size() && text_[at_] == '"';
    if (quoted) take_quoted(cell);
    const std::size_t from = at_;
    while (at_ < text_.size() && text_[at_] != between_ && text_[at_] != '\n') ++at_;
    std::string rest = text_.substr(from, at_ - from);
    if (!rest.empty() && rest.back() == '\r') rest.pop_back();
    cells.push_back(quoted ? cell + without_blanks(rest) : without_blanks(rest));
    if (at_ >= text_.size()) return false;
    const bool ends = text_[at_++] == '\n';
    if (ends) ++line_;
    return !ends;
  }

  void take_quoted(std::string& cell) {
    for (++at_; at_ < text_.size(); ++at_) {
      if (text_[at_] == '\n') ++line_;
      if (text_[at_] != '"') {
        cell.push_back(text_[at_]);
      } else if (at_ + 1 < text_.size() && text_[at_ + 1] == '"') {
        cell.push_back(text_[at_++]);
      } else {
        ++at_;
        return;
      }
    }
  }

  std::string text_;
  std::size_t at_ = 0;
  int line_ = 1;
  char between_ = ',';
};

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
  Rows rows(read_whole_file(file));
  CsvTable table{file, {}};
  int line = 0;
  std::vector<std::string> cells;
  while (rows.next(cells, line)) {
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
