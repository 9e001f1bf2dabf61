// The ghosts of a picture's lamps, as a glass makes them: found in the picture, followed through
// all pairs of surfaces that turn light back, and added up as a picture of their own.
//
//   const GhostLight ghosts(*glass, prescription);
//   const Flare flare = flare_of(picture, camera, *glass, ghosts);
//   add(flare.added, picture);
#pragma once

#include <array>
#include <string>
#include <vector>

#include "jolly_iris/export.hpp"
#include "jolly_iris/glass/ghost_light.hpp"
#include "jolly_iris/optics/camera.hpp"
#include "jolly_iris/optics/execution.hpp"
#include "jolly_iris/picture/picture.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// A place of the picture that counts as a lamp.
struct FlareLamp {
  double x = 0.0;  ///< px, the middle of its light
  double y = 0.0;
  std::array<double, 3> light{};  ///< sum over its pixels
};

struct LampSearch {
  double from = 1.0;  ///< of the largest channel: brighter pixels are lamps, > 0
  int most = 8;       ///< lamps, ≥ 1: those with the most light
};

struct FoundLamps {
  std::vector<FlareLamp> lamps{};  ///< the brightest first
  std::size_t all = 0;             ///< how many there are
  double share = 1.0;              ///< of the light of all of them that these have
};

/// Pixels that touch each other are one lamp; larger ones are several, so that each is small.
FoundLamps lamps_in(const Picture& picture, const LampSearch& search = {});

struct FlareSettings {
  bool bent = false;    ///< the picture is as the plate is; else straight, as CG is
  double hold = 0.999;  ///< pairs that hold this share of the ghosts' light are drawn, (0, 1]
  int side = 48;        ///< of each lattice of rays, 8 … 512
  int layers = 0;       ///< so many of the strongest pairs as pictures of their own
  Execution execution{};
};

/// One pair's light, over all lamps; where it is and how wide, of the first lamp alone.
struct Ghost {
  GhostPath path{};
  double light = 0.0;  ///< in the frame, against the lamps' own
  double x = 0.0;      ///< px: the middle of what is in the frame; 0 where nothing is
  double y = 0.0;
  double size_px = 0.0;  ///< of an even disc that is as wide as it
  double peak = 0.0;     ///< its brightest place, linear light
};

struct Flare {
  Picture added{};              ///< alpha 0
  std::vector<Ghost> ghosts{};  ///< those drawn, the most light first
  std::size_t paths = 0;        ///< pairs that there are
  double light = 0.0;           ///< all of it in the frame, against the lamps' own
  /// Of it, what lies over more than 0.6 of the picture's height: a veil.
  double veil = 0.0;
  std::vector<Picture> layers{};  ///< of the first ghosts
  std::vector<std::string> notes{};
};

/// @param picture linear, through the lens; any size: its width shows what the camera's shows
/// @throws PictureError for colour that is not finite; UsageError for settings out of their ranges;
///         MemoryError; Cancelled
Flare flare_of(const Picture& picture, const std::vector<FlareLamp>& lamps,
               const VirtualCamera& camera, const GlassCamera& glass, const GhostLight& ghosts,
               const FlareSettings& settings = {});

}  // namespace jolly_iris
