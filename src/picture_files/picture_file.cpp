#include "jolly_iris/picture_file.hpp"

#include <dlfcn.h>

#include <algorithm>
#include <array>
#include <cctype>

#include "backend.hpp"
#include "jolly_iris/disk.hpp"
#include "jolly_iris/errors.hpp"

namespace jolly_iris {

namespace {

using picture_files::Backend;

constexpr const char* module_name = "libjolly_iris_openimageio.so";

// The module lies beside this library, wherever that was installed.
const Backend* load_backend() {
  Dl_info self{};
  ::dladdr(reinterpret_cast<void*>(&load_backend), &self);
  const std::filesystem::path folder =
      self.dli_fname == nullptr ? "" : std::filesystem::path(self.dli_fname).parent_path();
  const std::string path = (folder / module_name).string();
  void* module = ::dlopen(path.c_str(), RTLD_NOW | RTLD_LOCAL);
  if (module == nullptr) {
    throw FileError(std::string("cannot load the picture formats: ") + ::dlerror());
  }
  using Entry = const Backend* (*)();
  const auto entry = reinterpret_cast<Entry>(::dlsym(module, picture_files::entry_name));
  if (entry == nullptr) {
    throw FileError(path + " is not part of this version of Jolly Iris");
  }
  return entry();
}

const Backend& backend() {
  static const Backend* loaded = load_backend();
  return *loaded;
}

std::string ending(const std::filesystem::path& path) {
  std::string e = path.extension().string();
  std::transform(e.begin(), e.end(), e.begin(),
                 [](unsigned char c) { return static_cast<char>(std::tolower(c)); });
  return e;
}

void require_file(const std::filesystem::path& path) {
  if (std::filesystem::is_directory(path)) {
    throw FileError(path.string() + ": is a folder, not a picture");
  }
  if (!std::filesystem::exists(path)) {
    throw FileError(path.string() + ": cannot read it: No such file or directory");
  }
}

}  // namespace

Frame read_picture(const std::filesystem::path& path, std::optional<Transfer> transfer) {
  require_file(path);
  return backend().read(path.string(), transfer);
}

void check_picture_name(const std::filesystem::path& path) {
  constexpr std::array known{".exr", ".png", ".tif", ".tiff", ".jpg", ".jpeg"};
  if (std::find(known.begin(), known.end(), ending(path)) == known.end()) {
    throw UsageError(path.string() +
                     ": a picture's name ends in .exr, .png, .tif or .jpg; this one does not");
  }
  const std::filesystem::path folder = path.has_parent_path() ? path.parent_path() : ".";
  if (!std::filesystem::is_directory(folder)) {
    throw FileError(path.string() + ": cannot write it: there is no folder " + folder.string());
  }
}

void write_picture(const std::filesystem::path& path, const Frame& frame,
                   const std::map<std::string, std::string>& attributes) {
  check_picture_name(path);
  write_whole_file(path, backend().encode(path.string(), frame, attributes, 95));
}

std::string picture_bytes(const std::string& ending, const Frame& frame, int quality) {
  check_picture_name("picture" + ending);
  return backend().encode("picture" + ending, frame, {}, quality);
}

void write_position_map(const std::filesystem::path& path, const PositionMap& map) {
  check_picture_name(path);
  if (ending(path) != ".exr") {
    throw UsageError(path.string() +
                     ": a position map needs numbers finer than this kind of picture has; write "
                     "it as .exr");
  }
  std::vector<float> pairs;
  pairs.reserve(2 * map.from.size());
  for (const auto& [x, y] : map.from) {
    const bool shown = x != -1.0 || y != -1.0;
    pairs.push_back(shown ? static_cast<float>(x / map.source.width) : -1.0F);
    pairs.push_back(shown ? static_cast<float>(1.0 - y / map.source.height) : -1.0F);
  }
  write_whole_file(path, backend().encode_map(path.string(), map.size, pairs));
}

void stamp_picture(const std::filesystem::path& path,
                   const std::map<std::string, std::string>& attributes) {
  require_file(path);
  write_whole_file(path, backend().stamped(path.string(), attributes));
}

PlateFacts read_plate_facts(const std::filesystem::path& path) {
  require_file(path);
  return backend().facts(path.string());
}

}  // namespace jolly_iris
