// What a small light looks like out of focus, without a scene: one disc at one place of the frame,
// with its numbers.
//
//   const BokehDisc d = bokeh_disc(camera, {0.9, 0.9}, 40_m);   // up in the right corner, behind
//   fmt::print("{:.0f} x {:.0f} px, {:+.2f} stops\n", d.width_px, d.height_px, d.light_stops);
//
//   write_picture("iris.exr", {kernel_picture(camera, {}, 40_m, 256), {}});
#pragma once

#include "jolly_iris/export.hpp"
#include "jolly_iris/glass/glass_camera.hpp"
#include "jolly_iris/optics/camera.hpp"
#include "jolly_iris/picture/picture.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// A place in the frame: from the picture's middle, as shares of half its width and height; −1 … 1.
struct FramePlace {
  double right = 0.0;
  double up = 0.0;
};

struct BokehDisc {
  double coc_px = 0.0;    ///< signed, px of the picture's height; of green, faults included
  double width_px = 0.0;  ///< of what is lit, px of the (desqueezed) picture's height
  double height_px = 0.0;
  double area_px = 0.0;      ///< of what is lit, px²
  double light_stops = 0.0;  ///< against the picture's middle: what the barrel takes, ≤ 0; of a
                             ///< glass, natural fall-off as well
  double edge_falloff_stops = 0.0;  ///< light near the edge against the middle
  /// Its light, 1 where an even uncut disc of its CoC has 1; square pixels, its source in the
  /// middle. Alpha is 1.
  Picture picture{};
};

/// @param z how far away the light is, axial; may be infinite
/// @param scale pixels of the disc's picture for one of the delivered picture, > 0
/// @throws OpticsError as Pupil, and for z ≤ 0; UsageError for a scale ≤ 0 or a disc of more than
///         8192 px
/// @param glass traces it in place of the thin lens: the camera's own; null: none
BokehDisc bokeh_disc(const VirtualCamera& camera, FramePlace place, Length z, double scale = 1.0,
                     const GlassCamera* glass = nullptr);

/// The disc as a square picture for programs that take one: it fills the picture but for a pixel
/// at the edges, and its light adds up to 1 in each of red, green and blue where they are alike.
/// @param size of a side, 8 … 8192
/// @throws as bokeh_disc; UsageError for another size, or something so near the focus that it has
/// no
///         disc
Picture kernel_picture(const VirtualCamera& camera, FramePlace place, Length z, int size,
                       const GlassCamera* glass = nullptr);

/// The numbers of the opening itself.
struct OpeningFigures {
  double area_mm2 = 0.0;  ///< of what passes light, in the entrance pupil
  double height_over_width = 1.0;
  double edge_falloff_stops = 0.0;  ///< light near the edge against the middle
  double flattened = 0.0;           ///< 1 − least / largest distance of the edge: 0 is round
};
/// @throws as Pupil
OpeningFigures opening_figures(const VirtualCamera& camera);

}  // namespace jolly_iris
