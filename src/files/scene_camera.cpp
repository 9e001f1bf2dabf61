#include "scene_camera.hpp"

#include <fmt/format.h>

#include <cmath>

#include "jolly_iris/optics/range.hpp"

namespace jolly_iris {

std::string unusual(const SceneCamera& camera) {
  const auto refused = [](const char* what, const std::optional<double>& value, const Range& range,
                          const char* unit) {
    return value && !range.holds(*value) ? fmt::format("{} of {:g} {}; they are {}", what, *value,
                                                       unit, words_of(range, unit))
                                         : std::string();
  };
  for (const std::string& why :
       {refused("a gate", camera.gate_width_mm, range::scene_gate_mm, "mm"),
        refused("a gate", camera.gate_height_mm, range::scene_gate_mm, "mm"),
        refused("a width to height", camera.aspect, range::factor, ""),
        refused("a stop", camera.f_number, range::stop, ""),
        refused("a focus distance", camera.focus_m, range::focus_m, "m"),
        refused("a shift", camera.shift_right_mm, range::entry, "mm"),
        refused("a shift", camera.shift_up_mm, range::entry, "mm"),
        refused("a view from top to bottom", camera.yfov, range::view, "radians")}) {
    if (!why.empty()) return why;
  }
  return "";
}

}  // namespace jolly_iris
