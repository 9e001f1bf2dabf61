// Colour spaces, displays and views by an OpenColorIO config: plates to linear light and back,
// light to what a display shows.
//
// The library that knows configs is loaded with the first of these calls, not before; a program
// that makes none goes without it.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "jolly_iris/export.hpp"
#include "jolly_iris/optics/colour_config.hpp"
#include "jolly_iris/optics/primaries.hpp"
#include "jolly_iris/picture/picture.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// The config's file: the one that is told, else the one that $OCIO names.
/// @throws UsageError where neither names one
std::string config_file(const ColourConfig& config);

/// @throws as to_light, without having anything to convert
void require_space(const ManagedSpace& space);

/// A file's numbers of this space → linear light of the config's working space. Alpha stays; colour
/// is straight (not premultiplied) before and after.
/// @throws UsageError for a space that the config has not, with the nearest that it has; FileError
///         for a config that cannot be read, or where OpenColorIO is not there
void to_light(Picture& numbers, const ManagedSpace& space);
/// And back. @throws as to_light
void from_light(Picture& light, const ManagedSpace& space);

/// What light of the working space looks like by the config's display and view. Premultiplied, as
/// pictures are; the result is sRGB-linear light in 0 … 1 that, encoded as sRGB, has the numbers
/// which the display is sent, so that it is written and shown as any other picture.
/// @throws as to_light, for a display or a view, too
Picture as_displayed(const Picture& light, const ColourConfig& config);

/// Which primaries the working space has, by the config's roles aces_interchange or
/// cie_xyz_d65_interchange; nothing where it has no such role, or other primaries.
/// @throws as to_light
std::optional<Primaries> working_primaries(const ColourConfig& config);

}  // namespace jolly_iris
