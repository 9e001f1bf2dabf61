// What a picture says of the camera that made it, and whether it can be a picture of this shot.
//
//   const PictureOrigin origin = read_origin("try.exr");
//   const Shot made = shot_of(origin, loaded);           // f/4, where the file says f/2 by now
#pragma once

#include <map>
#include <optional>
#include <string>
#include <vector>

#include "jolly_iris/export.hpp"
#include "jolly_iris/workflow/load.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// As its header has it, by the names that docs/report-json.md lists; only our own pictures and
/// those that `handoff` stamped have one.
struct PictureOrigin {
  std::string made_with{};  ///< in words, "53 mm, f/2.2, focus 2.350 m"; empty: it says nothing
  std::string shot{};       ///< file name of the shot
  std::optional<double> focal_mm{};
  std::optional<double> f_number{};  ///< of the virtual camera
  std::optional<Stop> stop{};        ///< as the take had it
  std::optional<double> squeeze{};
  std::optional<int> blades{};
  std::optional<double> rotation_deg{};
  std::optional<BladeRadius> blade_radius{};
  std::optional<double> frame{};
  std::optional<double> pixel_aspect{};
  bool axial_depth = false;     ///< its depth is axial metres: we wrote it
  bool darker_corners = false;  ///< the lens's fall-off is in it already
  std::string fingerprint{};    ///< of settings and inputs, see run_fingerprint.hpp

  /// Whether it says what lens it was made with.
  bool told() const { return f_number.has_value() || stop.has_value(); }
};

PictureOrigin origin_of(const std::map<std::string, std::string>& header);
/// @throws as read_header
PictureOrigin read_origin(const std::string& file);

/// The shot as it was when that picture was made, as far as its header says: stop, squeeze and
/// iris. Without such a header it is taken to be as it is now.
Shot shot_of(const PictureOrigin& origin, const LoadedShot& loaded);

/// What speaks against a picture being one of this shot, at this frame: another shot's, another
/// focal length, another shape. A sentence each, beginning with the file's name.
/// @param margin that the picture may have beyond the frame, px
std::vector<std::string> contradictions(const std::string& file, PixelSize size,
                                        const PictureOrigin& origin, const LoadedShot& loaded,
                                        const Margin& margin = {});

/// How our own pictures' "Software" begins.
inline constexpr const char* software_mark = "Jolly Iris ";
/// What a picture's header is told its darker corners by.
inline constexpr const char* corners_in_picture = "in the picture";

}  // namespace jolly_iris
