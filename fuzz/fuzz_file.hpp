// Bytes as a file of the process's own, for readers that take paths.
#pragma once

#include <unistd.h>

#include <filesystem>
#include <fstream>
#include <string>

namespace fuzz {

inline std::string as_file(const std::string& name, const unsigned char* data, std::size_t size) {
  static const std::filesystem::path folder = [] {
    const std::filesystem::path fast = "/dev/shm";
    auto path = (std::filesystem::exists(fast) ? fast : std::filesystem::temp_directory_path()) /
                ("jolly_iris_fuzz_" + std::to_string(::getpid()));
    std::filesystem::create_directories(path);
    return path;
  }();
  const std::string path = (folder / name).string();
  std::ofstream(path, std::ios::binary)
      .write(reinterpret_cast<const char*>(data), static_cast<std::streamsize>(size));
  return path;
}

}  // namespace fuzz
