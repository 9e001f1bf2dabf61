// How much memory work may take, so that a large picture or a wrong header is a sentence and not
// the end of the machine.
#pragma once

#include <cstddef>
#include <functional>
#include <memory>
#include <string>

#include "jolly_iris/export.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// Bytes that work may take: what was set, else ¾ of what the machine has, or of what its container
/// allows.
std::size_t memory_limit();

/// Sets it for this process. @throws UsageError below 64 MB, which the libraries take alone
void set_memory_limit(std::size_t bytes);

/// "512 MB" or "8 GB" in bytes, powers of ten. @throws QuantityError for no such size
std::size_t parse_memory(const std::string& text);

/// While one lives, work of two gigabytes or more is told before it begins, once a sentence:
/// "blurring a picture of 10240 x 5760 pixels takes about 6.2 GB of memory". Of several the last is
/// told.
class MemoryTold {
 public:
  explicit MemoryTold(std::function<void(const std::string&)> told);
  ~MemoryTold();
  MemoryTold(const MemoryTold&) = delete;
  MemoryTold& operator=(const MemoryTold&) = delete;

 private:
  struct Ear;
  friend void require_memory(double bytes, const std::string& what);
  std::unique_ptr<Ear> ear_;
};

/// Asks for address space (ulimit -v), for what would end the process where that runs out.
/// @throws MemoryError "… takes 480 MB of address space, more than the 63 MB that are left of what
///         this process may use"
void require_address_space(double bytes, const std::string& what);

/// Asks before the work. @param what "a picture of 90000 x 90000 pixels"
/// @throws MemoryError "… takes about 130 GB, more than the 12.6 GB that may be used"
void require_memory(double bytes, const std::string& what);

}  // namespace jolly_iris
