// A lens whose glass is known: what the shot needs of it, out of its prescription.
#pragma once

#include <string>

#include "shot_reader.hpp"

namespace jolly_iris {

/// lens.glass: the file, and what notes leave open: focal length, widest stop, close focus,
/// entrance pupil, breathing, squeeze, iris. After all else of [lens] is read.
/// @param file the shot file, for names of other files in it
void read_lens_glass(ShotReader& in, const std::string& file, Lens& lens);

}  // namespace jolly_iris
