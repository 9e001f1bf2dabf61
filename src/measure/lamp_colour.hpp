// The colour of a lamp that is clipped, from the foot of its edge.
//
// Within a clipped disc all lamps are white. Farther out light falls below the clip, and there the
// three channels are as they were; but that is a pixel or two, and most files keep colours coarser
// than luma (one colour for two by two pixels, spread out again between them). So the foot is
// looked at as the file was made: a colour is tried, the luma across the edge then says each
// channel's light, its colour is smeared as the file's colours are, put together and cut off again,
// and what comes out is compared with the pixels. Neither the disc's size nor its softness or
// brightness is asked for.
#pragma once

#include <array>

#include "edge_line.hpp"
#include "luma_model.hpp"

namespace jolly_iris::measuring {

struct LampColour {
  double log_red = 0.0;  ///< of its light, against green
  double log_blue = 0.0;
  double red_sigma = 1.0;
  double blue_sigma = 1.0;
};

LampColour lamp_colour(const EdgeLine& line, const LumaModel& look);

/// The same line, knowing that.
EdgeLine with_colour(EdgeLine line, const LampColour& colour);

}  // namespace jolly_iris::measuring
