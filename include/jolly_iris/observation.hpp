// What was seen in a plate, as numbers that a camera can be asked about.
#pragma once

#include <optional>
#include <string>
#include <string_view>

#include "jolly_iris/camera.hpp"
#include "jolly_iris/units.hpp"

namespace jolly_iris {

struct Observation {
  enum class Kind {
    disc,    ///< height of the disc of a lamp at `at`, px
    length,  ///< how high something of `length` at `at` appears, px
    view,    ///< pinhole focal length in px of the picture's height, from where known places lie
    oval,    ///< height over width of discs
    circle,  ///< height over width of something round that is in focus
    engraved_focal,  ///< focal length that the lens itself reported, mm, without adapters
    engraved_stop    ///< f-number likewise
  };
  Kind kind = Kind::disc;
  std::string name{};
  double value = 0.0;          ///< > 0
  double sigma = 0.0;          ///< one standard deviation, > 0
  std::optional<Length> at{};  ///< axial distance, as the scene or a note has it; may be infinite
  Length length{};
  /// Of a clipped disc: how large its lamp itself would show, px. A part of it that nobody knows
  /// is in `value`: the brighter the lamp, the more.
  double own_px = 0.0;
  std::string group{};   ///< lamps of one group are alike: the same part of each shows
  bool in_scene = true;  ///< `at` and `length` come from the CG scene: they go with its scale
  bool length_in_scene = true;  ///< likewise of `length` alone
};

/// What part of a clipped lamp's own size a fitted disc shows, and its deviation: the fit knows
/// that edges are soft and clipped, but not how bright the lamp was.
inline constexpr double usual_own_share = 0.35;
inline constexpr double own_share_deviation = 0.3;
/// By how much it differs among lamps of one group.
inline constexpr double own_share_scatter = 0.1;

/// "disc", "length", "view", "oval", "circle", "engraved focal", "engraved stop".
std::string_view to_string(Observation::Kind kind);

/// What a camera would show. @param scale the scene is really so much larger than it says
/// @throws OpticsError for a disc or a length without a distance in front of the camera, and for
///         what is engraved: no picture shows that (see match.hpp)
double predicted(const Observation& seen, const VirtualCamera& camera, double scale = 1.0);

}  // namespace jolly_iris
