#include "disk/disk.hpp"

#include <fcntl.h>
#include <fmt/format.h>
#include <sys/stat.h>
#include <unistd.h>

#include <array>
#include <atomic>
#include <cerrno>
#include <climits>
#include <csignal>
#include <cstring>
#include <utility>

#include "jolly_iris/optics/errors.hpp"

namespace jolly_iris {

namespace {

[[noreturn]] void fail(const std::filesystem::path& path, std::string_view doing) {
  const int error = errno;
  throw FileError(fmt::format("{}: cannot {}: {}", path.string(), doing, std::strerror(error)));
}

// Closes a descriptor whatever happens.
class Descriptor {
 public:
  explicit Descriptor(int fd) : fd_(fd) {}
  ~Descriptor() {
    if (fd_ >= 0) ::close(fd_);
  }
  Descriptor(const Descriptor&) = delete;
  Descriptor& operator=(const Descriptor&) = delete;
  int get() const { return fd_; }
  bool close() { return ::close(std::exchange(fd_, -1)) == 0; }

 private:
  int fd_;
};

// Names of what is being written, where a signal's handler can find them: it may neither allocate
// nor lock, so they are plain text at a fixed place.
struct Unfinished {
  std::atomic<bool> taken{false};
  std::atomic<bool> there{false};
  char path[PATH_MAX]{};
};
std::array<Unfinished, 16> unfinished;  // more at once are written as well, only not told of

void remove_unfinished(int signal) {
  for (const Unfinished& u : unfinished) {
    if (u.there.load()) ::unlink(u.path);
  }
  ::signal(signal, SIG_DFL);
  ::raise(signal);
}

// Removes the half-written file unless it was renamed into place.
class Leftover {
 public:
  explicit Leftover(std::filesystem::path path) : path_(std::move(path)) {
    for (Unfinished& u : unfinished) {
      if (path_.native().size() >= sizeof u.path || u.taken.exchange(true)) continue;
      std::strcpy(u.path, path_.c_str());
      u.there.store(true);
      told_ = &u;
      break;
    }
  }
  ~Leftover() {
    if (!path_.empty()) ::unlink(path_.c_str());
    if (told_ == nullptr) return;
    told_->there.store(false);
    told_->taken.store(false);
  }
  Leftover(const Leftover&) = delete;
  Leftover& operator=(const Leftover&) = delete;
  void keep() { path_.clear(); }

 private:
  std::filesystem::path path_;
  Unfinished* told_ = nullptr;
};

}  // namespace

std::string read_whole_file(const std::filesystem::path& path) {
  const Descriptor in(::open(path.c_str(), O_RDONLY | O_CLOEXEC));
  if (in.get() < 0) fail(path, "read it");
  std::string bytes;
  struct stat status {};
  if (::fstat(in.get(), &status) == 0 && S_ISREG(status.st_mode)) {
    bytes.reserve(static_cast<std::size_t>(status.st_size));
  }
  char buffer[1 << 16];
  for (;;) {
    const ssize_t n = ::read(in.get(), buffer, sizeof buffer);
    if (n < 0 && errno == EINTR) continue;
    if (n < 0) fail(path, "read it");
    if (n == 0) return bytes;
    bytes.append(buffer, static_cast<std::size_t>(n));
  }
}

void write_whole_file(const std::filesystem::path& path, std::string_view bytes) {
  const std::filesystem::path beside =
      path.parent_path() / fmt::format(".{}.{}.part", path.filename().string(), ::getpid());
  Leftover leftover(beside);
  Descriptor out(::open(beside.c_str(), O_WRONLY | O_CREAT | O_TRUNC | O_CLOEXEC, 0666));
  if (out.get() < 0) {
    leftover.keep();
    fail(path, "write it");
  }
  while (!bytes.empty()) {
    const ssize_t n = ::write(out.get(), bytes.data(), bytes.size());
    if (n < 0 && errno == EINTR) continue;
    if (n < 0) fail(path, "write it");
    bytes.remove_prefix(static_cast<std::size_t>(n));
  }
  if (::fsync(out.get()) != 0 && errno != EINVAL) fail(path, "write it");
  if (!out.close()) fail(path, "write it");
  if (::rename(beside.c_str(), path.c_str()) != 0) fail(path, "write it");
  leftover.keep();
}

void leave_nothing_when_stopped() {
  for (const int signal : {SIGINT, SIGHUP, SIGTERM}) {
    struct sigaction action {};
    ::sigaction(signal, nullptr, &action);
    if (action.sa_handler == SIG_IGN) continue;  // as under nohup
    action.sa_handler = remove_unfinished;
    action.sa_flags = 0;
    ::sigaction(signal, &action, nullptr);
  }
}

}  // namespace jolly_iris
