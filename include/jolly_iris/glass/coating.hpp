// How much light a surface reflects, bare or with one layer.
#pragma once

#include <array>

#include "jolly_iris/export.hpp"
#include "jolly_iris/glass/prescription.hpp"
#include "jolly_iris/glass/traced.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// Share of unpolarised light that goes back. The layer is a quarter of `coat` thick, at normal
/// incidence and in its own index; one of no index between the two sides' only shifts.
/// Source: Fresnel's formulas and one thin film, Born and Wolf, Principles of Optics,
/// sections 1.5.2 and 1.6.4.
/// @param before, after indices, ≥ 1
/// @param cosine of the angle of incidence, 0 … 1
/// @param um wavelength
/// @return 0 … 1; 1 where all of it is reflected
double reflectance(const GlassSurface& surface, double before, double after, double cosine,
                   double um);

/// Share of light on the axis that passes all surfaces, red, green, blue (colours_um): what they
/// reflect is lost. Glass itself is taken to be clear.
std::array<double, 3> axis_transmission(const Prescription& prescription);

}  // namespace jolly_iris
