#include "disk/file_stamp.hpp"

#include <fmt/format.h>

#include <filesystem>
#include <system_error>

namespace jolly_iris {

std::string file_stamp(const std::string& file) {
  std::error_code gone;
  const auto time = std::filesystem::last_write_time(file, gone);
  const auto size = gone ? 0 : std::filesystem::file_size(file, gone);
  return gone ? "" : fmt::format("{} {}", time.time_since_epoch().count(), size);
}

std::vector<std::string> file_stamps(const std::vector<std::string>& files) {
  std::vector<std::string> stamps;
  stamps.reserve(files.size());
  for (const std::string& file : files) stamps.push_back(file_stamp(file));
  return stamps;
}

}  // namespace jolly_iris
