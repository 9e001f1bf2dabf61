// Notes and plate of a shot, or of several shots of one camera: which camera took them, and which
// mistake in the notes would explain what they show.
//
//   std::vector<std::string> files;
//   const CameraMatch match = match_camera({.shots = {{.file = "notes.shot.toml"}}}, files);
//   match.plates.front().best.parameters[i].value;
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "jolly_iris/export.hpp"
#include "jolly_iris/files/solved_file.hpp"
#include "jolly_iris/match/match.hpp"
#include "jolly_iris/optics/metadata_check.hpp"
#include "jolly_iris/optics/plate_facts.hpp"
#include "jolly_iris/workflow/load.hpp"
#include "jolly_iris/workflow/plate_observations.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

struct CameraMatchRequest {
  /// One, or several that the same body and lens took. Notes are matched, never what was solved
  /// from them before: `as_noted` counts as set.
  std::vector<ShotRequest> shots{};
  DiscSearch discs{};
  std::vector<PriorOverride> doubts{};  ///< notes that are believed otherwise than usual
  Execution execution{};
};

/// One of the plates.
struct MatchedPlate {
  std::string shot_file{};
  LoadedShot loaded{};
  PlateFacts facts{};                       ///< what its header says
  std::vector<MetadataFinding> metadata{};  ///< and how that stands to the notes
  PlateObservations seen{};
  bool traced = false;                ///< discs are predicted through the lens's glass
  std::vector<std::string> untold{};  ///< then: lamps whose disc so drawn was not told
  MatchResult plain{};                ///< of the notes as they are
  MatchResult best{};  ///< of the notes with the likeliest mistake corrected, where that is told
};

struct CameraMatch {
  std::vector<MatchedPlate> plates{};
  HypothesisRanking ranking{};
  bool corrected = false;        ///< `best` has the likeliest mistake corrected
  std::size_t observations = 0;  ///< of all plates
};

/// Loads the shots and compares their plates' headers with their notes; nothing is measured yet.
/// @throws UsageError for a shot without a plate
CameraMatch open_match(const CameraMatchRequest& request, std::vector<std::string>& files);

/// Measures the plates, fits the camera and ranks the mistakes that would explain the difference.
/// Through a lens with a glass discs are predicted as drawn and measured through it, anew with what
/// was found until that stays.
/// @throws as observe_plate and match; OpticsError where a glass's discs do not look like those of
///         its plate
void solve_match(CameraMatch& match, const CameraMatchRequest& request,
                 std::vector<std::string>& files);

/// Both.
CameraMatch match_camera(const CameraMatchRequest& request, std::vector<std::string>& files);

/// What the solved file of one of the plates will say: what the plate tells otherwise than the
/// notes, by more than a quarter of its margin.
std::vector<SolvedValue> solved_values(const MatchedPlate& plate);

/// The squeeze at this mark, where the plate tells it otherwise than the notes: a row for the
/// lens's table (lens.squeezes). None where the focus is at infinity, or it is as noted.
std::optional<SqueezePoint> squeeze_row(const MatchedPlate& plate);

/// Writes a solved file beside each shot; it leads over the notes from then on.
/// @return their names. @throws OpticsError where nothing explains a plate: then none is written
std::vector<std::string> write_solved(const CameraMatch& match);

}  // namespace jolly_iris
