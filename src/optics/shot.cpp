#include "jolly_iris/optics/shot.hpp"

#include "optics/enum_name.hpp"

namespace jolly_iris {

std::string_view to_string(Origin::Source source) {
  return name_of<Origin::Source::guessed>(source,
                                          {"noted", "metadata", "solved", "tried", "guessed"});
}

std::string_view to_string(DistanceKind kind) {
  return name_of<DistanceKind::floor>(kind, {"axial", "radial", "tape", "mark", "floor"});
}

std::string_view to_string(Runs runs) {
  return name_of<Runs::across>(runs, {"anyhow", "vertical", "level", "across"});
}

std::string_view to_string(Transfer transfer) {
  return name_of<Transfer::managed>(transfer,
                                    {"linear", "sRGB", "Rec.709", "ACEScct", "table", "managed"});
}

std::string_view to_string(SceneLight light) {
  return name_of<SceneLight::unscaled>(light, {"not said", "cd/m2", "unscaled"});
}

std::string Shot::where(const std::string& key) const {
  if (key.empty()) return {};
  const auto found = origins.find(key);
  if (found != origins.end()) return found->second.place + ": " + key + ": ";
  // A table or a list stands where its first part does.
  for (const char* part : {"[", "."}) {
    const auto first = origins.lower_bound(key + part);
    if (first != origins.end() && first->first.starts_with(key + part)) {
      return first->second.place + ": " + key + ": ";
    }
  }
  return key + ": ";
}

}  // namespace jolly_iris
