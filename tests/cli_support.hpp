// The command line in-process.
#pragma once

#include <sstream>
#include <string>
#include <vector>

#include "cli/terminal/run.hpp"
#include "support.hpp"

namespace jolly_iris::testing {

struct Ran {
  int code = 0;
  std::string out{};
  std::string err{};
};

inline Ran run(const std::vector<std::string>& args) {
  std::ostringstream out;
  std::ostringstream err;
  const int code = cli::run(args, out, err);
  return {code, out.str(), err.str()};
}

}  // namespace jolly_iris::testing
