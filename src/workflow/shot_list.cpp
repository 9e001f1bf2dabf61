#include "jolly_iris/workflow/shot_list.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <atomic>
#include <cmath>
#include <filesystem>
#include <map>
#include <memory>
#include <mutex>

#include "disk/disk.hpp"
#include "jolly_iris/files/shot_edit.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "optics/nearest.hpp"
#include "picture/parallel.hpp"
#include "workflow/run_fingerprint.hpp"
#include "workflow/shot_columns.hpp"

namespace jolly_iris {

namespace {

std::vector<std::string> variants_of(const std::string& text, const std::string& file) {
  std::vector<std::string> names;
  for (const std::string& key : written_keys(text, file, "variant.")) {
    const std::string name = key.substr(8, key.find('.', 8) - 8);
    if (std::find(names.begin(), names.end(), name) == names.end()) names.push_back(name);
  }
  return names;
}

// Scenes that many shots share, each read once.
class SceneShelf {
 public:
  Scene get(const std::filesystem::path& path) {
    std::shared_ptr<Slot> slot;
    {
      const std::scoped_lock lock(mutex_);
      auto& at = slots_[std::filesystem::weakly_canonical(path).string()];
      if (!at) at = std::make_shared<Slot>();
      slot = at;
    }
    const std::scoped_lock lock(slot->mutex);
    if (!slot->scene) slot->scene = read_scene(path);
    return *slot->scene;
  }

