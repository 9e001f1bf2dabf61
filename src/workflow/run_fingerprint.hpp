// Whether a picture that is there already is the one that would be made now: a number for all that
// it hangs on, kept in its header.
#pragma once

#include <cstdint>
#include <map>
#include <mutex>
#include <string>
#include <vector>

#include "jolly_iris/workflow/load.hpp"

namespace jolly_iris {

/// FNV-1a, 64 bits (Fowler, Noll, Vo; RFC draft-eastlake-fnv): it tells accidents apart, not
/// forgeries.
class Fingerprint {
 public:
  void add(const std::string& text);
  /// The bytes of a file; of one that is not there, that it is not.
  void add_file(const std::string& file);
  std::string text() const;  ///< 16 hexadecimal digits

 private:
  std::uint64_t hash_ = 0xcbf29ce484222325ULL;
};

/// Of a text: tells whether it was changed.
std::string text_version(const std::string& text);

/// Fingerprints of files' contents, each read once a run. For many threads.
class FileHashes {
 public:
  std::string of(const std::string& file);

 private:
  std::mutex mutex_{};
  std::map<std::string, std::string> known_{};
};

/// Of one picture: the shot with every file that it was read from and what was tried in it, what
/// the work says of its settings, the contents of its input files.
std::string fingerprint_of(const LoadedShot& now, const std::vector<std::string>& inputs,
                           const std::string& settings, double frame, FileHashes& hashes);

/// What a picture's header keeps of it: by our own name where the format takes any, and with the
/// software's name in those that do not.
std::map<std::string, std::string> header_of(const std::string& fingerprint);

/// Whether a picture is there, whole, and has this fingerprint.
bool is_made(const std::string& picture, const std::string& fingerprint);

}  // namespace jolly_iris
