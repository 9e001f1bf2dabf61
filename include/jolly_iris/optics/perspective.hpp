// A camera that looks up or down makes verticals converge. That is perspective, no fault of the
// lens: a *level* camera whose lens is shifted sees the same things with verticals parallel.
//
// Turning a camera about its entrance pupil changes no view of anything, only onto which plane it
// is drawn; so the level camera stands where the tilted one stood.
#pragma once

#include <array>

#include "jolly_iris/export.hpp"
#include "jolly_iris/optics/camera.hpp"
#include "jolly_iris/optics/units.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// How a camera leans.
struct Lean {
  Angle tilt{};  ///< + looks up, −90° … 90°
  Angle roll{};  ///< + clockwise, as seen from behind the camera
};

/// A direction (x right, y up, looking along −z) as the camera sees it → as a level camera that
/// looks to the same side sees it, and back.
std::array<double, 3> levelled(const Lean& lean, const std::array<double, 3>& direction);
std::array<double, 3> leaning(const Lean& lean, const std::array<double, 3>& direction);

/// What takes the place of a leaning camera.
struct LevelCamera {
  VirtualCamera camera{};  ///< level, not rolled, its lens shifted; same pupil, same opening
  /// What keeps its place and its size in the picture, px.
  std::array<double, 2> kept{};
  /// Diameter of the image circle that a real lens would need for it, on the gate.
  Length image_circle{};
};

/// The level camera whose picture shows the same thing at `kept`, as large and as sharp. Its focal
/// length is the old one times how much farther, along the level axis, what is seen there is
/// (the old one's cosine, for the middle); the shift puts it in its place.
/// @throws OpticsError where that place is seen 80° or more off the level axis
LevelCamera level_camera(const VirtualCamera& camera, const Lean& lean,
                         const std::array<double, 2>& kept);

/// From a place in the leaning camera's picture to the level one's, px; and back. NaN-free: a
/// place beside or behind the camera comes out infinite.
std::array<double, 2> place_when_level(const VirtualCamera& camera, const Lean& lean,
                                       const LevelCamera& level, const std::array<double, 2>& px);
std::array<double, 2> place_when_leaning(const VirtualCamera& camera, const Lean& lean,
                                         const LevelCamera& level, const std::array<double, 2>& px);

/// By how much verticals lean in the picture at most, at the frame's sides: what an eye notices.
Angle max_convergence(const VirtualCamera& camera, const Lean& lean);

}  // namespace jolly_iris
