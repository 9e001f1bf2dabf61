// Colours by an OpenColorIO config, as a shot says them. What the config itself says is read by
// picture_files/colour_management.hpp.
#pragma once

#include <string>

#include "jolly_iris/export.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// Which config, and what of it is used.
struct ColourConfig {
  std::string file{};     ///< empty: the file that $OCIO names
  std::string working{};  ///< the linear space that pictures are kept in; empty: its scene_linear
  std::string display{};  ///< what pictures for looking at are made for; empty: sRGB, without it
  std::string view{};     ///< of that display; empty: the display's first

  friend bool operator==(const ColourConfig&, const ColourConfig&) = default;
};

/// A colour space of such a config.
struct ManagedSpace {
  std::string name{};
  ColourConfig config{};
};

/// How such a space begins where a transfer is written: "ocio:camera log".
inline constexpr const char* managed_prefix = "ocio:";

}  // namespace jolly_iris
