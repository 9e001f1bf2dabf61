#include "scale_check.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>

namespace jolly_iris {

std::string scale_reason(double factor) {
  struct Known {
    double factor;
    const char* small;  // the smaller unit and the larger one
    const char* large;
  };
  constexpr std::array known{Known{10.0, "millimetres", "centimetres"},
                             Known{100.0, "centimetres", "metres"},
                             Known{1000.0, "millimetres", "metres"},
                             Known{2.54, "centimetres", "inches"},
                             Known{12.0, "inches", "feet"},
                             Known{30.48, "centimetres", "feet"},
                             Known{39.37, "inches", "metres"},
                             Known{25.4, "millimetres", "inches"},
                             Known{304.8, "millimetres", "feet"},
                             Known{3.2808, "feet", "metres"}};
  constexpr double near = 0.08;  // sizes are measured by hand
  // Several factors lie close together (10 and 12, 25.4 and 30.48): the nearest counts.
  const double times = std::max(factor, 1.0 / factor);
  const Known* best = nullptr;
  for (const Known& k : known) {
    const double off = std::abs(std::log(times / k.factor));
    if (off < near && (best == nullptr || off < std::abs(std::log(times / best->factor))))
      best = &k;
  }
  if (best == nullptr) return {};
  return factor > 1.0 ? fmt::format("near {:g}: {} were taken for {}", best->factor, best->small,
                                    best->large)
                      : fmt::format("near 1/{:g}: {} were taken for {}", best->factor, best->large,
                                    best->small);
}

std::vector<ScaleFinding> scale_check(const Shot& shot, const std::vector<SubjectPlace>& places) {
  constexpr double tolerance = 0.1;
  std::vector<ScaleFinding> findings;
  for (const SubjectEntry& entry : shot.subjects) {
    if (!entry.size) continue;
    const auto place = std::find_if(places.begin(), places.end(),
                                    [&](const SubjectPlace& p) { return p.name == entry.name; });
    if (place == places.end() || !place->longest_m || !(*place->longest_m > 0.0)) continue;
    const double factor = *place->longest_m / entry.size->m();
    if (std::abs(std::log(factor)) < std::log1p(tolerance)) continue;
    const std::string reason = scale_reason(factor);
    findings.push_back(
        {entry.name, factor,
         fmt::format(
             "{} is {:.4g} m long in the scene but {:.4g} m really, {:.4g} times {}{}. "
             "Blur depends on true sizes: make the scene {:.4g} times its size (scene.scale "
             "= {:.4g}), or correct the size.",
             entry.name, *place->longest_m, entry.size->m(), factor > 1.0 ? factor : 1.0 / factor,
             factor > 1.0 ? "too large" : "too small",
             reason.empty() ? "" : fmt::format(" ({})", reason), 1.0 / factor,
             shot.scene ? shot.scene->scale / factor : 1.0 / factor)});
  }
  return findings;
}

}  // namespace jolly_iris
