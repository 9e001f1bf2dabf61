#include "optics/nearest.hpp"

#include <algorithm>
#include <cctype>

namespace jolly_iris {

namespace {
char lower(char c) { return static_cast<char>(std::tolower(static_cast<unsigned char>(c))); }
}  // namespace

int edit_distance(std::string_view a, std::string_view b) {
  const std::size_t rows = a.size() + 1;
  const std::size_t columns = b.size() + 1;
  std::vector<std::vector<int>> d(rows, std::vector<int>(columns, 0));
  for (std::size_t i = 0; i < rows; ++i) d[i][0] = static_cast<int>(i);
  for (std::size_t j = 0; j < columns; ++j) d[0][j] = static_cast<int>(j);
  for (std::size_t i = 1; i < rows; ++i) {
    for (std::size_t j = 1; j < columns; ++j) {
      const bool same = lower(a[i - 1]) == lower(b[j - 1]);
      d[i][j] = std::min({d[i - 1][j] + 1, d[i][j - 1] + 1, d[i - 1][j - 1] + (same ? 0 : 1)});
      const bool swapped = i > 1 && j > 1 && lower(a[i - 1]) == lower(b[j - 2]) &&
                           lower(a[i - 2]) == lower(b[j - 1]);
      if (swapped) d[i][j] = std::min(d[i][j], d[i - 2][j - 2] + 1);
    }
  }
  return d[rows - 1][columns - 1];
}

std::optional<std::string> nearest_name(std::string_view name,
                                        const std::vector<std::string>& candidates) {
  std::optional<std::string> best;
  int best_distance = 0;
  constexpr std::size_t longest_name = 200;  // a slip of the pen is in what a person wrote
  if (name.size() > longest_name) return best;
  for (const std::string& candidate : candidates) {
    if (candidate.size() > longest_name) continue;
    const int distance = edit_distance(name, candidate);
    const auto longest = static_cast<int>(std::max(name.size(), candidate.size()));
    if (2 * distance > longest) continue;
    if (!best || distance < best_distance) {
      best = candidate;
      best_distance = distance;
    }
  }
  return best;
}

std::string did_you_mean(std::string_view name, const std::vector<std::string>& candidates) {
  if (candidates.empty()) return {};
  if (const auto near = nearest_name(name, candidates)) return " Did you mean '" + *near + "'?";
  std::string list;
  constexpr std::size_t most = 12;
  std::vector<std::string> shown;
  for (const std::string& c : candidates) {
    if (std::find(shown.begin(), shown.end(), c) != shown.end()) continue;
    if (shown.size() == most) {
      list += ", …";
      break;
    }
    shown.push_back(c);
    list += (list.empty() ? "'" : ", '") + c + "'";
  }
  return " Known: " + list + ".";
}

}  // namespace jolly_iris
