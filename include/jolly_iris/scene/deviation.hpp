// How an existing CG camera differs from what the shot wants, in plain words with likely reasons.
#pragma once

#include <optional>
#include <string>
#include <vector>
#include "jolly_iris/export.hpp"
#include "jolly_iris/optics/geometry.hpp"

#include "jolly_iris/optics/cg_camera.hpp"
#include "jolly_iris/scene/answer.hpp"
#include "jolly_iris/scene/scene.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// One thing that differs.
struct Deviation {
  enum class What { framing, opening, focus, squeeze, blades, shift, place, turn };
  What what = What::framing;
  double amount = 0.0;    ///< framing, opening: found / wanted; focus, place: metres; turn: degrees
  std::string message{};  ///< "opening 3.1 x too wide for f/2: like f/0.645 on the lens"
  std::string reason{};   ///< "that is its diameter where the radius belongs"; empty if none fits
};

/// The camera of a scene file, as a CG camera. @throws as camera_place
struct PlacedCamera {
  CgCamera camera{};
  std::optional<Pose> place{};
};
PlacedCamera camera_in(const Scene& scene, const std::optional<std::string>& name,
                       const Extent& picture);

/// Everything that differs by more than can be seen: framing by 0.1 %, opening by 1 %, focus by
/// more than blurs a tenth of the limit, the place by 1 mm, the turn by 0.01 deg.
/// @param now the shot at the answer's frame
std::vector<Deviation> deviations(const PlacedCamera& found, const Shot& now, const Answer& answer);

}  // namespace jolly_iris
