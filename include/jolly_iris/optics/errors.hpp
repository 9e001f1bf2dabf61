// What can go wrong, as types. Every message is a sentence with the place, the value that was read
// and what would be right; the command line maps each type to one exit code.
#pragma once

#include <stdexcept>
#include <string>
#include <utility>

#include "jolly_iris/export.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// Anything Jolly Iris refuses to do. Catch this to catch all of them.
class Error : public std::runtime_error {
 public:
  using std::runtime_error::runtime_error;
};

/// The optics say no: the values are well formed, but no camera has them (a mark closer than four
/// focal lengths, a subject behind the camera, an outline that crosses itself). Exit code 1.
/// `key()` names the shot-file key at fault where one can be named, e.g. `take.mark`.
class OpticsError : public Error {
 public:
  explicit OpticsError(const std::string& what, std::string key = {})
      : Error(what), key_(std::move(key)) {}
  const std::string& key() const { return key_; }

 private:
  std::string key_;
};

/// What was asked for makes no sense: wrong option, unknown key, missing unit. Exit code 2.
class UsageError : public Error {
 public:
  using Error::Error;
};

/// A quantity that cannot be read, e.g. "58" where a length with its unit was needed.
class QuantityError : public UsageError {
 public:
  using UsageError::UsageError;
};

/// A picture's contents cannot be used: a depth that is no number, a size that does not fit. Exit
/// code 3.
class PictureError : public Error {
 public:
  using Error::Error;
};

/// A picture has no depth where some is needed, or a distance for all of it.
class NoDepthError : public PictureError {
 public:
  using PictureError::PictureError;
};

/// Work that would take more memory than it may (see memory.hpp). Exit code 3.
class MemoryError : public Error {
 public:
  using Error::Error;
};

/// A file is missing, cut off, of the wrong kind, or cannot be written. Exit code 3.
class FileError : public Error {
 public:
  using Error::Error;
};

/// A file could not be read or written for a reason that may pass by itself: a full disk, a stale
/// handle of a network's file system, too many open files. The same call may work later. Exit code
/// 75 (EX_TEMPFAIL of BSD's sysexits.h), by which schedulers know to try again.
class TransientError : public FileError {
 public:
  using FileError::FileError;
};

}  // namespace jolly_iris
