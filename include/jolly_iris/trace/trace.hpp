// The reference tracer: a scene seen through the thin lens with its iris, or through a pinhole with
// depth. It is a truth for blur, not a beauty renderer: diffuse surfaces, light of their own, a
// sky, direct light with hard shadows.
//
// Every pixel's rays start at points spread evenly over the iris's area. Lamps (glTF points) and
// very small glowing triangles are not waited for: each is connected to points of the pupil and put
// where those rays meet the picture, if nothing is in between. Nobody's share of a pixel depends on
// the number of threads, so one seed gives one picture.
#pragma once

#include <cstdint>
#include <functional>
#include <memory>
#include <optional>
#include <string>
#include <vector>
#include "jolly_iris/export.hpp"
#include "jolly_iris/optics/geometry.hpp"

#include "jolly_iris/glass/glass_camera.hpp"
#include "jolly_iris/optics/camera.hpp"
#include "jolly_iris/optics/execution.hpp"
#include "jolly_iris/picture/picture.hpp"
#include "jolly_iris/scene/scene.hpp"
#include "jolly_iris/trace/survey.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

struct TraceSettings {
  int samples = 64;  ///< rays a pixel, ≥ 1
  /// Number of the first ray: rays 0 … 63 and rays 64 … 127 are two pictures, and their mean is the
  /// one of 128 rays. A multiple of `samples`.
  int first_ray = 0;
  std::uint32_t seed = 1;     ///< other seeds give other noise
  bool plain_random = false;  ///< numbers without strata: noisier, as noise predictions have it
  bool pinhole = false;       ///< no blur; depth is written
  /// Nodes the camera sees (all below them included), and no others, nor the sky; empty: all. The
  /// rest goes on casting shadows.
  std::vector<std::string> just{};
  std::vector<std::string> without{};  ///< nodes (all below them included) it does not see
  /// A draft: only this share of a cloud's points, (0, 1], chosen by chance; those left make up for
  /// the others, surfaces by their size and lamps by their light. Fewer than a thousand points are
  /// no cloud and stay.
  double density = 1.0;
  /// Rays go through these surfaces instead of the thin lens, each colour its own way; not of a
  /// pinhole. Null: the thin lens.
  std::shared_ptr<const GlassCamera> glass{};
  std::optional<PixelSize> size{};  ///< of the whole picture; none: the camera's
  std::optional<Box> box{};         ///< only this part of it
  Execution execution{};
};

/// @param place camera → world (see camera_place)
/// @return colour and, for a pinhole, axial depth in metres; the box's size where one is given.
///         Where nothing is hit and the scene has no sky, alpha is 0.
/// @throws UsageError for samples < 1, a density outside (0, 1], a box outside the picture, and a
/// node that does not exist
Frame trace(const Scene& scene, const VirtualCamera& camera, const Pose& place,
            const TraceSettings& settings);

/// How far away and which node each place of a grid over the picture shows. Lamps (points that
/// glow) are too small to be pointed at and are left out.
/// @throws UsageError for a size below 1 × 1
Survey survey(const Scene& scene, const VirtualCamera& camera, const Pose& place, PixelSize size);

}  // namespace jolly_iris
