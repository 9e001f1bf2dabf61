#include "pull_keys.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <cmath>

namespace jolly_iris {

namespace {

// "frame = 1001", "at = \"2.4 m\"", …
std::vector<std::string> entries_of(const PullKey& key) {
  const std::string at =
      key.dioptres > 1e-6 ? fmt::format("{:.4g} m", 1.0 / key.dioptres) : std::string("infinity");
  std::vector<std::string> out{fmt::format("frame = {:g}", key.frame),
                               fmt::format("at = \"{}\"", at)};
  const Ease steady{.kind = Ease::Kind::linear};
  const Ease& ease = key.ease ? *key.ease : steady;
  out.push_back(fmt::format("ease = \"{}\"", to_string(ease.kind)));
  if (ease.kind == Ease::Kind::overshoot) {
    out.push_back(fmt::format("by = {:.3g}", ease.by));
    out.push_back(fmt::format("swings = {}", ease.swings));
  }
  return out;
}

}  // namespace

void add_key(std::vector<PullKey>& keys, PullKey key) {
  key.frame = std::round(10.0 * key.frame) / 10.0;
  if (!keys.empty() && key.frame <= keys.back().frame) return;
  keys.push_back(key);
}

std::string pull_tables(const std::vector<PullKey>& keys) {
  std::string out;
  for (const PullKey& key : keys) {
    out +=
        fmt::format("{}[[pull]]\n{}\n", out.empty() ? "" : "\n", fmt::join(entries_of(key), "\n"));
  }
  return out;
}

std::string pull_list(const std::vector<PullKey>& keys) {
  std::vector<std::string> rows;
  for (const PullKey& key : keys) {
    rows.push_back(fmt::format("{{ {} }}", fmt::join(entries_of(key), ", ")));
  }
  return fmt::format("[{}]", fmt::join(rows, ", "));
}

}  // namespace jolly_iris
