#include "jolly_iris/optics/shot.hpp"

namespace jolly_iris {

std::string_view to_string(Origin::Source source) {
  switch (source) {
    case Origin::Source::noted:
      return "noted";
    case Origin::Source::metadata:
      return "metadata";
    case Origin::Source::solved:
      return "solved";
    case Origin::Source::tried:
      break;
  }
  return "tried";
}

std::string_view to_string(DistanceKind kind) {
  switch (kind) {
    case DistanceKind::axial:
      return "axial";
    case DistanceKind::radial:
      return "radial";
    case DistanceKind::tape:
      return "tape";
    case DistanceKind::mark:
      return "mark";
    case DistanceKind::floor:
      break;
  }
  return "floor";
}

std::string_view to_string(Runs runs) {
  switch (runs) {
    case Runs::vertical:
      return "vertical";
    case Runs::level:
      return "level";
    case Runs::across:
      return "across";
    case Runs::anyhow:
      break;
  }
  return "anyhow";
}

std::string_view to_string(Transfer transfer) {
  switch (transfer) {
    case Transfer::linear:
      return "linear";
    case Transfer::srgb:
      return "sRGB";
    case Transfer::rec709:
      return "Rec.709";
    case Transfer::acescct:
      return "ACEScct";
    case Transfer::table:
      break;
  }
  return "table";
}

std::string_view to_string(SceneLight light) {
  switch (light) {
    case SceneLight::candela:
      return "cd/m2";
    case SceneLight::unscaled:
      return "unscaled";
    case SceneLight::unsaid:
      break;
  }
  return "not said";
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
