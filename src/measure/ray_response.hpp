// What strips around lamps have of a ray in a direction, and what lamps say of one together.
#pragma once

#include <algorithm>
#include <cmath>
#include <numbers>
#include <vector>

#include "jolly_iris/optics/measured.hpp"
#include "ray_strips.hpp"

namespace jolly_iris::measuring {

inline constexpr double ray_step_deg = 360.0 / ray_directions;

/// Spikes fall by the square of the distance, streaks by more than its first power: in between.
inline constexpr double ray_falls_as = 1.5;

/// What a strip has of a ray of light 1 a px that lies so many px beside its middle.
double ray_response(double px, double half_width);

/// Strips are wide near a lamp, against how far apart rays are: only farther out are neighbours
/// told from each other. @param from distance in half widths
inline bool far_enough(const RayStrips& lamp, std::size_t part, double from) {
  return lamp.distance[part] >= from * lamp.half_width;
}

/// One lamp's sureness in a direction, in deviations, by what falls with the distance.
double sureness_of(const RayStrips& lamp, int direction, double from);

/// The same of all lamps but the one that has most of it, against what lies in other directions.
std::vector<double> sureness_by_direction(const std::vector<RayStrips>& lamps, double from);

/// Leaves out what a ray touches: its foot near the lamps hides others, which are seen farther out.
void leave_out(std::vector<RayStrips>& lamps, double deg);

/// By how much to turn one or several rays together (±4°) to explain best what all lamps have; how
/// sure, by those that leave one of them out. @return the turn and its margin, degrees
Measured best_turn(const std::vector<RayStrips>& lamps, const std::vector<double>& rays_deg,
                   double from);

}  // namespace jolly_iris::measuring
