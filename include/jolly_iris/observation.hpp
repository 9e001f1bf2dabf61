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
    circle   ///< height over width of something round that is in focus
  };
  Kind kind = Kind::disc;
  std::string name{};
  double value = 0.0;          ///< > 0
  double sigma = 0.0;          ///< one standard deviation, > 0
  std::optional<Length> at{};  ///< axial distance, as the scene or a note has it; may be infinite
  Length length{};
  bool in_scene = true;  ///< `at` and `length` come from the CG scene: they go with its scale
};

/// "disc", "length", "view", "oval", "circle".
std::string_view to_string(Observation::Kind kind);

/// What a camera would show. @param scale the scene is really so much larger than it says
/// @throws OpticsError for a disc or a length without a distance in front of the camera
double predicted(const Observation& seen, const VirtualCamera& camera, double scale = 1.0);

}  // namespace jolly_iris
