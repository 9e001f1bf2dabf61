#include "jolly_iris/optics/memory.hpp"

#include <fmt/format.h>
#include <sys/resource.h>
#include <unistd.h>

#include <algorithm>
#include <atomic>
#include <charconv>
#include <fstream>
#include <mutex>
#include <set>
#include <utility>

#include "jolly_iris/optics/errors.hpp"

namespace jolly_iris {

namespace {

std::atomic<std::size_t> limit_set{0};

std::size_t machine_has() {
  const long pages = ::sysconf(_SC_PHYS_PAGES);
  const long page = ::sysconf(_SC_PAGESIZE);
  constexpr std::size_t unknown = 4'000'000'000;
  std::size_t bytes = pages > 0 && page > 0
                          ? static_cast<std::size_t>(pages) * static_cast<std::size_t>(page)
                          : unknown;
  // What a container allows; "max", or no file, where it says nothing.
  std::ifstream file("/sys/fs/cgroup/memory.max");
  std::size_t allowed = 0;
  if (file >> allowed && allowed > 0) bytes = std::min(bytes, allowed);
  return bytes;
}

constexpr double worth_telling = 2e9;

std::string in_words(double bytes) {
  return bytes < 1e9 ? fmt::format("{:.0f} MB", bytes / 1e6)
                     : fmt::format("{:.3g} GB", bytes / 1e9);
}

}  // namespace

std::size_t memory_limit() {
  const std::size_t set = limit_set.load();
  if (set != 0) return set;
  static const std::size_t usual = machine_has() / 4 * 3;
  return usual;
}

void set_memory_limit(std::size_t bytes) {
  constexpr std::size_t least = 64'000'000;
  if (bytes < least) {
    throw UsageError(fmt::format("{} of memory: it takes {} to do anything",
                                 in_words(static_cast<double>(bytes)),
                                 in_words(static_cast<double>(least))));
  }
  limit_set.store(bytes);
}

std::size_t parse_memory(const std::string& text) {
  double value = 0.0;
  const auto [end, error] = std::from_chars(text.data(), text.data() + text.size(), value);
  std::string unit(end, text.data() + text.size());
  unit.erase(0, unit.find_first_not_of(' '));
  const double times = unit == "MB" ? 1e6 : unit == "GB" ? 1e9 : unit == "TB" ? 1e12 : 0.0;
  if (error != std::errc{} || times == 0.0 || !(value * times >= 1.0 && value * times <= 1e18)) {
    throw QuantityError(
        fmt::format("'{}' is not an amount of memory; write e.g. 800 MB or 8 GB", text));
  }
  return static_cast<std::size_t>(value * times);
}

struct MemoryTold::Ear {
  std::function<void(const std::string&)> told;
  Ear* before;
  std::set<std::string> known{};

  static std::mutex& mutex() {
    static std::mutex one;
    return one;
  }
  static Ear*& last() {
    static Ear* ear = nullptr;
    return ear;
  }
  static void hear(const std::string& sentence) {
    const std::scoped_lock lock(mutex());
    if (last() != nullptr && last()->known.insert(sentence).second) last()->told(sentence);
  }
};

MemoryTold::MemoryTold(std::function<void(const std::string&)> told)
    : ear_(new Ear{std::move(told), nullptr}) {
  const std::scoped_lock lock(Ear::mutex());
  ear_->before = std::exchange(Ear::last(), ear_.get());
}

MemoryTold::~MemoryTold() {
  const std::scoped_lock lock(Ear::mutex());
  Ear::last() = ear_->before;
}

void require_address_space(double bytes, const std::string& what) {
  struct rlimit allowed {};
  if (::getrlimit(RLIMIT_AS, &allowed) != 0 || allowed.rlim_cur == RLIM_INFINITY) return;
  // Pages in use come first (proc(5)).
  std::ifstream file("/proc/self/statm");
  double pages = 0.0;
  file >> pages;
  const double left = static_cast<double>(allowed.rlim_cur) -
                      pages * static_cast<double>(std::max(0L, ::sysconf(_SC_PAGESIZE)));
  if (bytes <= left) return;
  throw MemoryError(
      fmt::format("{} takes {} of address space, more than the {} that are left of what this "
                  "process may use (ulimit -v)",
                  what, in_words(bytes), in_words(std::max(0.0, left))));
}

void require_memory(double bytes, const std::string& what) {
  const auto limit = static_cast<double>(memory_limit());
  if (bytes <= limit) {
    if (bytes >= worth_telling) {
      MemoryTold::Ear::hear(fmt::format("{} takes about {} of memory", what, in_words(bytes)));
    }
    return;
  }
  throw MemoryError(fmt::format("{} takes about {}, more than the {} that may be used", what,
                                in_words(bytes), in_words(limit)));
}

}  // namespace jolly_iris
