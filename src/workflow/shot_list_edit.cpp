#include "jolly_iris/workflow/shot_list_edit.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <filesystem>
#include <map>

#include "disk/disk.hpp"
#include "disk/file_lock.hpp"
#include "disk/json.hpp"
#include "files/csv_table.hpp"
#include "jolly_iris/files/shot_edit.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "workflow/run_fingerprint.hpp"
#include "workflow/shot_values.hpp"

namespace jolly_iris {

namespace {

std::string journal_of(const std::string& table) { return table + ".journal"; }

// One row of the table.
struct TableRow {
  int line = 0;
  std::string file{};
  std::string variant{};
  std::string version{};
  std::vector<std::string> cells{};  // by column of the table
};

struct Table {
  std::vector<std::string> keys{};  // of its columns
  std::vector<TableRow> rows{};
};

bool is_row_column(const std::string& key) {
  return std::find(std::begin(row_columns), std::end(row_columns), key) != std::end(row_columns);
}

Table read_table(const std::string& file) {
  Table out;
  const auto columns = [&](const CsvTable& table, int line) {
    for (const char* needed : {"file", "version"}) {
      if (table.index(needed)) continue;
      table.refuse(
          line, fmt::format("has no column '{}'; it is no table that shots --csv wrote", needed));
    }
    out.keys = table.columns;
  };
  const auto row = [&](const CsvTable& table, const std::vector<std::string>& cells, int line) {
    const auto cell = [&](const char* name) {
      const auto at = table.index(name);
      return at ? cells[*at] : std::string();
    };
    TableRow r{line, cell("file"), cell("variant"), cell("version"), cells};
    if (r.file.empty()) table.refuse(line, "has no file; each row names its shot");
    out.rows.push_back(std::move(r));
  };
  read_csv(file, columns, row);
  if (out.rows.empty()) {
    throw FileError(file + ": has no row with a shot; a table is what shots --csv writes");
  }
  return out;
}

// Cells that mean the same number, though a spreadsheet wrote it its own way: 2.350 and 2.35.
bool same_computed(const std::string& a, const std::string& b) {
  if (a == b) return true;
  char* end_a = nullptr;
  char* end_b = nullptr;
  const double x = std::strtod(a.c_str(), &end_a);
  const double y = std::strtod(b.c_str(), &end_b);
  if (end_a == a.c_str() || end_b == b.c_str() || *end_a != '\0' || *end_b != '\0') return false;
  return std::abs(x - y) <= 1e-6 * std::max(std::abs(x), std::abs(y));
}

// All that is wrong with a table, told in one go.
class Mistakes {
 public:
  explicit Mistakes(std::string table) : table_(std::move(table)) {}
  void add(const TableRow& row, const std::string& key, const std::string& why) {
    all_.push_back(fmt::format("{}:{}: {}: {}", table_, row.line, key, why));
  }
  void add(std::string line) { all_.push_back(std::move(line)); }
  void end() const {
    if (all_.empty()) return;
    std::string text;
    for (const std::string& one : all_) text += (text.empty() ? "" : "\n") + one;
    throw UsageError(text);
  }

