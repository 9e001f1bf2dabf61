// One run at a time: a lock that goes with whoever holds it, also when that is killed.
#pragma once

#include <filesystem>

#include "jolly_iris/export.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// Holds a file that is there for as long as it lives (flock, which NFS has since Linux 2.6.12).
class FileLock {
 public:
  /// @throws TransientError while somebody else holds it; FileError for a file that is not there
  explicit FileLock(const std::filesystem::path& file);
  ~FileLock();
  FileLock(const FileLock&) = delete;
  FileLock& operator=(const FileLock&) = delete;

 private:
  int fd_ = -1;
};

}  // namespace jolly_iris
