// Bytes as a file of the process's own, for readers that take paths, and what no output may hold.
#pragma once

#include <unistd.h>

#include <cstdlib>
#include <filesystem>
#include <fstream>
#include <iostream>
#include <string>
#include <string_view>

#include "jolly_iris/optics/errors.hpp"

namespace fuzz {

inline const std::filesystem::path& folder() {
  static const std::filesystem::path made = [] {
    const std::filesystem::path fast = "/dev/shm";
    auto path = (std::filesystem::exists(fast) ? fast : std::filesystem::temp_directory_path()) /
                ("jolly_iris_fuzz_" + std::to_string(::getpid()));
    std::filesystem::create_directories(path);
    return path;
  }();
  return made;
}

inline std::string as_file(const std::string& name, std::string_view bytes) {
  const std::string path = (folder() / name).string();
  std::ofstream(path, std::ios::binary)
      .write(bytes.data(), static_cast<std::streamsize>(bytes.size()));
  return path;
}

inline std::string as_file(const std::string& name, const unsigned char* data, std::size_t size) {
  return as_file(name, {reinterpret_cast<const char*>(data), size});
}

[[noreturn]] inline void fail(const std::string& why) {
  std::cerr << why << '\n';
  std::abort();
}

/// Reads any bytes of which the first chooses what the rest is read as. What is refused is told:
/// that is what shall happen.
template <class Read>
int chosen(const unsigned char* data, std::size_t size, const Read& read) {
  if (size == 0) return 0;
  try {
    read(data[0], std::string_view(reinterpret_cast<const char*>(data) + 1, size - 1));
  } catch (const jolly_iris::Error&) {
  }
  return 0;
}

/// JSON without its texts, which may be anything that a file says.
inline std::string without_texts(std::string_view json) {
  std::string out;
  for (std::size_t i = 0; i < json.size(); ++i) {
    if (json[i] != '"') {
      out += json[i];
      continue;
    }
    while (++i < json.size() && json[i] != '"') {
      if (json[i] == '\\') ++i;
    }
  }
  return out;
}

/// Ends the program where a text says "nan" or "inf" as a word of its own, as printed numbers are.
inline void require_numbers(std::string_view text) {
  const auto letter = [](char c) {
    return (c >= 'a' && c <= 'z') || (c >= 'A' && c <= 'Z') || c == '_' || c == '\\' || c == '\'' ||
           static_cast<unsigned char>(c) >= 0x80;
  };
  for (const std::string_view word : {"nan", "inf"}) {
    for (std::size_t at = text.find(word); at != std::string_view::npos;
         at = text.find(word, at + 1)) {
      const bool begins = at == 0 || !letter(text[at - 1]);
      const std::size_t behind = at + word.size();
      const bool ends = behind == text.size() || !letter(text[behind]);
      if (begins && ends)
        fail("no number: " + std::string(text.substr(at < 60 ? 0 : at - 60, 140)));
    }
  }
}

}  // namespace fuzz
