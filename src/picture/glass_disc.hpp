// Discs as a glass makes them: light of a point, traced through its surfaces onto pixels. Each
// colour has its own way, so a disc's edge is coloured where the glass parts colours.
#pragma once

#include "disc_weights.hpp"
#include "jolly_iris/glass/glass_camera.hpp"
#include "jolly_iris/optics/pupil.hpp"

namespace jolly_iris::blur {

class GlassDiscs {
 public:
  /// @param camera lives longer
  /// @param pixel_width, pixel_height on the gate, m
  GlassDiscs(const GlassCamera& camera, double pixel_width, double pixel_height)
      : camera_(&camera), pixel_width_(pixel_width), pixel_height_(pixel_height) {}

  /// About where the straight picture has the point; each colour's light together 1.
  /// @param coc about how large it becomes, m
  Disc make(const PupilPlace& from, double coc) const;
  /// As PointLight has it.
  double light(const PupilPlace& from) const;

 private:
  const GlassCamera* camera_;
  double pixel_width_;
  double pixel_height_;
};

}  // namespace jolly_iris::blur
