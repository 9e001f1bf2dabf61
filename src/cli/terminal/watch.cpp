#include "cli/terminal/watch.hpp"

#include <chrono>
#include <filesystem>
#include <system_error>
#include <thread>

namespace jolly_iris::cli {

namespace {

using namespace std::chrono_literals;

struct Stamp {
  std::filesystem::file_time_type time{};
  std::uintmax_t size = 0;
  friend bool operator==(const Stamp&, const Stamp&) = default;
};

std::vector<Stamp> stamps_of(const std::vector<std::string>& files) {
  std::vector<Stamp> stamps;
  for (const std::string& file : files) {
    std::error_code error;
    Stamp s;
    s.time = std::filesystem::last_write_time(file, error);
    s.size = error ? 0 : std::filesystem::file_size(file, error);
    stamps.push_back(error ? Stamp{} : s);
  }
  return stamps;
}

}  // namespace

void watch(const std::function<std::vector<std::string>()>& work) {
  for (;;) {
    const auto begin = std::filesystem::file_time_type::clock::now();
    const std::vector<std::string> files = work();
    std::vector<Stamp> before = stamps_of(files);
    // A save while the work ran counts as well.
    bool changed = false;
    for (const Stamp& s : before) changed = changed || s.time > begin;
    while (!changed) {
      std::this_thread::sleep_for(100ms);
      changed = stamps_of(files) != before;
    }
    std::this_thread::sleep_for(50ms);  // let the editor finish
  }
}

}  // namespace jolly_iris::cli
