// From what is wanted to focus, stop, lens and stand, for a shot as it is: with what to try it
// with.
#pragma once

#include <array>
#include <optional>
#include <string>
#include <vector>

#include "jolly_iris/export.hpp"
#include "jolly_iris/measure/lines.hpp"
#include "jolly_iris/optics/blur_size.hpp"
#include "jolly_iris/optics/perspective.hpp"
#include "jolly_iris/optics/solve.hpp"
#include "jolly_iris/scene/clip.hpp"
#include "jolly_iris/workflow/load.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// Two things that shall both be just sharp.
struct HoldSolution {
  Length near{};
  Length far{};
  Hold found{};
  bool closed_for_faults = false;  ///< further than a perfect lens would have to be
  VirtualCamera camera{};  ///< with that stop and focus, whether the lens opens so far or not
};
/// @param a subject or distance, as b
HoldSolution solve_hold(const LoadedShot& loaded, const std::string& a, const std::string& b);

/// A blur that something shall have, by the stop or by another lens from another place.
struct BlurSolution {
  std::string at{};
  Length z{};
  Length coc{};
  VirtualCamera now{};
  std::optional<Stop> stop{};
  VirtualCamera camera{};  ///< with that stop
  std::optional<LensAndDistance> lens{};
};
BlurSolution solve_blur(const LoadedShot& loaded, const BlurSize& blur, const std::string& at,
                        bool by_lens);

/// The same picture on another body.
struct BodySolution {
  std::string file{};
  Body body{};
  double adapter = 1.0;
  Equivalent found{};
};
BodySolution solve_body(const LoadedShot& loaded, const std::string& file, double adapter,
                        std::vector<std::string>& files);

/// Who knows how the camera leans: the camera if it has a place, else edges drawn in the plate.
enum class LeanFrom { usual, camera, lines };

struct LevelSolution {
  Lean lean{};
  LeanFrom from = LeanFrom::usual;
  std::optional<FoundPerspective> lines{};  ///< what drawn edges say, where there are enough
  bool lines_straightened = false;          ///< they were taken without their distortion
  bool plate_disagrees = false;             ///< beyond its margin
  LevelCamera level{};
  std::optional<Equivalent>
      lens{};  ///< the marked lens it amounts to; none for what is mounted here
};
/// @param keep a subject, or "x,y" px: what keeps its place and size; empty: the middle
/// @throws OpticsError where the lean is not known; UsageError for a place that is none
LevelSolution solve_level(const LoadedShot& loaded, LeanFrom from, const std::string& keep);

/// @throws UsageError for a shot without a scene, or nodes that are not there
Clip solve_clip(const LoadedShot& loaded, const std::vector<std::string>& nodes);

/// What to lay over the shot to try it.
std::vector<Override> overrides_for(const HoldSolution& s, const LoadedShot& loaded);
std::vector<Override> overrides_for(const BlurSolution& s, const LoadedShot& loaded);
std::vector<Override> overrides_for(const BodySolution& s, const LoadedShot& loaded);
std::vector<Override> overrides_for(const LevelSolution& s, const LoadedShot& loaded);

}  // namespace jolly_iris