 private:
  struct Slot {
    std::mutex mutex{};
    std::optional<Scene> scene{};
  };
  std::mutex mutex_{};
  std::map<std::string, std::shared_ptr<Slot>> slots_{};
};

void fill(ShotRow& row, const std::vector<ShotColumn>& columns, SceneShelf& shelf) {
  LoadSettings settings = shot_settings();
  if (!row.variant.empty()) settings.tried.push_back({"variant", row.variant, "--variants"});
  if (!row.camera.empty()) settings.tried.push_back({"scene.camera", row.camera, "--cameras"});
  settings.numbers_only = true;
  settings.scene = [&](const std::filesystem::path& path) { return shelf.get(path); };
  std::vector<std::string> files;
  const LoadedShot loaded = load_shot(row.file, settings, &files);
  if (loaded.now.plate) row.plate = loaded.now.plate->file;
  for (const ShotColumn& column : columns) row.cells.push_back(cell_of(loaded, column));
}

std::vector<std::string> cameras_of(const std::string& file, SceneShelf& shelf) {
  const Shot shot = read_shot(file);
  std::vector<std::string> names;
  if (!shot.scene || shot.scene->file.empty()) return names;
  const Scene scene = shelf.get(shot.scene->file);
  for (const SceneCamera& c : scene.cameras) {
    if (!c.name.empty()) names.push_back(c.name);
  }
  for (const auto& node : scene.nodes) {
    if (node.camera && !node.name.empty()) names.push_back(node.name);
  }
  std::sort(names.begin(), names.end());
  names.erase(std::unique(names.begin(), names.end()), names.end());
  return names;
}

// The rows of one file, and what of them cannot be read.
std::vector<ShotRow> rows_of(const std::string& file, const ShotListRequest& request,
                             const std::vector<ShotColumn>& columns, SceneShelf& shelf) {
  ShotRow first;
  first.file = file;
  first.name = shot_name(file);
  std::vector<ShotRow> rows{first};
  try {
    const std::string text = read_whole_file(file);
    rows.front().version = text_version(text);
    if (request.variants) {
      for (const std::string& variant : variants_of(text, file)) {
        ShotRow row = rows.front();
        row.variant = variant;
        row.name += " " + variant;
        rows.push_back(row);
      }
    }
    if (request.cameras) {
      for (const std::string& camera : cameras_of(file, shelf)) {
        ShotRow row = rows.front();
        row.camera = camera;
        row.name += ": " + camera;
        rows.push_back(row);
      }
    }
  } catch (const Error& e) {
    rows.front().problem = e.what();
    return rows;
  }
  for (ShotRow& row : rows) {
    try {
      fill(row, columns, shelf);
    } catch (const Error& e) {
      row.cells.clear();
      row.problem = e.what();
    }
  }
  return rows;
}

struct Filter {
  std::size_t column = 0;
  std::string how{};  // "=", "!=", "<", ">"
  std::string text{};
};

[[noreturn]] void no_column(const std::string& what, const std::string& key, const ShotList& list) {
  std::vector<std::string> keys;
  for (const ShotColumn& c : list.columns) keys.push_back(c.key);
  throw UsageError(
      fmt::format("{}: there is no column '{}'.{}", what, key, did_you_mean(key, keys)));
}

std::size_t column_named(const std::string& what, const std::string& key, const ShotList& list) {
  if (const auto at = list.column(key)) return *at;
  no_column(what, key, list);
}

Filter filter_of(const std::string& text, const ShotList& list) {
  const auto at = text.find_first_of("=!<>");
  if (at == std::string::npos || at == 0) {
    throw UsageError(fmt::format(
        "'{}' is no condition; write e.g. take.stop=f/2, lens.squeeze!=1 or focus_m<3", text));
  }
  const std::size_t length = text[at] == '!' ? 2 : 1;
  Filter out{column_named("'" + text + "'", text.substr(0, at), list), text.substr(at, length),
             text.substr(at + length)};
  if (out.how == "!=" || length == 1) return out;
  throw UsageError(fmt::format("'{}': write != for other than", text));
}

bool passes(const ShotRow& row, const Filter& f) {
  if (row.cells.empty()) return false;  // what cannot be read is under no condition
  const ShotCell& cell = row.cells[f.column];
  const auto number = number_in(f.text);
  const bool numbers = number && cell.number;
  if (f.how == "<") return numbers && *cell.number < *number;
  if (f.how == ">") return numbers && *cell.number > *number;
  const bool equal = cell.text == f.text ||
                     (numbers && std::abs(*cell.number - *number) <= 1e-9 * std::abs(*number));
  return equal == (f.how == "=");
}

bool comes_before(const ShotCell& a, const ShotCell& b) {
  if (a.number && b.number) return *a.number < *b.number;
  if (a.number.has_value() != b.number.has_value()) return a.number.has_value();
  return a.text < b.text;
}

void sort_rows(ShotList& list, std::string key) {
  if (key.empty()) return;
  const bool down = key.front() == '-';
  if (down) key.erase(0, 1);
  if (key == "shot") {
    std::stable_sort(list.rows.begin(), list.rows.end(), [&](const ShotRow& a, const ShotRow& b) {
      return down ? b.name < a.name : a.name < b.name;
    });
    return;
  }
  const std::size_t at = column_named("sort", key, list);
  std::stable_sort(list.rows.begin(), list.rows.end(), [&](const ShotRow& a, const ShotRow& b) {
    if (a.cells.empty() || b.cells.empty()) return b.cells.empty() && !a.cells.empty();
    return down ? comes_before(b.cells[at], a.cells[at]) : comes_before(a.cells[at], b.cells[at]);
  });
}

// Every key that stands in some row must exist somewhere, else it was misspelt.
void require_known(const ShotListRequest& request, const ShotList& list) {
  for (std::size_t c = 0; c < list.columns.size(); ++c) {
    const bool usual = is_usual_key(list.columns[c].key);
    if (request.any_columns || usual || !list.columns[c].written) continue;
    const bool there = std::any_of(list.rows.begin(), list.rows.end(), [&](const ShotRow& row) {
      return !row.cells.empty() && !row.cells[c].text.empty();
    });
    const bool any = std::any_of(list.rows.begin(), list.rows.end(),
                                 [](const ShotRow& row) { return !row.cells.empty(); });
    if (there || !any) continue;
    std::vector<std::string> keys;
    for (const ShotColumn& k : computed_columns()) keys.push_back(k.key);
    for (const ShotColumn& k : shot_columns({})) {
      if (k.written) keys.push_back(k.key);
    }
    throw UsageError(
        fmt::format("column {}: no shot has that key, and it is none that is "
                    "computed.{}",
                    list.columns[c].key, did_you_mean(list.columns[c].key, keys)));
  }
}

void compare_with_master(ShotList& list, const std::string& master) {
  auto first = std::find_if(list.rows.begin(), list.rows.end(),
                            [](const ShotRow& row) { return !row.cells.empty(); });
  if (!master.empty()) {
    first = std::find_if(list.rows.begin(), list.rows.end(), [&](const ShotRow& row) {
      return row.name == master || row.file == master;
    });
    if (first == list.rows.end()) {
      std::vector<std::string> names;
      for (const ShotRow& row : list.rows) names.push_back(row.name);
      throw UsageError(
          fmt::format("'{}' is none of the shots listed.{}", master, did_you_mean(master, names)));
    }
  }
  if (first == list.rows.end()) return;
  list.master = first->name;
  const std::vector<ShotCell> cells = first->cells;
  for (ShotRow& row : list.rows) {
    for (std::size_t c = 0; c < std::min(cells.size(), row.cells.size()); ++c) {
      row.cells[c].differs = row.cells[c].text != cells[c].text;
    }
  }
}

// Shots of several folders may be called alike.
void tell_names_apart(std::vector<ShotRow>& rows) {
  std::map<std::string, int> count;
  for (const ShotRow& row : rows) ++count[row.name];
  for (ShotRow& row : rows) {
    if (count[row.name] < 2) continue;
    const std::string folder = std::filesystem::path(row.file).parent_path().string();
    if (!folder.empty()) row.name = folder + "/" + row.name;
  }
}

}  // namespace

std::optional<std::size_t> ShotList::column(const std::string& key) const {
  for (std::size_t i = 0; i < columns.size(); ++i) {
    if (columns[i].key == key) return i;
  }
  return std::nullopt;
}

ShotList list_shots(const ShotListRequest& request) {
  const std::vector<std::string> files = shot_files(request.what);
  ShotList list;
  list.columns = shot_columns(request.columns);
  SceneShelf shelf;
  std::vector<std::vector<ShotRow>> rows(files.size());
  std::atomic<std::size_t> done = 0;
  with_threads(request.execution.threads, [&] {
    parallel_for(std::size_t{0}, files.size(), [&](std::size_t i) {
      rows[i] = rows_of(files[i], request, list.columns, shelf);
      request.execution.tell(static_cast<double>(++done) / static_cast<double>(files.size()));
    });
  });
  for (std::vector<ShotRow>& some : rows) {
    list.rows.insert(list.rows.end(), std::make_move_iterator(some.begin()),
                     std::make_move_iterator(some.end()));
  }
  require_known(request, list);
  tell_names_apart(list.rows);
  compare_with_master(list, request.master);
  for (const std::string& text : request.filters) {
    const Filter filter = filter_of(text, list);
    std::erase_if(list.rows, [&](const ShotRow& row) { return !passes(row, filter); });
  }
  sort_rows(list, request.sort);
  return list;
}

}  // namespace jolly_iris
