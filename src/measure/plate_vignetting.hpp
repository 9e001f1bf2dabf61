// The rim of the lens tube that all discs of a plate share, from what it hides of each.
#pragma once

#include <array>
#include <vector>

#include "blade_shape.hpp"
#include "disc_fit.hpp"
#include "jolly_iris/measure/discs.hpp"

namespace jolly_iris::measuring {

struct FoundVignetting {
  PlateVignetting vignetting{};
  std::vector<bool> in_front{};    ///< of each disc: it shows the rim on the other side …
  std::vector<bool> determined{};  ///< … and clearly so
};

/// Lays the barrel's rim over a disc.
void lay_over(const PlateVignetting& vignetting, bool in_front, PixelSize plate, DrawnDisc& disc);

/// A pupil point p (opening radii) of a disc at X passes if |p + shift · X| ≤ radius: the rim as
/// relative_illumination.hpp has it, for lamps far beyond it. A disc that is cut was fitted as a
/// smaller oval, so that its place and size are looked for anew with the rim over it. Which discs
/// are in front of the focus is looked for where the iris does not tell (`turned_is_known`); most
/// are taken to be behind.
FoundVignetting vignetting_of(const std::vector<const FittedDisc*>& discs, const BladeShape& shape,
                              bool turned_is_known, PixelSize plate);

/// Share of a disc's edge that the tube's rim hides.
double hidden_of(const DrawnDisc& disc, const BladeShape& shape);

}  // namespace jolly_iris::measuring
