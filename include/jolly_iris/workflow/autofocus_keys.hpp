// A shot's focus as a camera that focuses by itself would have it: after a subject, or after what a
// depth sequence has in its middle or at a pixel, frame by frame; as keys.
//
//   std::vector<std::string> files;
//   const AutofocusKeys keys = autofocus_keys({.shot = {.file = "drift.shot.toml"}, .on = "boat"},
//   files); keys.toml;                       // [[pull]] …, to be pasted
#pragma once

#include <string>
#include <vector>

#include "jolly_iris/export.hpp"
#include "jolly_iris/optics/autofocus.hpp"
#include "jolly_iris/workflow/load.hpp"
#include "jolly_iris/workflow/sequence.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

struct AutofocusRequest {
  ShotRequest shot{};
  /// A subject's name; "nearest" or "median" of the depth pictures' middle ninth; or a pixel of
  /// them, "960,540" (px of the delivered picture).
  std::string on{};
  std::string depth{};  ///< "depth.####.exr": of an area or a pixel
  FrameRequest frames{};
  AutofocusSettings settings{};  ///< the rate is the shot's, where it has one
  bool keep_keys = false;  ///< keys of the shot's own focus lead, and the rest joins them smoothly
  double join = 12.0;      ///< frames in which it goes onto the first of these
  Execution execution{};
};

struct AutofocusKeys {
  std::vector<double> frames{};
  std::vector<double> wanted_dpt{};    ///< where what is followed is
  std::vector<double> focus_dpt{};     ///< where the camera is focused
  std::vector<AutofocusMove> moves{};  ///< frames as the shot counts them
  std::size_t own_keys = 0;            ///< that led
  std::size_t keys = 0;
  std::string toml{};  ///< [[pull]] tables
};

/// @throws UsageError for what is no subject, area or pixel, or lacks its depth pictures, or for
///         frames that are not evenly spaced; as open_shot, chosen_frames and autofocus
AutofocusKeys autofocus_keys(const AutofocusRequest& request, std::vector<std::string>& files);

}  // namespace jolly_iris
