// The way back: from what is wanted (two things sharp, so much blur) to focus, stop and lens.
//
// Every answer is given, also where no lens can be made like that; real_lens_doubt says so then.
#pragma once

#include <optional>
#include <string>

#include "jolly_iris/export.hpp"
#include "jolly_iris/optics/camera.hpp"
#include "jolly_iris/optics/sharpness.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// Focus and stop that make two distances just sharp: 1/s = (1/a + 1/b)/2, D = 2c / (v |1/a −
/// 1/b|). Asked with near and far, it is the setting whose sharp range they are.
struct Hold {
  Length focus{};
  Stop stop{};            ///< to set on the lens, N₀
  double f_number = 0.0;  ///< effective at infinity, A N₀
};
/// @param a, b axial, different; either may be infinite
/// @param take its stop does not count
/// @throws OpticsError for equal distances, or a focus the lens cannot reach
Hold hold(const Body& body, const Lens& lens, const Take& take, const Criterion& criterion,
          Length a, Length b);

/// The stop (to set on the lens) that blurs distance z to this CoC when focused at `focus`.
/// @param coc diameter on the gate, either sign
/// @throws OpticsError for z in the focus plane: nothing blurs it
Stop stop_for_blur(const Body& body, const Lens& lens, const Take& take, Length focus, Length z,
                   Length coc);

/// Focal length and distance that blur something `behind` the subject to this CoC at the take's
/// stop, with the subject in focus and as large in the picture as it is at `focus` now.
/// c = f₀ m Δ / (N (f₀ (1 + A/m) + Δ)), solved for f₀; Δ is how far it is behind.
struct LensAndDistance {
  Length focal{};     ///< marked, f₀
  Length distance{};  ///< of the subject, axial
};
/// @throws OpticsError where no focal length does it at that stop, with the blur's upper end
LensAndDistance lens_for_blur(const Body& body, const Lens& lens, const Take& take, Length focus,
                              Length behind, Length coc);

/// The lens and stop that make the same picture on another body: same view, same blur (as a share
/// of the picture's width) at every distance. v scales with the gate, D stays.
struct Equivalent {
  Length focal{};         ///< marked, f₀
  Stop stop{};            ///< to set on that lens
  double f_number = 0.0;  ///< effective at infinity
};
/// @param adapter that will be behind the other lens
/// @throws OpticsError as resolve, for the other body
Equivalent equivalent_on(const VirtualCamera& camera, const Body& other, double adapter = 1.0);

/// A sentence where an f-number is wider or smaller than lenses are made, else nothing.
std::string real_lens_doubt(double f_number);

}  // namespace jolly_iris
