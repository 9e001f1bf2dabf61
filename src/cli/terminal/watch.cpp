#include "cli/terminal/watch.hpp"

#include <chrono>
#include <filesystem>
#include <system_error>
#include <thread>

#include "disk/file_stamp.hpp"

namespace jolly_iris::cli {

using namespace std::chrono_literals;

void watch(const std::function<std::vector<std::string>()>& work) {
  for (;;) {
    const auto begin = std::filesystem::file_time_type::clock::now();
    const std::vector<std::string> files = work();
    const std::vector<std::string> before = file_stamps(files);
    // A save while the work ran counts as well.
    bool changed = false;
    for (const std::string& file : files) {
      std::error_code gone;
      changed = changed || (std::filesystem::last_write_time(file, gone) > begin && !gone);
    }
    while (!changed) {
      std::this_thread::sleep_for(100ms);
      changed = file_stamps(files) != before;
    }
    std::this_thread::sleep_for(50ms);  // let the editor finish
  }
}

}  // namespace jolly_iris::cli
