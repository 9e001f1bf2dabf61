// What was seen in a plate, as numbers that a camera can be asked about.
#pragma once

#include <optional>
#include <string>
#include <string_view>

#include "jolly_iris/export.hpp"
#include "jolly_iris/optics/camera_estimate.hpp"
#include "jolly_iris/optics/primaries.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

struct Observation {
  enum class Kind {
    disc,    ///< height of the disc of a lamp at `at`, px; without a place, of a lamp behind the
             ///< focus: it is no larger than one at infinity
    edge,    ///< deviation of the blur of edges of something at `at`, px; without the plate's own
    length,  ///< how high something of `length` at `at` appears, px
    view,    ///< pinhole focal length in px of the picture's height, from where known places lie;
             ///< with `at`: places so far away, which a camera farther back shows nearer together
    oval,    ///< height over width of discs
    circle,  ///< height over width of something round that is in focus
    grey,    ///< picture value (luminance) of a card of known `luminance`
    tinge,   ///< red over blue of a grey card in a known `light`
    engraved_focal,  ///< focal length that the lens itself reported, mm, without adapters
    engraved_stop    ///< f-number likewise
  };
  Kind kind = Kind::disc;
  std::string name{};
  double value = 0.0;          ///< > 0
  double sigma = 0.0;          ///< one standard deviation, > 0
  double placed_px = 0.0;      ///< another, of what its lamp's place in the scene makes of it
  std::optional<Length> at{};  ///< axial distance, as the scene or a note has it; may be infinite
  Length length{};
  /// Of a clipped disc: how large its lamp itself would show, px. A part of it that nobody knows
  /// is in `value`: the brighter the lamp, the more.
  double own_px = 0.0;
  std::string group{};   ///< lamps of one group are alike: the same part of each shows
  bool in_scene = true;  ///< `at` and `length` come from the CG scene: they go with its scale
  bool length_in_scene = true;  ///< likewise of `length` alone
  double luminance = 0.0;       ///< of the card, cd/m², > 0
  double falls_to = 1.0;        ///< share of the picture's middle's light at its place: fall-off
  /// Of a disc and of the discs' shape: what is measured of it through a lens whose surfaces are
  /// traced, against a thin lens's; 1: it is one, > 0.
  double as_traced = 1.0;
  double traced_px = 0.0;                   ///< another deviation, of what that comes from
  White light{};                            ///< that the card stands in
  Primaries primaries = Primaries::rec709;  ///< of the picture
};

/// What part of a clipped lamp's own size a fitted disc shows, and its deviation: the fit knows
/// that edges are soft and clipped, but not how bright the lamp was.
inline constexpr double typical_own_fraction = 0.35;
inline constexpr double own_fraction_deviation = 0.3;
/// By how much it differs among lamps of one group.
inline constexpr double own_fraction_scatter = 0.1;

/// "disc", "edge", "length", "view", "oval", "circle", "grey", "tinge", "engraved focal",
/// "engraved stop".
std::string_view to_string(Observation::Kind kind);

/// What would be seen if the notes were right. A lamp of unknown distance is seen as it was, unless
/// it is larger than any can be.
/// @param camera that they make (camera_of)
/// @throws OpticsError for an edge or a length without a distance in front of the camera, a card
///         without its luminance or where the notes tell no exposure, a tinge where they tell no
///         white; and as seen_white
double predicted(const Observation& seen, const CameraEstimate& estimate,
                 const VirtualCamera& camera);
double predicted(const Observation& seen, const CameraEstimate& estimate);

}  // namespace jolly_iris
