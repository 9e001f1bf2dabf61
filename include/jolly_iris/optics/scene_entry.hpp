// What a shot says of its set: things in it, the scene file, how its camera moved.
#pragma once

#include <array>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "jolly_iris/export.hpp"
#include "jolly_iris/optics/distance_entry.hpp"
#include "jolly_iris/optics/units.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// A subject that the shot file itself describes. One of `distance` and `place` is given, or
/// neither where it describes a node of the scene.
struct SubjectEntry {
  std::string name{};
  std::optional<DistanceEntry> distance{};
  std::optional<std::array<double, 3>> place{};  ///< in the artist's units, +Y up, world space
  std::optional<Length> size{};                  ///< its largest side in reality
  std::optional<Length> deep{};                  ///< how far it reaches along the view, in all
};

/// Which point of the real camera the scene's camera stands for.
enum class CameraOrigin { pupil, sensor, mount };

/// What the numbers of the scene's lights count, and so those of CG pictures.
enum class SceneLight {
  unsaid,
  candela,  ///< cd/m²: the exposure makes picture values of them
  unscaled  ///< nothing: they are right as they are, or found by metering
};

/// "not said", "cd/m2", "unscaled".
std::string_view to_string(SceneLight light);

/// A scene file, and which of its cameras took the picture (none: its only one).
struct SceneEntry {
  std::string file{};  ///< resolved against the shot file's folder; empty: a track alone
  std::optional<std::string> camera{};
  double scale = 1.0;  ///< the whole scene is made this much larger
  CameraOrigin origin = CameraOrigin::pupil;
  Length back{};   ///< the camera stood so much farther back along its view than in the scene
  Length right{};  ///< and so much to its right, as it looks …
  Length up{};     ///< … and up
  /// What it goes around, by `orbit` and `orbit_up`: a subject, or a distance along its view.
  std::string around{};
  Angle orbit{};                              ///< about the upright: + the camera goes to its right
  Angle orbit_up{};                           ///< + it rises, looking down the more
  std::optional<std::string> aim{};           ///< a subject that the camera always turns to
  bool level = false;                         ///< tilt and roll are taken out (see perspective.hpp)
  std::string points{};                       ///< a PLY of coloured points, in the artist's units
  Length point_size = Length::from_mm(10.0);  ///< diameter of each
  bool points_z_up = false;                   ///< else +Y is up in that file
};

/// One row of a camera move from a table. Either pan, tilt and roll (degrees: + right, + up,
/// + clockwise as seen from behind) or a rotation (x, y, z, w; camera → world).
struct TrackRow {
  double frame = 0.0;
  std::array<double, 3> place{};  ///< in the artist's units, +Y up
  std::array<double, 3> pan_tilt_roll{};
  std::optional<std::array<double, 4>> rotation{};
  std::optional<Length> focal{};  ///< marked, of a zoom
};

/// A camera move that came as a table instead of with a scene.
struct Track {
  std::string file{};
  std::vector<TrackRow> rows{};  ///< by rising frame, at least one
};

}  // namespace jolly_iris
