// Blur that no lens makes, because somebody wants it so. A cheat is named as such wherever it
// counts.
#pragma once

#include <optional>

#include "jolly_iris/export.hpp"
#include "jolly_iris/optics/blur_size.hpp"
#include "jolly_iris/optics/units.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

struct VirtualCamera;

struct BlurOverride {
  double blur = 1.0;                  ///< all blur times this, > 0; the focus stays where it is
  std::optional<Length> from{};       ///< with `to`: all from here, axial …
  std::optional<Length> to{};         ///< … to here is wholly sharp; blur rises from these edges
  std::optional<BlurSize> at_most{};  ///< no disc grows larger than this

  bool any() const { return blur != 1.0 || bends(); }
  /// Whether it is beyond any opening: a blur factor alone is only a wider one.
  bool bends() const { return from || to || at_most; }
  friend bool operator==(const BlurOverride&, const BlurOverride&) = default;
};

/// The camera with the cheat in it: its opening grows by the factor (its f-number shrinks; the
/// lens's own numbers and the exposure stay), and circle_of_confusion follows the rest.
/// @throws OpticsError (cheat…) for a factor ≤ 0, a band without a second end or turned round
VirtualCamera with_blur_override(const VirtualCamera& camera, const BlurOverride& blur_override);

/// The same camera as the optics have it.
VirtualCamera without_blur_override(const VirtualCamera& camera);

}  // namespace jolly_iris
