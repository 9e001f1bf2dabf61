#include "jolly_iris/match/match.hpp"

#include <fmt/format.h>

#include <cmath>

#include "optics/enum_name.hpp"

namespace jolly_iris {

std::string_view to_string(Parameter parameter) {
  return name_of<Parameter::focus_change>(
      parameter, {"focal length", "gate", "stop", "focus", "squeeze", "scene scale",
                  "camera distance", "exposure", "white", "focus change"});
}

std::string value_text(Parameter u, double v) {
  switch (u) {
    case Parameter::focal:
    case Parameter::gate:
      return fmt::format("{:.2f} mm", v);
    case Parameter::stop:
      return fmt::format("{:.3f}", v);
    case Parameter::focus:
      return std::isinf(v) ? std::string("infinity") : fmt::format("{:.3f} m", v);
    case Parameter::distance:
      return fmt::format("{:.3f} m", v);
    case Parameter::exposure:
      return fmt::format("{:.2f} stops", v);
    case Parameter::white:
      return fmt::format("{:.0f} K", v);
    case Parameter::focus_change:
      return fmt::format("{:.3f} dpt", v);
    case Parameter::squeeze:
    case Parameter::scale:
      break;
  }
  // A scene that is a hundred times too large has a scale and a margin, too.
  return std::abs(v) < 0.015 ? fmt::format("{:.3g} x", v) : fmt::format("{:.3f} x", v);
}

// Marks on barrels are rounded, stops lie between their engravings, tapes sag.
double usual_deviation(Parameter parameter) {
  switch (parameter) {
    case Parameter::focal:
      return 0.01;
    case Parameter::gate:
      return 0.003;
    case Parameter::stop:
      return 0.04;
    case Parameter::focus:
      return 0.03;
    case Parameter::exposure:
      return 0.3;  // shutters and sensitivities are as said to a tenth of a stop, T-numbers less
    case Parameter::white:
      return 0.03;
    case Parameter::squeeze:
    case Parameter::scale:
    case Parameter::distance:
    case Parameter::focus_change:
      break;
  }
  return 0.01;
}

MatchResult match(const CameraEstimate& estimate, const std::vector<Observation>& seen,
                  const MatchSettings& settings) {
  return match(std::vector<NotedPlate>{{estimate, seen}}, settings).front();
}

HypothesisRanking rank_hypotheses(const CameraEstimate& estimate,
                                  const std::vector<Observation>& seen) {
  return rank_hypotheses(std::vector<NotedPlate>{{estimate, seen}});
}

}  // namespace jolly_iris
