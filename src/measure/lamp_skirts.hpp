// The light around bright things, on rings that widen outward.
#pragma once

#include <array>
#include <string>
#include <vector>

#include "bright_things.hpp"
#include "halo_shape.hpp"
#include "jolly_iris/picture/picture.hpp"

namespace jolly_iris::measuring {

inline constexpr int skirt_bins = 44;  ///< of distance, by its logarithm

/// A little patch of the plate beside a thing.
struct SkirtPlace {
  double right = 0.0;  ///< px from the thing's centre
  double up = 0.0;
  int sector = 0;  ///< of the directions around it
  int ring = 0;
  std::array<double, 3> light{};
  double pixels = 0.0;  ///< over which that is a mean
  /// Light of all bright things, this one and the others, by how far away it is; of each channel.
  std::array<std::array<float, skirt_bins>, 3> sources{};
};

struct Skirt {
  std::size_t thing = 0;
  std::vector<SkirtPlace> places{};
  std::array<double, 3> light{};  ///< of the thing above its ground
};

inline constexpr int skirt_sectors = 24;
inline constexpr int skirt_rings = 16;

/// The distance that a bin stands for, px. What lies between two is shared among them.
double distance_of_bin(int bin);

/// The skirts of the things that stand by themselves; the others get a reason.
/// @param guess what of a thing's light is spread over itself, and so is none of its own
/// @param largest_px how far light can go in the plate
/// @param spoiled_px how far beside a thing its file's codec has left marks of it
std::vector<Skirt> skirts_of(const Picture& plate, const BrightThings& bright,
                             const GuessedHalo& guess, double largest_px, int spoiled_px,
                             std::vector<std::string>& why);

}  // namespace jolly_iris::measuring
