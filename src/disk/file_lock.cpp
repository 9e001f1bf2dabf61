#include "disk/file_lock.hpp"

#include <fcntl.h>
#include <fmt/format.h>
#include <sys/file.h>
#include <unistd.h>

#include <cerrno>
#include <system_error>

#include "jolly_iris/optics/errors.hpp"

namespace jolly_iris {

FileLock::FileLock(const std::filesystem::path& file)
    : fd_(::open(file.c_str(), O_RDONLY | O_CLOEXEC | O_NONBLOCK)) {
  if (fd_ < 0) {
    throw FileError(fmt::format("{}: cannot read it: {}", file.string(),
                                std::generic_category().message(errno)));
  }
  if (::flock(fd_, LOCK_EX | LOCK_NB) == 0) return;
  ::close(fd_);
  throw TransientError(fmt::format("{}: another run is working with it; try again", file.string()));
}

FileLock::~FileLock() { ::close(fd_); }

}  // namespace jolly_iris
