// A lens as its maker would write it down: surfaces from the front to the film, what lies between
// them, which of them move to focus. A value; traced.hpp makes it something that rays go through.
//
//   Prescription p;
//   p.surfaces = {{.radius = 50_mm, .gap = 5_mm, .medium = {.n_d = 1.5168, .v_d = 64.17},
//                  .clear = 20_mm},
//                 {.radius = Length::infinity(), .gap = 96_mm, .clear = 20_mm, …}};
//   for (const GlassMistake& m : mistakes_in(p)) …
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "jolly_iris/export.hpp"
#include "jolly_iris/glass/medium.hpp"
#include "jolly_iris/optics/iris.hpp"
#include "jolly_iris/optics/units.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// Most surfaces of a prescription.
inline constexpr std::size_t most_surfaces = 200;

/// Which way a surface is curved.
enum class Curved {
  round,   ///< both ways
  across,  ///< a cylinder that bends light sideways only
  up       ///< a cylinder that bends light up and down only
};
/// "round", "across", "up".
std::string_view to_string(Curved curved);

struct GlassSurface {
  /// Of curvature at the axis; > 0: its middle lies towards the film; infinite: flat. Never 0.
  Length radius = Length::infinity();
  Length gap{};                       ///< along the axis to the next; of the last, to the film
  Medium medium{};                    ///< behind it
  Length clear = Length::infinity();  ///< diameter of what passes, > 0
  bool stop = false;                  ///< the opening's plane: no glass
  double conic = 0.0;                 ///< k: 0 sphere, −1 paraboloid, < −1 hyperboloid
  std::vector<double> terms{};  ///< of r⁴, r⁶, … added to the sag, mm^−3, mm^−5, …; ≤ 8
  Curved curved = Curved::round;
  std::optional<Length> coat{};  ///< wavelength of which its layer is a quarter; none: bare
  double coat_index = 1.38;      ///< of that layer at all wavelengths, 1 … 3
};

/// Surfaces that move together to focus.
struct GlassGroup {
  std::size_t first = 0;  ///< of its surfaces, counted from 0
  std::size_t last = 0;
  double moves = 1.0;  ///< how far towards the subject, for a travel of 1
};

enum class FocusBy {
  axis,  ///< where rays near the axis meet
  light  ///< where the spot of all light is smallest (root mean square)
};

struct Prescription {
  std::string name{};
  std::vector<GlassSurface> surfaces{};
  std::vector<GlassGroup> groups{};  ///< none: all of it moves
  FocusBy focus_by = FocusBy::axis;
  Iris iris{};  ///< its rotation and blades; as it lies in the stop's plane

  /// Which surface is the stop; the number of surfaces where none is.
  std::size_t stop() const;
  /// How far a surface goes towards the subject for a travel of 1.
  double moves(std::size_t surface) const;
  bool is_round() const;  ///< no cylinder in it
};

struct GlassMistake {
  std::optional<std::size_t> surface{};  ///< counted from 0
  std::optional<std::size_t> group{};
  std::string key{};      ///< "radius", "clear"
  std::string message{};  ///< the rest of a sentence
};

/// All that cannot be right, in the order of the surfaces: gaps that are negative, sizes that no
/// surface of that curvature has, no stop or two, groups that overlap, nothing that moves.
std::vector<GlassMistake> mistakes_in(const Prescription& prescription);

/// @throws OpticsError with all mistakes, if there are any
void require_sound(const Prescription& prescription);

/// All lengths times a factor, terms likewise. @param factor > 0
Prescription scaled(const Prescription& prescription, double factor);

}  // namespace jolly_iris
