// Work over many frames: in parts for several machines, kept where it is done already, going on
// after a frame that fails.
//
//   FrameWork work{.names = {"out.####.exr"}, .inputs = {"in.####.exr"}, .settings = "half"};
//   work.make = [&](const LoadedShot& now, double frame, auto& files, const Execution& e) { … };
//   const FrameRun done = make_frames(work, {.frames = {.asked = true}}, loaded, files);
//
// Each frame is made by itself, from its own inputs, and written whole under its own name: what is
// there after a stop is good, and a picture does not depend on which part or thread made it.
#pragma once

#include <exception>
#include <functional>
#include <map>
#include <string>
#include <vector>

#include "jolly_iris/export.hpp"
#include "jolly_iris/optics/execution.hpp"
#include "jolly_iris/picture/picture.hpp"
#include "jolly_iris/picture_files/picture_file.hpp"
#include "jolly_iris/workflow/load.hpp"
#include "jolly_iris/workflow/sequence.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

struct FrameRunSettings {
  FrameRequest frames{};
  /// Pictures that are there already stay, where their header says that they were made with these
  /// settings from these inputs.
  bool keep_made = false;
  bool keep_going = false;  ///< a frame that fails is told of and left out; else it ends the run
};

struct FrameFailure {
  double frame = 0.0;
  std::exception_ptr error{};
  std::string message{};
};

/// One frame, ready to be written.
struct MadeFrame {
  Frame frame{};
  double pixel_aspect = 1.0;                    ///< a pixel's width against its height
  std::map<std::string, std::string> header{};  ///< what its header says besides the camera
  std::vector<NamedPicture> layers{};           ///< besides, of an EXR
  std::string layered{};                        ///< the only name that has them; empty: all have
  std::vector<std::string> notes{};             ///< a sentence each
  std::vector<std::string> warnings{};          ///< what looks wrong
};

enum class FrameOrder {
  one_by_one,   ///< each on all cores: for work that fills them, or much memory
  side_by_side  ///< as many at a time as there are cores and memory
};

struct FrameWork {
  std::vector<std::string> names{};   ///< to write, "####" for the frame's number
  std::vector<std::string> inputs{};  ///< files that a picture is made from; their contents count
  std::string settings{};             ///< all else that it hangs on, as text
  std::function<std::string(double frame)> settings_at{};  ///< and what of it differs by frame
  FrameOrder order = FrameOrder::one_by_one;
  bool posed = false;  ///< the shot comes with its scene as it is at that frame
  /// Called for many frames side by side where `order` says so.
  std::function<MadeFrame(const LoadedShot& now, double frame, std::vector<std::string>& files,
                          const Execution& execution)>
      make{};
};

struct FrameRun {
  std::vector<double> frames{};  ///< those of this part
  std::size_t kept = 0;          ///< that were there already, made with these settings and inputs
  std::size_t remade = 0;        ///< that were there, but made otherwise, or damaged
  std::vector<std::string> written{};
  std::vector<FrameFailure> failed{};
  std::vector<std::string> notes{};  ///< each sentence once; a frame's file is named with its ####
  std::vector<std::string> warnings{};

  std::size_t made() const { return frames.size() - kept - failed.size(); }
};

/// @param files gains what was read
/// @throws UsageError for a name without #; FileError for an input that is not there, before any
///         work, unless it keeps going; what a frame throws, likewise, with the frame; Cancelled
FrameRun make_frames(const FrameWork& work, const FrameRunSettings& settings,
                     const LoadedShot& loaded, std::vector<std::string>& files,
                     const Execution& execution = {});

/// Calls work(index) for each frame.
/// @param work returns how many pixels the frame had, by which memory is shared out
/// @return the frames that failed, in their order, where it keeps going
/// @throws what a frame throws, where it does not; Cancelled
std::vector<FrameFailure> for_each_frame(
    const std::vector<double>& frames, FrameOrder order, bool keep_going,
    const std::function<std::size_t(std::size_t index, const Execution& execution)>& work,
    const Execution& execution = {});

}  // namespace jolly_iris
