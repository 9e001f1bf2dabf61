// The rays that a plate's lamps have: spikes by diffraction at the iris, and a streak.
//
// Around every bright thing that stands by itself, narrow strips are laid in all directions; what a
// strip has more than the ground on both of its sides is a ray, if lamps share it: all lamps of a
// picture have theirs in the same directions. Rays that are spread evenly around are the iris's
// (so many as it has blades, or twice as many where those are odd), two opposite ones are a streak.
//
// Margins are two standard deviations.
#pragma once

#include <array>
#include <optional>
#include <string>
#include <vector>

#include "jolly_iris/export.hpp"
#include "jolly_iris/optics/camera.hpp"
#include "jolly_iris/optics/iris.hpp"
#include "jolly_iris/optics/measured.hpp"
#include "jolly_iris/picture/picture.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// One direction in which lamps have a ray.
struct PlateRay {
  Measured direction_deg{};  ///< counter-clockwise from the right, 0 … 360
  double sureness = 0.0;     ///< in deviations of what chance leaves
  double seen_to_px = 0.0;   ///< how far from a lamp it is seen
};

/// Rays that are spread evenly around.
struct PlateSpikes {
  int rays = 0;
  Measured first_deg{};       ///< direction of one of them, 0 … 360 / rays
  std::vector<int> blades{};  ///< that make so many
  double seen_to_px = 0.0;
  /// Light against what diffraction at the camera's own opening gives; margin 0: not known, since
  /// no lamp is unclipped, or no camera was given.
  Measured times{};
};

/// One line through everything bright.
struct PlateStreak {
  Measured direction_deg{};  ///< counter-clockwise from level, −90 … 90
  double seen_to_px = 0.0;
  /// Share of the light of red, green and blue; margin 0: not known, no lamp is unclipped.
  std::array<Measured, 3> fraction{};
  Measured reach_px{};
  Measured power{};
};

struct RayLamp {
  std::array<double, 2> at{};  ///< px of the plate
  bool clipped = false;
  bool used = false;
  std::string why{};  ///< where it was not
};

/// What was found, or why nothing: "not seen" comes with an upper limit.
struct RaysFinding {
  std::vector<PlateRay> rays{};
  std::optional<PlateSpikes> spikes{};
  std::optional<PlateStreak> streak{};
  std::string no_spikes{};  ///< a sentence where there are none
  std::string no_streak{};
  /// Share of the light that a streak of a usual shape would have been seen with, in the direction
  /// where it hides best.
  std::optional<double> streak_at_most{};
  double usual_reach_px = 0.0;            ///< of it
  std::optional<double> times_at_most{};  ///< of spikes, against diffraction
  std::vector<RayLamp> lamps{};
};

struct RaysSettings {
  double clips_at = 0.98;  ///< from here on a channel is clipped; 0: nowhere
  int codec_px = 0;        ///< how far beside bright things its file's codec leaves marks
  /// Whose opening spikes are held against; none: only counted.
  std::optional<VirtualCamera> camera{};
};

/// @throws PictureError for a picture that is not finite
RaysFinding rays_in(const Picture& plate, const RaysSettings& settings = {});

/// By how much the first of so many rays is turned against those of an iris, −180/rays … 180/rays
/// degrees.
/// Source: diffraction at a straight edge goes across it (e.g. Hecht, *Optics*, ch. 10).
double rays_against_iris(const PlateSpikes& spikes, const Iris& iris);

}  // namespace jolly_iris
