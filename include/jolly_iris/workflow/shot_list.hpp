// All cameras of a show in one table: a row each, with what sets them apart.
//
//   const ShotList list = list_shots({.what = {"shots/"}});
//   for (const ShotRow& row : list.rows) fmt::print("{} {}\n", row.name, row.cells[0].text);
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "jolly_iris/export.hpp"
#include "jolly_iris/optics/execution.hpp"
#include "jolly_iris/optics/origin.hpp"
#include "jolly_iris/workflow/load.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// A column: a key of shot files, whose cells may be edited, or a number that is computed.
struct ShotColumn {
  std::string key{};     ///< "take.stop", "focus_m"
  std::string head{};    ///< "stop", "focus"
  bool written = false;  ///< in shot files
};

struct ShotCell {
  std::string text{};                      ///< as --set takes it, of written ones; empty: nothing
  std::optional<double> number{};          ///< to sort and compare by, where it has one
  std::optional<Origin::Source> source{};  ///< of written ones
  std::string place{};                     ///< the file that has it
  std::string fixed{};   ///< why a written one cannot be edited here; empty: it can
  bool differs = false;  ///< from the master's
};

struct ShotRow {
  std::string file{};
  std::string variant{};          ///< empty: the file as it is
  std::string camera{};           ///< of the scene, where all of those were asked for
  std::string name{};             ///< "hero", "hero night"
  std::string version{};          ///< tells whether the file was changed since
  std::string problem{};          ///< why it cannot be read; then it has no cells
  std::string plate{};            ///< its file, at the frame that is answered; empty: none
  std::vector<ShotCell> cells{};  ///< by column
};

struct ShotList {
  std::vector<ShotColumn> columns{};
  std::vector<ShotRow> rows{};
  std::string master{};  ///< name of the row that the others are compared with, listed or not

  std::optional<std::size_t> column(const std::string& key) const;
};

struct ShotListRequest {
  std::vector<std::string> what{};     ///< files, folders (all below them), globs
  std::vector<std::string> columns{};  ///< keys; empty: the usual ones
  bool any_columns = false;            ///< a key that no shot has is a column too
  bool variants = false;               ///< a row for each variant of a file too
  bool cameras = false;                ///< and for each camera of its scene
  std::string master{};                ///< a row's name or file; empty: the first
  std::vector<std::string> filters{};  ///< "take.stop=f/2", "focus_m<3", "lens.squeeze!=1"
  std::string sort{};                  ///< a column's key; "-" before it: downwards
  Execution execution{};
};

/// Reads them on all cores. A shot that cannot be read has its row and says why.
/// @throws FileError for a file or folder that is not there, or where there is no shot at all;
///         UsageError for a column, a filter, a master that does not exist; Cancelled
ShotList list_shots(const ShotListRequest& request);

/// "shots/hero.shot.toml" → "hero".
std::string shot_name(const std::string& file);

/// The shot files that are meant: files, folders (all below them), globs; each once.
/// @throws FileError for what is not there, or has no shot in it; UsageError for nothing
std::vector<std::string> shot_files(const std::vector<std::string>& what);

/// Columns that there are besides the keys of shot files: computed ones.
std::vector<ShotColumn> computed_columns();

}  // namespace jolly_iris
