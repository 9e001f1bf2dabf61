// Small emitters put into the picture by connecting them to points of the pupil.
#pragma once

#include <cstdint>
#include <functional>
#include <vector>

#include "jolly_iris/optics/execution.hpp"
#include "jolly_iris/picture/picture.hpp"
#include "stage.hpp"

namespace jolly_iris::tracing {

/// Light of emitters in the picture's box, and for each pixel which emitter dominates.
struct Splats {
  std::vector<Vec3f> light{};         ///< by pixel of the box
  std::vector<float> depth{};         ///< axial metres of the brightest emitter there
  std::vector<float> brightest{};     ///< its own light there (mean of RGB)
  std::vector<std::uint32_t> node{};  ///< whose emitter that is
};

struct SplatJob {
  const Stage& stage;
  const LensView& view;
  Box box{};          ///< the wanted part of the picture
  PixelSize whole{};  ///< all of it: a part gets the same rays as within the whole
  int samples = 64;
  std::uint32_t block = 0;  ///< which of several pictures of as many samples this is
  std::uint32_t seed = 1;
  double density = 1.0;  ///< of a draft's clouds
  Execution execution{};
};

Splats splat_emitters(const SplatJob& job);

}  // namespace jolly_iris::tracing
