// Which exit code and which name in the JSON an error has.
#pragma once

#include <exception>
#include <string>

#include "jolly_iris/optics/errors.hpp"

namespace jolly_iris::cli {

struct ErrorKind {
  int code = 3;  // files, pictures, and what the system refused
  const char* name = "system";
};

ErrorKind kind_of(const std::exception& e);

/// What is said of it.
std::string sentence_of(const std::exception& e);

/// Some of many (frames, shots) failed, and the run went on; what it found is said already.
class PartlyFailed : public Error {
 public:
  PartlyFailed(const std::string& what, ErrorKind kind) : Error(what), kind_(kind) {}
  ErrorKind kind() const { return kind_; }

 private:
  ErrorKind kind_;
};

}  // namespace jolly_iris::cli
