// A picture finished as its shot says: read, lifted, haloed, grained, ready to be written.
#pragma once

#include <map>
#include <optional>
#include <string>
#include <vector>

#include "jolly_iris/export.hpp"
#include "jolly_iris/optics/execution.hpp"
#include "jolly_iris/picture/finish.hpp"
#include "jolly_iris/picture/smear.hpp"
#include "jolly_iris/workflow/frame_run.hpp"
#include "jolly_iris/workflow/load.hpp"
#include "jolly_iris/workflow/motion.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

struct FinishRequest {
  std::string picture{};  ///< linear, through the lens already (or sharp, where nothing is blurred)
  double stops = 0.0;     ///< brighter by so many, between corners and cast
  Margin margin{};        ///< that the picture has beyond the frame, px; cut off
  std::optional<double> frame{};  ///< whose grain; none: the one that the shot is answered at
  bool half = false;              ///< a draft: half the width and height
  bool layers = false;            ///< what each part adds is wanted
  Decoding decoding{};
};

struct FinishedFrame {
  Frame frame{};
  std::vector<FinishLayer> layers{};
  std::vector<std::string> parts{};             ///< what was done, in order: "halo", "grain"
  std::map<std::string, std::string> header{};  ///< what its header says besides the camera
  std::vector<std::string> notes{};             ///< a sentence each
};

/// The parts that a finish has, by the names of their sections, in the order of work.
std::vector<std::string> parts_of(const Finish& finish);

/// @throws as read_picture, before_lens and after_lens; UsageError for a shot without any finish,
///         and for a picture whose header says that one of the parts is in it already
FinishedFrame finish_picture(const FinishRequest& request, const LoadedShot& loaded,
                             std::vector<std::string>& files, const Execution& execution = {});

/// A sequence: "####" in names stands for the frame's number.
/// @param layers written besides, each frame's picture and what each part adds to it as layers of
///        an EXR; empty: not wanted
/// @throws as make_frames and finish_picture
FrameRun finish_frames(const FinishRequest& request, const std::vector<std::string>& names,
                       const std::string& layers, const FrameRunSettings& settings,
                       const LoadedShot& loaded, std::vector<std::string>& files,
                       const Execution& execution = {});

/// What is told of a smear, a sentence each.
void tell_smear(const SmearedPicture& smear, const FoundMotion& motion,
                std::vector<std::string>& notes);

/// Files that a smear reads besides the picture, with #### for the frame's number.
std::vector<std::string> smear_inputs(const Finish& finish);

/// What is said of a shot without any finish.
std::string no_finish(const LoadedShot& loaded);

/// What a picture's header says its blur by: it went through the lens.
inline constexpr const char* lens_in_header = "jolly_iris:blur";
/// What a picture's header names the parts by that are in it: "halo, grain".
inline constexpr const char* finish_in_header = "jolly_iris:finish";

}  // namespace jolly_iris
