// Small tables as any spreadsheet writes them: the first line names the columns, in any order;
// lines that begin with # are comments.
#pragma once

#include <functional>
#include <optional>
#include <string>
#include <vector>

#include "jolly_iris/export.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

struct CsvTable {
  std::string file{};
  std::vector<std::string> columns{};

  /// @throws FileError "FILE:LINE: why"
  [[noreturn]] void refuse(int line, const std::string& why) const;
  std::optional<std::size_t> index(const std::string& name) const;
  /// A finite number of a row. @throws FileError
  double number(const std::vector<std::string>& cells, const std::string& name, int line) const;
  /// Every column is one of these, and there once. @param of "a camera track", for messages
  void require_known(const std::vector<std::string>& known, const std::string& of, int line) const;
};

/// A cell as it is written: quoted where a comma, a quote or a line's end is in it (RFC 4180).
std::string csv_cell(const std::string& text);

/// Goes through a table: `columns` once, then `row` for each row.
/// @throws FileError for a row of another length, and what the two throw
void read_csv(
    const std::string& file, const std::function<void(const CsvTable&, int)>& columns,
    const std::function<void(const CsvTable&, const std::vector<std::string>&, int)>& row);

}  // namespace jolly_iris
