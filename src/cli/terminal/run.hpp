// The command line as a function, so that tests drive the very thing that people use.
#pragma once

#include <iosfwd>
#include <string>
#include <vector>

namespace jolly_iris::cli {

/// Runs one verb. What is said is plain text, whatever names it holds. With --json, an error is an
/// object `error` on `out` as well, if nothing else was said there.
/// @param args without the program's name
/// @return 0 done, 1 the optics say no, 2 wrong usage, 3 a file is missing or unreadable
int run(const std::vector<std::string>& args, std::ostream& out, std::ostream& err);

}  // namespace jolly_iris::cli
