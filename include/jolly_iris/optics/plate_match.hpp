// CG as bright and as white as the plate: the same regions looked at in both.
//
//   const std::vector<RegionPair> pairs{{"quay wall", plate_rgb, cg_rgb}, …};
//   const PlateMatch match = match_to_plate(pairs, Primaries::rec709);
//   match.stops;      // how much brighter CG must become
//   match.gains;      // and its channels against green
//   match.regions[2]  // what is left there: a region that is lit otherwise shows
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "jolly_iris/export.hpp"
#include "jolly_iris/optics/primaries.hpp"
#include "jolly_iris/optics/take.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// Mean linear RGB of one region, in the plate and in CG.
struct RegionPair {
  std::string name{};
  Rgb plate{};
  Rgb cg{};
};

/// What is left of one region after the common change: the plate against CG.
struct RegionLeft {
  std::string name{};
  double alone_stops = 0.0;  ///< what this region by itself asks for
  double stops = 0.0;        ///< + the plate is brighter than CG became
  double warm_stops = 0.0;   ///< of R against B: + the plate is warmer
  bool apart = false;        ///< far from the others: it is lit otherwise, or shows something else
};

struct PlateMatch {
  double stops = 0.0;    ///< that CG must gain (its green)
  Rgb gains{1, 1, 1};    ///< on top of it, G = 1
  Rgb factors{1, 1, 1};  ///< both together: CG times this is the plate
  std::vector<RegionLeft> regions{};
  /// No more than half of the regions are within a third of a stop (a camera's step) of what all
  /// are changed by: there is no one change that brings CG to the plate, and the numbers above are
  /// a mean of things that have nothing in common.
  bool contradict = false;
};

/// Per channel the factor that most regions agree on, in stops: least squares with Huber's weights
/// (Huber 1964), so that one region that is lit otherwise does not pull the rest along. One region
/// is met exactly; of two, both count alike.
/// @throws OpticsError without regions, or for one that is black or not finite in either
PlateMatch match_to_plate(const std::vector<RegionPair>& pairs, Primaries primaries);

/// The plate's white, where CG's lights are of white `cg`.
/// @throws as white_of_patch
White matched_white(const PlateMatch& match, const White& cg, Primaries primaries);

}  // namespace jolly_iris