 private:
  std::string table_;
  std::vector<std::string> all_{};
};

// The shots of the table as they are now, by file and variant.
std::map<std::pair<std::string, std::string>, ShotRow> rows_now(const Table& table,
                                                                std::vector<ShotColumn>& columns) {
  ShotListRequest request;
  request.variants = true;
  request.any_columns = true;
  for (const std::string& key : table.keys) {
    if (!is_row_column(key)) request.columns.push_back(key);
  }
  for (const TableRow& row : table.rows) request.what.push_back(row.file);
  const ShotList list = list_shots(request);
  columns = list.columns;
  std::map<std::pair<std::string, std::string>, ShotRow> out;
  for (const ShotRow& row : list.rows) out[{row.file, row.variant}] = row;
  return out;
}

std::string leads_over(const std::string& place_file, const std::string& shot) {
  if (place_file.empty() || place_file == shot) return {};
  return fmt::format("leads over {} from now on",
                     std::filesystem::path(place_file).filename().string());
}

// What stands in a shot's row against what the table has there.
std::vector<ShotValue> changes_in(const Table& table, const TableRow& row, const ShotRow& now,
                                  const std::vector<ShotColumn>& columns,
                                  std::vector<ShotListChange>& changes, Mistakes& mistakes) {
  std::vector<ShotValue> values;
  std::size_t c = 0;
  for (std::size_t k = 0; k < table.keys.size(); ++k) {
    if (is_row_column(table.keys[k])) continue;
    const ShotColumn& column = columns[c];
    const ShotCell& cell = now.cells[c];
    ++c;
    const std::string& text = row.cells[k];
    if (text == cell.text) continue;
    if (!column.written) {
      if (!same_computed(text, cell.text)) {
        mistakes.add(
            row, column.key,
            fmt::format("is computed, '{}'; '{}' cannot be written back. Change what it is "
                        "computed from",
                        cell.text, text));
      }
    } else if (!cell.fixed.empty()) {
      mistakes.add(row, column.key, cell.fixed);
    } else if (text.empty()) {
      mistakes.add(
          row, column.key,
          fmt::format("was emptied; the file says '{}'. To take it out, edit the file", cell.text));
    } else {
      values.push_back({column.key, text});
      changes.push_back({now.name, column.key, cell.text, text, leads_over(cell.place, row.file)});
    }
  }
  return values;
}

// Whether a row has other values than its shot.
bool says_other(const Table& table, const TableRow& row, const ShotRow& now,
                const std::vector<ShotColumn>& columns) {
  std::size_t c = 0;
  for (std::size_t k = 0; k < table.keys.size(); ++k) {
    if (is_row_column(table.keys[k])) continue;
    if (columns[c].written && row.cells[k] != now.cells[c].text) return true;
    ++c;
  }
  return false;
}

// Whether the shot takes them, before anything is written.
void try_them(const std::string& table, const TableRow& row, const std::vector<ShotValue>& values,
              Mistakes& mistakes) {
  LoadSettings settings = shot_settings();
  if (!row.variant.empty()) settings.tried.push_back({"variant", row.variant, "variant"});
  for (const ShotValue& v : values) {
    settings.tried.push_back({v.key, v.text, fmt::format("{}:{}", table, row.line)});
  }
  try {
    (void)load_shot(row.file, settings);
  } catch (const ShotFileError& e) {
    for (const FileMistake& m : e.mistakes()) mistakes.add(row, m.key, m.message);
  } catch (const Error& e) {
    // Some say themselves where the value came from.
    const std::string said = e.what();
    const std::string place = fmt::format("{}:{}: ", table, row.line);
    const auto at = said.find(place);
    if (at == std::string::npos) {
      mistakes.add(row, values.front().key, said);
    } else {
      mistakes.add(said.substr(at));
    }
  }
}

Json journal_json(const ShotListEdit& edit) {
  Json files = Json::array();
  for (const ShotFileEdit& f : edit.files) {
    files.push_back({{"file", std::filesystem::absolute(f.file).string()},
                     {"before", f.before},
                     {"after", f.after}});
  }
  return {{"what", "shots --edit, not finished: the next run with this table goes on"},
          {"files", std::move(files)}};
}

std::vector<ShotFileEdit> files_in_journal(const std::string& journal) {
  const Json json = json_from(read_own_file(journal), journal);
  std::vector<ShotFileEdit> out;
  const Json* files = json.find("files");
  for (const Json& f : files == nullptr ? Json::array().entries() : files->entries()) {
    const auto text = [&](const char* name) {
      const Json* value = f.find(name);
      if (value == nullptr || value->text() == nullptr) {
        throw FileError(fmt::format("{}: is damaged: a file of it has no \"{}\"", journal, name));
      }
      return *value->text();
    };
    out.push_back({text("file"), text("before"), text("after")});
  }
  return out;
}

std::vector<std::string> write_files(const std::vector<ShotFileEdit>& files,
                                     const std::string& journal) {
  std::vector<std::string> written;
  for (const ShotFileEdit& f : files) {
    const std::string now = read_own_file(f.file);
    if (now == f.after) continue;
    if (now != f.before) {
      throw FileError(fmt::format(
          "{}: was changed by somebody while a table was being written back, and is neither as "
          "before nor as after. {} has both texts; put it right by hand and remove that file",
          f.file, journal));
    }
    rewrite_whole_file(f.file, f.after);
    written.push_back(f.file);
  }
  return written;
}

}  // namespace

ShotListEdit read_shot_list(const std::string& table_file) {
  const Table table = read_table(table_file);
  ShotListEdit out;
  out.table = table_file;
  std::vector<ShotColumn> columns;
  const auto now = rows_now(table, columns);
  Mistakes mistakes(table_file);
  std::map<std::string, std::string> before;
  std::map<std::string, std::string> after;
  for (const TableRow& row : table.rows) {
    const auto found = now.find({row.file, row.variant});
    if (found == now.end()) {
      mistakes.add(row, "variant", fmt::format("'{}' is no variant of {}", row.variant, row.file));
      continue;
    }
    if (!found->second.problem.empty()) {
      mistakes.add(row, "file", found->second.problem);
      continue;
    }
    if (found->second.version != row.version && says_other(table, row, found->second, columns)) {
      mistakes.add(row, "version",
                   fmt::format("{} was changed since this table was written; write a new one, so "
                               "that nobody's change is lost",
                               row.file));
      continue;
    }
    if (found->second.version != row.version) continue;  // it says what the file says by now
    const std::vector<ShotValue> values =
        changes_in(table, row, found->second, columns, out.changes, mistakes);
    if (values.empty()) continue;
    try_them(table_file, row, values, mistakes);
    try {
      std::string& text = after[row.file];
      if (text.empty()) text = before[row.file] = read_own_file(row.file);
      text = edited_shot(text, row.file, edits_for(text, row.file, row.variant, values));
    } catch (const Error& e) {
      mistakes.add(row, values.front().key, e.what());
    }
  }
  mistakes.end();
  for (auto& [file, text] : after) {
    if (text != before[file]) out.files.push_back({file, before[file], text});
  }
  return out;
}

void write_shot_list(const ShotListEdit& edit) {
  if (edit.files.empty()) return;
  const std::string journal = journal_of(edit.table);
  const FileLock lock(edit.table);
  if (std::filesystem::exists(journal)) {
    throw FileError(journal + ": an earlier run was stopped; finish that first");
  }
  for (const ShotFileEdit& f : edit.files) {
    if (read_own_file(f.file) == f.before) continue;
    throw FileError(f.file + ": was saved by somebody else meanwhile; look at it first");
  }
  write_whole_file(journal, journal_json(edit).dump(1) + "\n");
  write_files(edit.files, journal);
  std::filesystem::remove(journal);
}

std::vector<std::string> finish_journal(const std::string& table) {
  const std::string journal = journal_of(table);
  if (!std::filesystem::exists(journal)) return {};
  const FileLock lock(table);
  if (!std::filesystem::exists(journal)) return {};
  std::vector<std::string> written = write_files(files_in_journal(journal), journal);
  std::filesystem::remove(journal);
  return written;
}

}  // namespace jolly_iris
