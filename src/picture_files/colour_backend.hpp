// What the module that links OpenColorIO offers to the library that loads it on first use.
#pragma once

#include <array>
#include <cstddef>
#include <optional>
#include <string>
#include <vector>

#include "jolly_iris/optics/primaries.hpp"

namespace jolly_iris::picture_files {

/// Pixels of four floats, straight, that a conversion may change; called for parts of a picture on
/// several threads.
using Conversion = void (*)(const void* processor, float* rgba, std::size_t pixels);

struct ColourBackend {
  const char* version;  ///< JOLLY_IRIS_VERSION of who built it
  /// @throws UsageError for a space that the config has not
  void (*require)(const std::string& config, const std::string& space);
  /// A conversion between two spaces; an empty name is the role scene_linear. Kept: the pointer is
  /// good as long as the program runs.
  const void* (*between)(const std::string& config, const std::string& from, const std::string& to);
  /// From a space to a view of a display; an empty view is the display's first.
  const void* (*viewed)(const std::string& config, const std::string& from,
                        const std::string& display, const std::string& view);
  Conversion apply;
  /// XYZ of the ACES white (aces) or D65 of a linear space's three primaries, as columns; none
  /// without a role that ties the config to the world.
  struct Tied {
    ColourMatrix xyz_from_space;
    bool aces;
  };
  std::optional<Tied> (*tied)(const std::string& config, const std::string& space);
};

/// Name of the module's only entry, which returns a ColourBackend.
inline constexpr const char* colour_entry_name = "jolly_iris_colour_backend";

}  // namespace jolly_iris::picture_files
