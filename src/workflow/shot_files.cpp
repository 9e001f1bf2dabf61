// Which shot files somebody means by files, folders and patterns.
#include <fmt/format.h>
#include <fnmatch.h>

#include <algorithm>
#include <filesystem>
#include <set>

#include "disk/disk.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/workflow/shot_list.hpp"

namespace jolly_iris {

namespace {

constexpr const char* shot_ending = ".shot.toml";

bool is_shot(const std::filesystem::path& path) {
  return path.filename().string().ends_with(shot_ending);
}

void add_folder(const std::string& folder, std::vector<std::string>& out) {
  std::vector<std::string> found;
  std::error_code error;
  for (std::filesystem::recursive_directory_iterator at(folder, error), end; !error && at != end;
       at.increment(error)) {
    if (at->is_regular_file(error) && is_shot(at->path())) found.push_back(at->path().string());
  }
  if (error)
    throw FileError(fmt::format("{}: cannot be looked through: {}", folder, error.message()));
  if (found.empty()) throw FileError(fmt::format("{}: has no *{} in it", folder, shot_ending));
  std::sort(found.begin(), found.end());
  out.insert(out.end(), found.begin(), found.end());
}

// All below the folder in front of the first part that is a pattern.
void add_pattern(const std::string& pattern, std::vector<std::string>& out) {
  const auto begins = pattern.find_first_of("*?[");
  const auto slash = pattern.rfind('/', begins);
  const std::string folder = slash == std::string::npos ? "." : pattern.substr(0, slash + 1);
  // A pattern's part is one folder's name, so none deeper can fit.
  const auto deep = std::count(
      pattern.begin() + static_cast<std::ptrdiff_t>(slash == std::string::npos ? 0 : slash + 1),
      pattern.end(), '/');
  std::vector<std::string> names;
  std::error_code error;
  constexpr auto readable = std::filesystem::directory_options::skip_permission_denied;
  for (std::filesystem::recursive_directory_iterator at(folder, readable, error), end;
       !error && at != end; at.increment(error)) {
    if (at.depth() >= deep) at.disable_recursion_pending();
    std::string name = at->path().string();
    if (slash == std::string::npos) name.erase(0, 2);  // "./"
    const bool fits = ::fnmatch(pattern.c_str(), name.c_str(), FNM_PATHNAME) == 0;
    if (fits && is_shot(at->path())) names.push_back(std::move(name));
  }
  if (names.empty()) throw FileError(fmt::format("{}: no shot has such a name", pattern));
  std::sort(names.begin(), names.end());
  out.insert(out.end(), names.begin(), names.end());
}

}  // namespace

std::vector<std::string> shot_files(const std::vector<std::string>& what) {
  std::vector<std::string> all;
  for (const std::string& one : what) {
    if (std::filesystem::is_directory(one)) {
      add_folder(one, all);
    } else if (!std::filesystem::exists(one) && one.find_first_of("*?[") != std::string::npos) {
      add_pattern(one, all);
    } else {
      require_plain_file(one);
      all.push_back(one);
    }
  }
  if (all.empty()) throw UsageError("name shot files, folders with them, or a pattern");
  std::vector<std::string> once;
  std::set<std::string> known;
  for (std::string& file : all) {
    if (known.insert(std::filesystem::weakly_canonical(file).string()).second) {
      once.push_back(std::move(file));
    }
  }
  return once;
}

std::string shot_name(const std::string& file) {
  std::string name = std::filesystem::path(file).filename().string();
  if (name.ends_with(shot_ending)) name.resize(name.size() - std::string(shot_ending).size());
  return name;
}

}  // namespace jolly_iris
