// What lies between two surfaces of a lens: air, or a glass by its index and dispersion.
//
//   const Medium crown{.n_d = 1.5168, .v_d = 64.17};
//   refractive_index(crown, 0.4861327);                    // the blue line of hydrogen, µm
#pragma once

#include <array>
#include <optional>
#include <string>

#include "jolly_iris/export.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// Wavelengths of the lines that glasses are named by, µm in air.
inline constexpr double line_d_um = 0.5875618;
inline constexpr double line_f_um = 0.4861327;
inline constexpr double line_c_um = 0.6562725;
inline constexpr double line_g_um = 0.4358343;

/// Between which wavelengths a medium is asked, µm: what cameras see, and a little more.
inline constexpr double shortest_um = 0.35;
inline constexpr double longest_um = 1.1;

struct Medium {
  double n_d = 1.0;  ///< index at the d line, 1 … 4; 1: air
  double v_d = 0.0;  ///< Abbe number (n_d − 1) / (n_F − n_C), > 0; 0: without dispersion
  /// P_gF = (n_g − n_F) / (n_F − n_C); none: on the normal line, 0.6438 − 0.001682 V_d.
  std::optional<double> partial{};
  /// B1, B2, B3, C1, C2, C3 of n² − 1 = Σ B λ² / (λ² − C), λ and √C in µm (Sellmeier 1871); it
  /// takes the place of the numbers above, which are then what it says.
  std::optional<std::array<double, 6>> six{};

  bool is_air() const { return n_d == 1.0 && v_d == 0.0 && !six; }
  friend bool operator==(const Medium&, const Medium&) = default;
};

/// Of six dispersion numbers, with n_d, v_d and partial as they say.
Medium medium_of(const std::array<double, 6>& six);

/// n(λ) = n_d + B (λ⁻¹ − λ_d⁻¹) + C (λ^−3.5 − λ_d^−3.5), B and C from V_d and P_gF.
/// Source: Conrady, Applied Optics and Optical Design (1929), part 1, for the form; the normal line
/// through common crowns and flints is the trade's.
/// @param wavelength_um within shortest_um … longest_um
/// @throws UsageError for a wavelength out of range
double refractive_index(const Medium& medium, double wavelength_um);

/// What cannot be right about it, as the rest of a sentence; nothing where all is well.
std::string wrong_with(const Medium& medium);

}  // namespace jolly_iris
