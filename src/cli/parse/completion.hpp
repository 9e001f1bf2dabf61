// What a shell completes after Tab: verbs, their options, files; keys that the shot at hand says,
// for
// --set, and who stands in it, for --set focus.on=. Written by the tool itself, so that it knows
// what this version has.
#pragma once

#include <string>

namespace jolly_iris::cli {

/// A script to be sourced. @param shell "bash" or "zsh" @throws UsageError for another
std::string completion_script(const std::string& shell);

}  // namespace jolly_iris::cli
