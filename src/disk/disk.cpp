#include "disk/disk.hpp"

#include <fcntl.h>
#include <fmt/format.h>
#include <sys/random.h>
#include <sys/stat.h>
#include <unistd.h>

#include <array>
#include <atomic>
#include <cerrno>
#include <climits>
#include <csignal>
#include <cstdint>
#include <cstdlib>
#include <ctime>
#include <mutex>
#include <optional>
#include <random>
#include <set>
#include <system_error>
#include <utility>

#include "jolly_iris/optics/errors.hpp"

namespace jolly_iris {

namespace {

[[noreturn]] void fail(const std::filesystem::path& path, std::string_view doing) {
  const int error = errno;
  const std::string message = fmt::format("{}: cannot {}: {}", path.string(), doing,
                                          std::generic_category().message(error));
  if (may_pass(error)) throw TransientError(message);
  throw FileError(message);
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

std::atomic<bool> stopping{false};

void remove_unfinished(int signal) {
  stopping.store(true);
  // Twice: another thread may be opening one just now, and opens no further one.
  for (const bool again : {false, true}) {
    constexpr timespec a_while{0, 5'000'000};
    if (again) ::nanosleep(&a_while, nullptr);
    for (const Unfinished& u : unfinished) {
      if (u.there.load()) ::unlink(u.path);
    }
  }
  (void)::signal(signal, SIG_DFL);
  (void)::raise(signal);
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

// Which file it is, whatever it is called.
using Identity = std::pair<dev_t, ino_t>;

// Of the runs that InputsKept watches over.
struct Kept {
  std::mutex mutex{};
  int runs = 0;
  std::set<Identity> read{};
  std::set<Identity> written{};
  std::set<Identity> claimed{};
  std::set<std::pair<Identity, std::string>>
      claimed_names{};  // of what is not there yet, by folder
};
Kept& kept() {
  static Kept all;
  return all;
}

std::string said(const std::filesystem::path& path, std::string_view what) {
  return fmt::format("{}: {}", path.string(), what);
}

void refuse_special(const std::filesystem::path& path, mode_t mode, std::string_view doing) {
  if (S_ISREG(mode)) return;
  const char* what = S_ISDIR(mode)    ? "a folder"
                     : S_ISFIFO(mode) ? "a pipe"
                     : S_ISSOCK(mode) ? "a socket"
                                      : "a device";
  throw FileError(said(path, fmt::format("cannot {}: it is {}, not a plain file", doing, what)));
}

std::string bytes_of(const std::filesystem::path& path, bool input) {
  // A pipe that nobody writes to would be waited for.
  const Descriptor in(::open(path.c_str(), O_RDONLY | O_CLOEXEC | O_NONBLOCK));
  if (in.get() < 0) fail(path, "read it");
  struct stat status {};
  if (::fstat(in.get(), &status) != 0) fail(path, "read it");
  refuse_special(path, status.st_mode, "read it");
  if (input) note_input(path);
  std::string bytes;
  bytes.reserve(static_cast<std::size_t>(status.st_size));
  char buffer[1 << 16];
  for (;;) {
    const ssize_t n = ::read(in.get(), buffer, sizeof buffer);
    if (n < 0 && errno == EINTR) continue;
    if (n < 0) fail(path, "read it");
    if (n == 0) return bytes;
    bytes.append(buffer, static_cast<std::size_t>(n));
  }
}

// ".jolly-iris-HOST_BOOT_SPACE-PID-RANDOM.part": nobody can guess it, and later runs know whose it
// was. BOOT and SPACE are there because containers of one machine, or of several, may share a name
// and numbers of processes, and a folder. It has nothing of the file's own name, which may be as
// long as names can be.
constexpr std::string_view part_begin = ".jolly-iris-";
constexpr std::string_view part_end = ".part";

std::string host() {
  std::array<char, 65> name{};
  if (::gethostname(name.data(), name.size() - 1) != 0) return "host";
  std::string out(name.data());
  for (char& c : out) {
    if (c == '/' || c == '-') c = '_';
  }
  return out.empty() ? "host" : out;
}

// Where a number of a process means that process: this boot of this kernel, this space of numbers.
std::string where_processes_count() {
  std::string boot(8, '0');
  if (const Descriptor in(::open("/proc/sys/kernel/random/boot_id", O_RDONLY | O_CLOEXEC));
      in.get() >= 0) {
    if (::read(in.get(), boot.data(), boot.size()) < 0) boot = "0";
  }
  struct stat space {};
  const bool known = ::stat("/proc/self/ns/pid", &space) == 0;
  return fmt::format("{}_{}_{:x}", host(), boot, known ? space.st_ino : 0);
}

std::string part_name() {
  std::uint64_t random = 0;
  if (::getrandom(&random, sizeof random, 0) != sizeof random) {
    random = static_cast<std::uint64_t>(std::random_device{}());
  }
  return fmt::format("{}{}-{}-{:016x}{}", part_begin, where_processes_count(), ::getpid(), random,
                     part_end);
}

// Removes what runs on this host left that were killed.
void clear(const std::filesystem::path& folder) {
  static std::mutex mutex;
  static std::set<std::filesystem::path> cleared;
  {
    const std::scoped_lock lock(mutex);
    if (!cleared.insert(folder).second) return;  // once a program: a folder may hold many frames
  }
  const std::string ours = fmt::format("{}{}-", part_begin, where_processes_count());
  std::error_code error;
  for (std::filesystem::directory_iterator at(folder, error), end; !error && at != end;
       at.increment(error)) {
    const std::string name = at->path().filename().string();
    if (!name.starts_with(ours) || !name.ends_with(part_end)) continue;
    const long process = std::strtol(name.c_str() + ours.size(), nullptr, 10);
    if (process <= 0 || ::kill(static_cast<pid_t>(process), 0) == 0 || errno != ESRCH) continue;
    ::unlink(at->path().c_str());
  }
}

// Where the bytes go: behind a link, if the name is one.
std::filesystem::path behind(const std::filesystem::path& path) {
  std::error_code error;
  if (!std::filesystem::is_symlink(path, error)) return path;
  std::filesystem::path target = std::filesystem::canonical(path, error);
  if (error) throw FileError(said(path, "cannot write it: it is a link to nothing"));
  return target;
}

Identity identity_of(const struct stat& status) { return {status.st_dev, status.st_ino}; }

std::filesystem::path folder_of(const std::filesystem::path& path) {
  return path.has_parent_path() ? path.parent_path() : ".";
}

[[noreturn]] void refuse_read(const std::filesystem::path& name) {
  throw FileError(said(name, "this run read that file; write to another name"));
}

// What is there under a name that shall be written: a plain file, or nothing.
std::optional<struct stat> before_writing(const std::filesystem::path& name,
                                          const std::filesystem::path& path) {
  struct stat before {};
  if (::stat(path.c_str(), &before) != 0) return std::nullopt;
  refuse_special(name, before.st_mode, "write it");
  return before;
}

void write(const std::filesystem::path& name, std::string_view bytes, bool fresh) {
  const std::filesystem::path path = behind(name);
  const auto before = before_writing(name, path);
  if (before) {
    Kept& all = kept();
    const std::scoped_lock lock(all.mutex);
    const Identity which = identity_of(*before);
    if (fresh && all.runs > 0 && all.read.contains(which)) refuse_read(name);
    if (fresh && all.runs > 0 && all.written.contains(which)) {
      throw FileError(
          said(name, "this run wrote that file already; give each output its own name"));
    }
  }
  const std::filesystem::path folder = folder_of(path);
  clear(folder);
  const std::filesystem::path beside = folder / part_name();
  Leftover leftover(beside);
  while (stopping.load()) ::pause();  // the process is about to end
  Descriptor out(
      ::open(beside.c_str(), O_WRONLY | O_CREAT | O_EXCL | O_NOFOLLOW | O_CLOEXEC, 0666));
  if (out.get() < 0) {
    leftover.keep();
    fail(name, "write it");
  }
  if (before && ::fchmod(out.get(), before->st_mode & 07777) != 0) fail(name, "write it");
  while (!bytes.empty()) {
    const ssize_t n = ::write(out.get(), bytes.data(), bytes.size());
    if (n < 0 && errno == EINTR) continue;
    if (n < 0) fail(name, "write it");
    bytes.remove_prefix(static_cast<std::size_t>(n));
  }
  if (::fsync(out.get()) != 0 && errno != EINVAL) fail(name, "write it");
  struct stat after {};
  const bool known = ::fstat(out.get(), &after) == 0;
  if (!out.close()) fail(name, "write it");
  if (::rename(beside.c_str(), path.c_str()) != 0) fail(name, "write it");
  leftover.keep();
  Kept& all = kept();
  const std::scoped_lock lock(all.mutex);
  if (known && all.runs > 0) all.written.insert(identity_of(after));
}

}  // namespace

std::string read_whole_file(const std::filesystem::path& path) { return bytes_of(path, true); }

std::string read_own_file(const std::filesystem::path& path) { return bytes_of(path, false); }

void write_whole_file(const std::filesystem::path& path, std::string_view bytes) {
  write(path, bytes, true);
}

void rewrite_whole_file(const std::filesystem::path& path, std::string_view bytes) {
  write(path, bytes, false);
}

bool may_pass(int error) {
  switch (error) {
    case ENOSPC:
    case EDQUOT:
    case ESTALE:
    case EAGAIN:
    case EBUSY:
    case EMFILE:
    case ENFILE:
    case ENOMEM:
    case ENOLCK:
    case ETIMEDOUT:
    case EHOSTDOWN:
    case EHOSTUNREACH:
      return true;
    default:
      return false;
  }
}

void require_plain_file(const std::filesystem::path& path) {
  struct stat status {};
  if (::stat(path.c_str(), &status) != 0) fail(path, "read it");
  refuse_special(path, status.st_mode, "read it");
}

void note_input(const std::filesystem::path& path) {
  struct stat status {};
  Kept& all = kept();
  const std::scoped_lock lock(all.mutex);
  if (all.runs == 0 || ::stat(path.c_str(), &status) != 0) return;
  if (all.claimed.contains(identity_of(status))) {
    throw FileError(
        said(path, "this run is to write that file and reads it; write to another name"));
  }
  all.read.insert(identity_of(status));
}

void claim_output(const std::filesystem::path& name) {
  const std::filesystem::path path = behind(name);
  const auto before = before_writing(name, path);
  if (!before && errno != ENOENT) fail(name, "write it");
  const std::filesystem::path folder = folder_of(path);
  struct stat place {};
  if (::stat(folder.c_str(), &place) != 0 || !S_ISDIR(place.st_mode)) {
    throw FileError(
        said(name, fmt::format("cannot write it: there is no folder {}", folder.string())));
  }
  if (::access(folder.c_str(), W_OK | X_OK) != 0) fail(name, "write it");
  Kept& all = kept();
  const std::scoped_lock lock(all.mutex);
  if (all.runs == 0) return;
  if (before && all.read.contains(identity_of(*before))) refuse_read(name);
  const bool fresh =
      before ? all.claimed.insert(identity_of(*before)).second
             : all.claimed_names.insert({identity_of(place), path.filename().string()}).second;
  if (!fresh) {
    throw FileError(said(name, "two outputs of this run have that name; give each its own"));
  }
}

InputsKept::InputsKept() {
  const std::scoped_lock lock(kept().mutex);
  ++kept().runs;
}

InputsKept::~InputsKept() {
  Kept& all = kept();
  const std::scoped_lock lock(all.mutex);
  if (--all.runs > 0) return;
  all.read.clear();
  all.written.clear();
  all.claimed.clear();
  all.claimed_names.clear();
}

void leave_nothing_when_stopped() {
  (void)::signal(SIGXFSZ, SIG_IGN);
  for (const int signal : {SIGINT, SIGHUP, SIGTERM, SIGQUIT, SIGUSR1, SIGUSR2}) {
    struct sigaction action {};
    ::sigaction(signal, nullptr, &action);
    if (action.sa_handler == SIG_IGN) continue;  // as under nohup
    action.sa_handler = remove_unfinished;
    action.sa_flags = 0;
    ::sigaction(signal, &action, nullptr);
  }
}

void keep_standard_streams() {
  for (const int stream : {STDIN_FILENO, STDOUT_FILENO, STDERR_FILENO}) {
    if (::fcntl(stream, F_GETFD) != -1 || errno != EBADF) continue;
    // The lowest number that is free is this one. What may only be read refuses to be written.
    if (::open("/dev/null", O_RDONLY) < 0) return;
  }
}

}  // namespace jolly_iris
