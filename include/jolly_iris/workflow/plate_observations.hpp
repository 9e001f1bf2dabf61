// What a shot's plate shows, as observations that its notes can be matched with.
#pragma once

#include <memory>
#include <string>
#include <vector>

#include "jolly_iris/export.hpp"
#include "jolly_iris/match/camera_frames.hpp"
#include "jolly_iris/match/match.hpp"
#include "jolly_iris/measure/discs.hpp"
#include "jolly_iris/workflow/load.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// A disc and the lamp that it is of.
struct PairedDisc {
  std::size_t disc = 0;  ///< which of the found ones
  std::string lamp{};
};

struct PlateObservations {
  std::string plate{};  ///< its file's name
  PixelSize plate_size{};
  FoundDiscs found{};
  std::vector<Observation> all{};   ///< px of the delivered picture
  std::vector<LampLight> lights{};  ///< of lamps whose discs are not clipped
  std::vector<PairedDisc> paired{};
  int discs_left = 0;                  ///< that no lamp of the scene explains
  int discs_odd = 0;                   ///< that do not go with the others, and are left out
  std::vector<std::string> by_hand{};  ///< lamps whose disc counts as somebody measured it
  std::vector<std::string> left{};     ///< what was drawn and tells nothing, and why
  std::vector<std::string> notes{};    ///< what reading the plate decided or doubts
};

/// Where and how large discs are looked for.
struct DiscSearch {
  double min_px = 12.0;      ///< diameter of the smallest one, px of the plate
  std::vector<Box> boxes{};  ///< only there, px of the delivered picture; empty: everywhere
  /// Of another frame of a sequence; it counts where the plate is as large.
  std::shared_ptr<const PlateLook> look{};
  Execution execution{};
};

/// How the finder of discs is asked.
DiscSettings disc_settings(const DiscSearch& search, PixelSize plate);

/// What the drawn marks and such a search tell the finder of discs, in px of the plate.
/// @throws UsageError for a box that is not within the picture
DiscHints disc_hints(const DiscSearch& search, const LoadedShot& loaded, PixelSize plate);

/// Discs of lamps that the scene knows or that were drawn and named after a subject; round things
/// that were drawn; boxes around subjects of known size; edges that tell the focal length;
/// what the lens told the file.
/// @throws UsageError for a shot without a plate
PlateObservations observe_plate(const LoadedShot& loaded, const PlateFacts& facts,
                                const DiscSearch& search, std::vector<std::string>& files);

/// What discs that were found already tell, without what is drawn or what the file's header says.
/// @param loaded as it is at that frame, with its scene
PlateObservations observe_discs(const LoadedShot& loaded, PixelSize plate,
                                std::vector<PlateDisc> discs);

/// @throws OpticsError where nothing of a known distance was seen, with what would help
void require_observed(const LoadedShot& loaded, const PlateObservations& seen);

/// What the shot's notes amount to, as match takes them.
CameraEstimate estimate_of(const LoadedShot& loaded);

}  // namespace jolly_iris
