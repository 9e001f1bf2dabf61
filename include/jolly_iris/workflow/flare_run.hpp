// The ghosts of a picture's lamps added to it, as the shot's glass makes them.
#pragma once

#include <map>
#include <string>
#include <vector>

#include "jolly_iris/export.hpp"
#include "jolly_iris/optics/execution.hpp"
#include "jolly_iris/picture/flare.hpp"
#include "jolly_iris/workflow/frame_run.hpp"
#include "jolly_iris/workflow/load.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

struct FlareRequest {
  std::string picture{};     ///< linear, through the lens
  LampSearch search{};       ///< what of it is a lamp
  FlareSettings settings{};  ///< its execution is not used
  bool alone = false;        ///< the ghosts without the picture
  Decoding decoding{};
};

struct FlaredFrame {
  Frame frame{};
  Flare flare{};
  FoundLamps lamps{};
  std::string glass{};                          ///< the lens's name
  std::vector<std::string> surfaces{};          ///< of each surface of it, by its number
  std::map<std::string, std::string> header{};  ///< what its header says besides the camera
  std::vector<std::string> notes{};             ///< a sentence each
};

/// @throws as read_picture, glass_camera_of and flare_of; UsageError for a shot whose lens has no
///         glass, and for a picture that has its ghosts already, by its header
FlaredFrame flare_picture(const FlareRequest& request, const LoadedShot& loaded,
                          std::vector<std::string>& files, const Execution& execution = {});

/// The ghosts as layers of an EXR: "flare", then "ghost 7-3" for those that are pictures of their
/// own.
std::vector<NamedPicture> flare_layers(const FlaredFrame& made);

/// A sequence: "####" in names stands for the frame's number. Ghosts move with their lamps.
/// @throws as make_frames and flare_picture
FrameRun flare_frames(const FlareRequest& request, const std::vector<std::string>& names,
                      const std::string& layers, const FrameRunSettings& settings,
                      const LoadedShot& loaded, std::vector<std::string>& files,
                      const Execution& execution = {});

/// "7-3": the pair's surfaces, counted from 1 at the front, the one that is met first leading.
std::string ghost_name(const GhostPath& path);

}  // namespace jolly_iris
