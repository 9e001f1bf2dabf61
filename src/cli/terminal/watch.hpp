// Doing something again whenever one of its files is saved.
#pragma once

#include <functional>
#include <string>
#include <vector>

namespace jolly_iris::cli {

/// Runs `work`, which names the files it read, and again whenever one of them changes, for ever.
/// A file that is gone for a moment (as editors save) is waited for.
[[noreturn]] void watch(const std::function<std::vector<std::string>()>& work);

}  // namespace jolly_iris::cli
