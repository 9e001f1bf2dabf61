// From a picture and a lens to what is spread: every pixel's disc, layer and light.
#pragma once

#include <deque>
#include <memory>
#include <vector>

#include "disc_store.hpp"
#include "edge_unmix.hpp"
#include "jolly_iris/optics/camera.hpp"
#include "jolly_iris/picture/defocus.hpp"
#include "spread.hpp"
#include "vignette.hpp"

namespace jolly_iris::blur {

/// What a picture's light needs that no lens has a say in.
struct FoundLight {
  std::vector<float> lamp_fraction{};  ///< of each pixel; empty where nothing will be spread
  float excess_from = 0.0F;            ///< light beyond it is brought without sums of differences
  bool has_alpha = false;              ///< some pixel covers less (or more) than all of itself
};
FoundLight find_light(const Picture& picture);

class Preparation {
 public:
  /// All must outlive it. The frame is checked already.
  /// @param store discs of pictures before; may be null
  Preparation(const Frame& frame, const FoundLight& light, const VirtualCamera& camera,
              const DefocusSettings& settings, const GateMap& map, DiscStore* store = nullptr);

  /// What one colour needs (any colour stands for all where the lens does not part them).
  /// @throws PictureError for discs of many frames' size
  std::unique_ptr<Pass> pass(std::size_t colour) const;

  /// Signed diameters, px of the picture's height, of green.
  std::vector<float> blur_map() const;

  const GateMap& map() const { return map_; }
  const DiscMaker& maker() const { return maker_; }

 private:
  void blur_row(int y, std::size_t colour, float* coc) const;
  double blur_strength() const;
  double inverse_z(double coc_px) const;
  void sort_into_layers(std::size_t colour, std::vector<float>& coc, Spread& spread) const;
  void bring_light(const std::vector<float>& coc,
                   const std::vector<std::vector<PartedPixel>>& unmixed, std::size_t colour,
                   Pass& pass) const;
  void give_discs(const std::vector<float>& coc, std::size_t colour, Pass& pass) const;
  void share_discs(const std::vector<float>& coc, Pass& pass) const;

  const Frame& frame_;
  const VirtualCamera& camera_;
  const DefocusSettings& settings_;
  PixelSize size_;
  GateMap map_;
  Pupil pupil_;
  DiscMaker maker_;
  Colouring colouring_;
  const FoundLight& light_;
  DiscStore* store_;
};

}  // namespace jolly_iris::blur
