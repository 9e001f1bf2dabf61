// A CG camera as somebody set it, whatever program it came from, and the real lens it amounts to.
#pragma once

#include <optional>
#include <string>

#include "jolly_iris/export.hpp"
#include "jolly_iris/optics/camera.hpp"
#include "jolly_iris/optics/units.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// Only framing is always known. Lengths are real ones (not scaled to a program's fixed gate).
struct CgCamera {
  std::string message{};                    ///< where it came from: "in camera.usda"
  Extent picture{};                         ///< what the picture shows of the plane at `focal`
  Length focal{};                           ///< pinhole focal length
  std::optional<Length> aperture_radius{};  ///< vertical
  std::optional<Length> focus{};            ///< axial; may be infinite
  std::optional<double> width_to_height{};  ///< of the aperture
  std::optional<int> blades{};
  std::optional<Angle> rotation{};  ///< of the blades, counter-clockwise, 0 = a corner at the top
  std::optional<Length> shift_right{};
  std::optional<Length> shift_up{};
  /// A pixel's width against its height on the gate: not 1 where the delivered picture's pixels are
  /// not square, or the squeeze at this focus is not the nominal one.
  std::optional<double> pixel_aspect{};
};

/// The CG camera that equals a virtual camera: what should have been set.
CgCamera as_cg_camera(const VirtualCamera& camera);

/// The real lens that frames and blurs like a CG camera on this body with this adapter:
/// f₀ = v s / (A s + v), N₀ = f₀ / D, with v scaled to the body's gate.
struct RealLens {
  Length focal{};                ///< marked, f₀
  std::optional<double> stop{};  ///< marked f-number N₀, where the aperture is known
};
/// @param focus where the CG camera does not know its own
RealLens real_lens_of(const CgCamera& cg, const VirtualCamera& wanted, const Lens& lens,
                      Length focus);

}  // namespace jolly_iris
