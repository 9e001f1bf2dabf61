// What a shot's plate shows, as observations that its notes can be matched with.
#pragma once

#include <string>
#include <vector>

#include "jolly_iris/discs.hpp"
#include "jolly_iris/match.hpp"
#include "jolly_iris/picture_file.hpp"
#include "verbs.hpp"

namespace jolly_iris::cli {

struct SeenInPlate {
  std::string plate{};  ///< its file's name
  PixelSize plate_size{};
  FoundDiscs found{};
  std::vector<Observation> all{};   ///< px of the delivered picture
  int discs_left = 0;               ///< that no lamp of the scene explains
  int discs_odd = 0;                ///< that do not go with the others, and are left out
  std::vector<std::string> left{};  ///< what was drawn and tells nothing, and why
};

/// Discs of lamps that the scene knows or that were drawn and named after a subject; round things
/// that were drawn; boxes around subjects of known size; edges that tell the focal length;
/// what the lens told the file.
/// @param boxes discs only there, px of the delivered picture
/// @throws UsageError for a shot without a plate; OpticsError where nothing of a known distance
///         was seen
SeenInPlate seen_in_plate(const LoadedShot& loaded, const PlateFacts& facts, double least_px,
                          std::vector<std::string>& files, const std::vector<Box>& boxes = {});

/// Boxes of the delivered picture, as px of a plate of another size.
/// @throws UsageError naming --box for one that is not within
std::vector<Box> boxes_in_plate(const std::vector<Box>& boxes, const LoadedShot& loaded,
                                PixelSize plate);

/// Whether a subject's distance comes from the CG scene; else somebody measured it on the set.
bool in_scene(const LoadedShot& loaded, const std::string& subject);

/// The shot's notes as match takes them.
Notes notes_of(const LoadedShot& loaded);

}  // namespace jolly_iris::cli
