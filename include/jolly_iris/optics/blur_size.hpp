// An amount of blur as people ask for it.
#pragma once

#include "jolly_iris/export.hpp"
#include "jolly_iris/optics/units.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

struct VirtualCamera;

/// A blur disc's (vertical) diameter.
struct BlurSize {
  enum class Kind {
    pixels,   ///< of the delivered picture
    on_gate,  ///< `value` in mm
    percent   ///< of the picture's width
  };
  Kind kind = Kind::pixels;
  double value = 0.0;  ///< > 0
  friend bool operator==(const BlurSize&, const BlurSize&) = default;
};

/// The same as a length on the gate.
Length on_gate(const BlurSize& size, const VirtualCamera& camera);

}  // namespace jolly_iris
