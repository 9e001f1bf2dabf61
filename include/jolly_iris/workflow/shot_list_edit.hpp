// A table of shots that somebody changed, taken back into the shot files: only the lines of changed
// values, in all files or in none.
//
//   const ShotListEdit edit = read_shot_list("show.csv");   // what it would do
//   write_shot_list(edit);                                  // all or none
//
// While the files are written a journal stands beside the table, with each file's text before and
// after. Whoever is stopped in between leaves it there, and the next run finishes by it.
#pragma once

#include <string>
#include <vector>

#include "jolly_iris/export.hpp"
#include "jolly_iris/workflow/shot_list.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

struct ShotListChange {
  std::string name{};  ///< of the row: "hero night"
  std::string key{};   ///< "take.stop"
  std::string before{};
  std::string after{};
  std::string note{};  ///< "leads over linden-53.lens.toml from now on", where that is so
};

/// One file as it was read and as it would be.
struct ShotFileEdit {
  std::string file{};
  std::string before{};
  std::string after{};
};

struct ShotListEdit {
  std::string table{};
  std::vector<ShotListChange> changes{};
  std::vector<ShotFileEdit> files{};  ///< those that change
};

/// Columns that a table begins with: which shot a row is, and its file as the table knows it.
inline constexpr const char* row_columns[] = {"shot", "file", "variant", "version"};

/// Compares a table with the shots that its rows name, as they are now. Rows and columns may be
/// missing or in another order; computed columns must be as they were.
/// @throws FileError for a table that is none, or a shot that is not there or was changed since the
///         table was written; UsageError for everything that cannot be written back, one line each:
///         a value that the shot would not take, a computed number, an emptied cell
ShotListEdit read_shot_list(const std::string& table);

/// Writes all files, or none. @throws FileError, TransientError: then each file is as it was, or
/// the journal stays and the next call of finish_journal goes on
void write_shot_list(const ShotListEdit& edit);

/// Finishes what an earlier run was stopped in.
/// @return the files that it wrote; empty: there was no journal
/// @throws TransientError while another run is at it; FileError for a journal that is damaged, or a
///         file that is neither as before nor as after
std::vector<std::string> finish_journal(const std::string& table);

}  // namespace jolly_iris
