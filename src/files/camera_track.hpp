// A camera move as a table (CSV), as any tracker or spreadsheet can write it.
#pragma once

#include <string>
#include <vector>

#include "jolly_iris/optics/shot.hpp"

namespace jolly_iris {

/// Reads rows of: frame, x, y, z, and pan, tilt, roll (degrees) or qx, qy, qz, qw, and focal_mm if
/// it zooms. The first line names the columns, in any order; lines that begin with # are comments.
/// @throws FileError with line and column for what is missing, no number, or out of order
std::vector<TrackRow> read_track(const std::string& file);

}  // namespace jolly_iris
