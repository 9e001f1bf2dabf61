// The camera over a plate's frames: what was focused on, opened, zoomed, exposed in each, as curves
// with margins; what the hand on the ring did; and where the notes say otherwise.
//
//   std::vector<std::string> files;
//   const CameraSequence s = match_frames({.shot = {.file = "pull.shot.toml"}}, files);
//   s.camera.value(Parameter::focus)->moves.moves;      // what the plate shows
//   s.findings;                                         // "pulled 12 frames later than noted"
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "jolly_iris/export.hpp"
#include "jolly_iris/match/camera_frames.hpp"
#include "jolly_iris/workflow/disc_sequence.hpp"
#include "jolly_iris/workflow/load.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

struct CameraSequenceRequest {
  ShotRequest shot{};
  DiscSearch discs{};
  FrameRunSettings run{};  ///< `keep_made` does not count
  /// What tasks measured (read_disc_frames); then no plate is read.
  std::vector<std::string> measured{};
  std::vector<PriorOverride> doubts{};
  Execution execution{};
};

/// A move in the notes: their keys, as the plate's is told.
struct NotedMove {
  double begins = 0.0;
  double ends = 0.0;
  double from = 0.0;  ///< evenly counted, as FrameValue
  double to = 0.0;
};

/// Where plate and notes differ, or what the plate shows that notes have no words for.
struct SequenceFinding {
  Parameter of = Parameter::focus;
  std::optional<std::size_t> move{};  ///< which of its moves
  bool disagrees = false;             ///< with the notes, beyond the margins
  std::string message{};              ///< a sentence
};

struct CameraSequence {
  LoadedShot loaded{};
  DiscSequence discs{};
  std::vector<NotedFrame> frames{};
  std::vector<std::vector<std::string>>
      lamps{};            ///< of each track: what its discs were paired with
  std::size_t mixed = 0;  ///< discs that their track did not let be another lamp
  CameraFrames camera{};
  std::vector<SequenceFinding> findings{};
  std::vector<std::string> notes{};
};

/// Loads the shot; nothing is measured yet.
/// @throws UsageError for a shot whose plate is no sequence
CameraSequence open_sequence(const CameraSequenceRequest& request, std::vector<std::string>& files);

/// @throws as measure_disc_frames (or read_disc_frames) and follow_camera
void solve_sequence(CameraSequence& sequence, const CameraSequenceRequest& request,
                    std::vector<std::string>& files);

/// Both.
CameraSequence match_frames(const CameraSequenceRequest& request, std::vector<std::string>& files);

/// What the notes' keys do to a value over the sequence's frames.
std::vector<NotedMove> noted_moves(const FollowedValue& value);

/// The moves as somebody writes them into the shot file: [[pull]] of the focus, [over.take.stop],
/// [over.lens.focal]; as few keys as stay within the margins.
/// @return TOML
std::string keys_of(const CameraSequence& sequence);

struct SolvedKeys {
  std::string file{};
  std::size_t keys = 0;
};

/// Writes these keys as the shot's solved file: they lead over the notes from then on.
SolvedKeys write_solved(const CameraSequence& sequence);

}  // namespace jolly_iris
