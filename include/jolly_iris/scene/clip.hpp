// Clip distances for small rooms: a real camera stands in a doorway, a virtual one may stand behind
// the wall and have it cut away.
#pragma once

#include <optional>
#include <string>
#include <vector>
#include "jolly_iris/export.hpp"
#include "jolly_iris/optics/geometry.hpp"

#include "jolly_iris/optics/camera.hpp"
#include "jolly_iris/optics/units.hpp"
#include "jolly_iris/scene/scene.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// A clip distance may be anywhere between the last thing that goes and the first that stays.
struct ClipSpan {
  Length from{};      ///< axial
  Length to{};        ///< axial; infinite where nothing is beyond
  Length distance{};  ///< in between, to type in
};

struct Clip {
  std::optional<ClipSpan> near{};  ///< removes what is nearer
  std::optional<ClipSpan> far{};   ///< removes what is farther
};

/// The near and far clip distances that remove the named nodes (with all below them) and keep
/// everything else that reaches into the picture.
/// @param names one or more nodes
/// @throws UsageError for a name the scene does not have
/// @throws OpticsError where there is no such distance, naming what stands in the way, and for
/// nodes
///         that are not in the picture
Clip clip_away(const Scene& scene, const Pose& stand, const VirtualCamera& camera,
               const std::vector<std::string>& names);

}  // namespace jolly_iris
