// A sharp picture with depth → the picture as the lens would have seen it.
//
// Every pixel is spread over its circle of confusion, in the shape of the iris: upright behind the
// focus plane, turned by 180° in front of it. Pixels are gathered in layers by their blur, and the
// layers are joined from front to back by how much of each output pixel they cover:
//
//   - What a layer covers, nothing behind it can cover again: a sharp foreground is not smeared by
//     the background, a blurred one covers it softly.
//   - What no layer covers was hidden in the sharp picture. It is filled with what is seen nearby
//     behind the thing that hid it.
//   - A pixel at an outline mixes two colours and has one depth: it is taken apart first, so that
//   no
//     seam of the nearer colour is spread beside it.
//   - Light of lamps (pixels far brighter than all around them) is added, not averaged, so that no
//     filling ever multiplies it. Each lamp has a disc of its own, at its own place and size.
//
// Discs have the shape that the pupil shows from their place (pupil.hpp): cut by the barrel, with
// the light of the opening and the lens's faults; or they are traced through a glass.
#pragma once

#include <memory>
#include <optional>
#include <vector>

#include "jolly_iris/export.hpp"
#include "jolly_iris/glass/glass_camera.hpp"
#include "jolly_iris/optics/camera.hpp"
#include "jolly_iris/optics/execution.hpp"
#include "jolly_iris/optics/sharpness.hpp"
#include "jolly_iris/picture/picture.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// What is beyond the frame, as far as its blur reaches into it.
enum class FrameEdge {
  repeat,  ///< the picture's own edge goes on
  mirror,  ///< the picture is turned over
  black    ///< nothing: blur darkens towards the frame's edge, and so does alpha
};

struct DefocusSettings {
  FrameEdge edge = FrameEdge::repeat;
  bool vignetting = true;            ///< whether the light that the barrel takes is taken
  std::optional<Length> distance{};  ///< everything is this far away; the depth is not used
  /// Signed diameters of discs, px of the picture's height, one a pixel (or empty): they take the
  /// place of depth, and colours' focus shifts and field curvature come on top.
  std::vector<float> coc_px{};
  Margin margin{};  ///< px that the frame has beyond the camera's picture; cut off the result
  std::optional<Box> box{};  ///< only this part of the frame (px of it), margin included
  /// Discs are traced through it, each colour by itself, in place of the thin lens's: the camera is
  /// its own (focused and opened alike). Places of the frame are those of the straight picture, and
  /// its natural fall-off comes with the vignetting. Null: the thin lens.
  std::shared_ptr<const GlassCamera> glass{};
  Execution execution{};
};

/// @param frame colour (linear, premultiplied) and axial depth in metres; infinity is sky. Any
///        size: its width shows what the camera's picture shows.
/// @throws PictureError for depth that is missing, not a number or not in front of the camera, and
///         for colour that is not finite, and for depth so near that its disc would be twice the
///         picture's width (it is in another unit then); it names the pixel
Picture defocus(const Frame& frame, const VirtualCamera& camera,
                const DefocusSettings& settings = {});

/// One of several pictures that lie in front of each other, each with alpha and its own depth.
struct DefocusLayer {
  Frame frame{};
  bool holdout = false;  ///< it only hides what is behind it: its light is left out, and its alpha
  std::optional<Length> distance{};  ///< all of it is this far away: a card; its depth is not used
};

/// In which order layers lie: cards by their distance, nearest first and the first named of equals;
/// behind them those with depth, as they were named. @return numbers of layers, from front to back
std::vector<std::size_t> layer_order(const std::vector<std::optional<Length>>& distances);

/// Layers from front to back (cards among themselves in any order), each blurred by itself and laid
/// over the ones behind it: what is hidden in one is known from the next, so that nothing is
/// guessed.
/// @throws as defocus (names the layer), and PictureError for layers of different sizes or none
Picture defocus_layers(const std::vector<DefocusLayer>& layers, const VirtualCamera& camera,
                       const DefocusSettings& settings = {});

/// How large each pixel's disc is: signed diameters, px of the picture's height, as defocus uses
/// them (of green, where the lens parts colours).
/// @throws as defocus
std::vector<float> blur_map(const Frame& frame, const VirtualCamera& camera,
                            const DefocusSettings& settings = {});

}  // namespace jolly_iris
