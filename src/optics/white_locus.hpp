// The line of whites in CIE 1960 uv, by temperature.
#pragma once

#include <array>

#include "jolly_iris/optics/primaries.hpp"

namespace jolly_iris {

using Uv = std::array<double, 2>;

Uv uv_of(const Chromaticity& c);
Chromaticity chromaticity_of_uv(const Uv& uv);

/// The locus at a temperature, 1000 … 25000 K.
Uv locus(double kelvin);

/// Its direction towards rising mired (warmer), of length 1, and across it towards green.
struct LocusFrame {
  Uv along{};
  Uv across{};
};
LocusFrame locus_frame(double mired);

}  // namespace jolly_iris
