// An ordinary lens as a lens file says it.
#pragma once

#include <string>

#include "jolly_iris/export.hpp"
#include "jolly_iris/optics/lens.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// What `lens = "NAME.lens.toml"` reads back as that lens: name, focal length, widest stop, barrel,
/// faults, distortion, breathing and squeezes. What the lens does not say is left out; its iris's
/// blades are told, not what else there may be in it.
/// @param comment lines before it, without their #
std::string lens_text(const Lens& lens, const std::string& comment = {});

}  // namespace jolly_iris
