#include "jolly_iris/match.hpp"

#include "backend.hpp"
#include "jolly_iris/module.hpp"

namespace jolly_iris {

namespace {
const matching::Backend& backend() {
  static const auto* loaded = static_cast<const matching::Backend*>(
      module_entry("libjolly_iris_matching.so", matching::entry_name));
  return *loaded;
}
}  // namespace

std::string_view to_string(Unknown unknown) {
  switch (unknown) {
    case Unknown::focal:
      return "focal length";
    case Unknown::gate:
      return "gate";
    case Unknown::stop:
      return "stop";
    case Unknown::focus:
      return "focus";
    case Unknown::squeeze:
      return "squeeze";
    case Unknown::scale:
      return "scene scale";
    case Unknown::distance:
      return "camera distance";
    case Unknown::exposure:
      return "exposure";
    case Unknown::white:
      break;
  }
  return "white";
}

// Marks on barrels are rounded, stops lie between their engravings, tapes sag.
double usual_deviation(Unknown unknown) {
  switch (unknown) {
    case Unknown::focal:
      return 0.01;
    case Unknown::gate:
      return 0.003;
    case Unknown::stop:
      return 0.04;
    case Unknown::focus:
      return 0.03;
    case Unknown::exposure:
      return 0.3;  // shutters and sensitivities are as said to a tenth of a stop, T-numbers less
    case Unknown::white:
      return 0.03;
    case Unknown::squeeze:
    case Unknown::scale:
    case Unknown::distance:
      break;
  }
  return 0.01;
}

MatchResult match(const Notes& notes, const std::vector<Observation>& seen,
                  const MatchSettings& settings) {
  return backend().match({{notes, seen}}, settings).front();
}

std::vector<MatchResult> match(const std::vector<NotedPlate>& plates,
                               const MatchSettings& settings) {
  return backend().match(plates, settings);
}

Explanations explanations(const Notes& notes, const std::vector<Observation>& seen) {
  return backend().explanations({{notes, seen}}, {});
}

Explanations explanations(const std::vector<NotedPlate>& plates,
                          const std::vector<Unknown>& shared) {
  return backend().explanations(plates, shared);
}

}  // namespace jolly_iris
