// How blurred a point looks through a lens with faults: its circle of confusion is what a perfect
// lens would make of it.
//
//   const SeenBlur blur(camera);
//   to_pixels(blur.of(12_m), camera);     // signed as circle_of_confusion
//
// What counts is the diameter that holds 80 % of a point's light around its centre, divided by
// √0.8 = 0.894, so that a plain even disc keeps its own. Colour counts as the light of all three
// channels together. Blades and barrel are left out, as in the circle of confusion.
#pragma once

#include <optional>

#include "jolly_iris/export.hpp"
#include "jolly_iris/optics/camera.hpp"
#include "jolly_iris/optics/lens_sampler.hpp"
#include "jolly_iris/optics/sharpness.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// A place on the gate (desqueezed), from the axis, as seen in the scene.
struct GatePlace {
  Length right{};
  Length up{};
};

class SeenBlur {
 public:
  /// @param camera as resolve made it
  explicit SeenBlur(const VirtualCamera& camera);

  /// Signed (vertical) diameter on the gate; of a lens without faults the circle of confusion.
  /// @param z axial, > 0; may be infinite @throws OpticsError for z ≤ 0
  Length of(Length z, const GatePlace& at = {}) const;

  /// From where to where things in the picture's middle look sharp; none where nothing does, since
  /// the faults alone blur by more. A cheat's sharp band is as without faults.
  /// @throws OpticsError for limit ≤ 0
  std::optional<SharpRange> sharp_range(Length limit) const;

  /// The least blur there is, in the picture's middle.
  Length least() const;

 private:
  double seen(double coc, const GatePlace& at) const;  // metres
  VirtualCamera camera_;
  LensSampler lens_{};  ///< its faults, with a round opening
  bool faulty_ = false;
};

/// A lens sampler's faults at this stop, without opening, rims and light.
LensSampler faults_of(const VirtualCamera& camera);

}  // namespace jolly_iris
