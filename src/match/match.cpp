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
      break;
  }
  return "scene scale";
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
    case Unknown::squeeze:
      return 0.01;
    case Unknown::scale:
      break;
  }
  return 0.01;
}

MatchResult match(const Notes& notes, const std::vector<Observation>& seen,
                  const MatchSettings& settings) {
  return backend().match(notes, seen, settings);
}

Explanations explanations(const Notes& notes, const std::vector<Observation>& seen) {
  return backend().explanations(notes, seen);
}

}  // namespace jolly_iris
