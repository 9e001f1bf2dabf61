#include "cli/terminal/error_kind.hpp"

#include <new>

#include "jolly_iris/files/shot_file.hpp"
#include "jolly_iris/optics/memory.hpp"

namespace jolly_iris::cli {

ErrorKind kind_of(const std::exception& e) {
  if (const auto* some = dynamic_cast<const PartlyFailed*>(&e)) return some->kind();
  if (dynamic_cast<const OpticsError*>(&e) != nullptr) return {1, "optics"};
  if (dynamic_cast<const ShotFileError*>(&e) != nullptr) return {2, "shot file"};
  if (dynamic_cast<const UsageError*>(&e) != nullptr) return {2, "usage"};
  if (dynamic_cast<const PictureError*>(&e) != nullptr) return {3, "picture"};
  if (dynamic_cast<const TransientError*>(&e) != nullptr) return {75, "passing"};
  if (dynamic_cast<const FileError*>(&e) != nullptr) return {3, "file"};
  const bool memory = dynamic_cast<const MemoryError*>(&e) != nullptr ||
                      dynamic_cast<const std::bad_alloc*>(&e) != nullptr;
  if (memory) return {3, "memory"};
  return {};
}

std::string sentence_of(const std::exception& e) {
  if (dynamic_cast<const std::bad_alloc*>(&e) != nullptr) {
    return "there is not enough memory for that";
  }
  if (dynamic_cast<const MemoryError*>(&e) != nullptr) {
    const std::string said = e.what();
    return said.ends_with("may be used") ? said + "; --memory sets how much that is" : said;
  }
  if (dynamic_cast<const NoShotError*>(&e) != nullptr) {
    return std::string(e.what()) + ". To begin one from a plate: jolly-iris start PLATE";
  }
  return e.what();
}

}  // namespace jolly_iris::cli
