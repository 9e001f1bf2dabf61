// One shot with several lenses, or several values of one key, to be looked at side by side.
#pragma once

#include <string>
#include <vector>

#include "jolly_iris/export.hpp"
#include "jolly_iris/optics/execution.hpp"
#include "jolly_iris/picture/picture.hpp"
#include "jolly_iris/workflow/load.hpp"
#include "jolly_iris/workflow/tried_picture.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// Values of one key, each to be tried. Of `variant` a value names a variant of the shot, or
/// several of them stacked, "night+wide"; the shot without any is tried before them.
struct Steps {
  std::string key{};
  std::vector<std::string> values{};
  std::string place = "tried";  ///< where they were given, for messages: the option, the field
};

bool tries_variants(const Steps& steps);

struct TriedValue {
  std::string name{};  ///< for people: a file's stem, a variant's name
  std::string text{};  ///< of the key; empty: as in the shot
};
/// What is tried, in order.
std::vector<TriedValue> tried_values(const Steps& steps);

struct LensTry {
  std::string name{};
  LoadedShot loaded{};
};

struct LensTries {
  std::string shot{};  ///< the shot's file
  std::string key{};   ///< that is varied; empty: whole lenses
  std::vector<LensTry> tries{};
  bool whole_lenses() const { return key.empty(); }
  bool variants() const { return key == "variant"; }
};

LensTries try_values(const ShotRequest& shot, const Steps& steps, std::vector<std::string>& files);

/// The shot's own lens and others, each on a gate so much larger or smaller that it frames alike.
/// @param lenses lens files
/// @throws UsageError for a lens that no gate can give the shot's framing
LensTries try_lenses(const ShotRequest& shot, const std::vector<std::string>& lenses,
                     std::vector<std::string>& files);

/// How the scene is shown through each.
struct SceneLook {
  bool traced = false;  ///< else defocused
  std::string
      sharp{};  ///< a sharp picture with depth to defocus; empty: the scene is traced for it
  double width = 640.0;   ///< px at most
  double height = 400.0;  ///< likewise
};

struct TriedScenes {
  bool traced = false;
  std::vector<Picture> pictures{};   ///< one a try
  std::vector<TryLight> lights{};    ///< of variants, beside the first; else none: as bright and
                                     ///< white as the scene is
  std::vector<std::string> notes{};  ///< what reading the sharp picture decided or doubts
};

/// @throws UsageError for a shot without a scene and no sharp picture; Cancelled
TriedScenes render_tries(const LensTries& tries, const SceneLook& look,
                         std::vector<std::string>& files, const Execution& execution = {});

}  // namespace jolly_iris
