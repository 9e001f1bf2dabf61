#include "report/measured.hpp"

#include <fmt/format.h>

#include <cmath>

#include "report/text.hpp"

namespace jolly_iris::report {

Json json_of(const Measured& m) { return {{"value", m.value}, {"margin", m.margin}}; }

Json finite(double v) { return std::isfinite(v) ? Json(v) : Json(nullptr); }

Json metres_json(Length l) { return finite(l.m()); }

namespace {

// As it is given again: a key of the focus goes by its frame, "pull.1024.on".
std::string asked_as(const Shot& shot, std::string key) {
  for (std::size_t i = 0; i < shot.pulls.size(); ++i) {
    const std::string row = fmt::format("pull[{}].", i);
    if (key.starts_with(row))
      key.replace(0, row.size(), fmt::format("pull.{}.", shot.pulls[i].frame));
  }
  return key;
}

}  // namespace

std::string tried_line(const Shot& shot) {
  const auto listed = [&](Origin::Source source, const std::string& head) {
    std::string list;
    for (const auto& [key, origin] : shot.origins) {
      if (origin.source != source) continue;
      list +=
          fmt::format("{}{} = {}", list.empty() ? head : ", ", asked_as(shot, key), origin.text);
    }
    return list;
  };
  std::string text;
  if (!shot.solved.empty()) {
    text += wrapped(
        listed(Origin::Source::solved,
               fmt::format("solved from the plate ({}), not noted: ", file_name(shot.solved))),
        "", "  ");
  }
  if (!shot.solved_left.empty()) text += wrapped(shot.solved_left, "", "  ");
  const std::string tried = listed(Origin::Source::tried, "tried, not in the file: ");
  return tried.empty() ? text : text + tried + '\n';
}

Json written_json(const std::vector<std::string>& names,
                  const std::map<std::string, double>& numbers, const Shot* shot) {
  Json j{{"written", names}};
  for (const auto& [key, value] : numbers) j[key] = value;
  if (shot == nullptr) return j;
  for (const auto& [key, origin] : shot->origins) {
    if (origin.source == Origin::Source::tried) j["tried"][key] = origin.text;
    if (origin.source == Origin::Source::solved) j["solved"][key] = origin.text;
  }
  return j;
}

}  // namespace jolly_iris::report
