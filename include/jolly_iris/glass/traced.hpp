// A prescription at one travel and for one wavelength: what rays go through.
//
//   const TracedGlass glass(prescription, travel);
//   const GlassWay way = glass.to_film({{0, 0, -1000}, {0, 0, 1}});
//   if (way.end == RayEnd::passed) …                    // way.ray at the film plane
//
// Space: the film plane is z = 0, z grows from the scene to the film, x to the right and y up as
// seen from behind the film; millimetres. So surfaces lie at z < 0, and things at larger −z.
//
// Sources: Welford, Aberrations of Optical Systems (1986), chapter 4, for exact rays through
// conics, cylinders and aspheres; the refracted direction is Snell's law in vectors.
#pragma once

#include <array>
#include <cmath>
#include <cstddef>
#include <string_view>
#include <vector>

#include "jolly_iris/export.hpp"
#include "jolly_iris/glass/prescription.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

struct GlassRay {
  std::array<double, 3> at{};     ///< mm
  std::array<double, 3> along{};  ///< of length 1; along z: not 0
};

enum class RayEnd {
  passed,
  missed,    ///< it goes past a surface that is too strongly curved to be met
  clipped,   ///< beyond a clear diameter or the opening
  reflected  ///< totally, at a surface towards a thinner medium
};
/// "passed", "missed", "clipped", "reflected".
std::string_view to_string(RayEnd end);

struct GlassWay {
  GlassRay
      ray{};  ///< where it ended: at the film (at the front surface's plane), else where it stopped
  RayEnd end = RayEnd::passed;
  std::size_t surface = 0;  ///< which one ended it
};

/// One surface as it lies.
struct TracedSurface {
  double z = 0.0;          ///< of its vertex, mm
  double curvature = 0.0;  ///< 1/mm
  double conic = 0.0;
  std::vector<double> terms{};
  Curved curved = Curved::round;
  double before = 1.0;  ///< indices
  double after = 1.0;
  double clear_sq = 0.0;  ///< of its clear radius, mm²; may be infinite
  bool stop = false;
  friend bool operator==(const TracedSurface&, const TracedSurface&) = default;
};

class TracedGlass {
 public:
  /// @param travel towards the subject, 0: as the prescription lies
  /// @throws OpticsError for a prescription with mistakes, or a travel at which surfaces would go
  ///         through each other; as refractive_index
  explicit TracedGlass(const Prescription& prescription, Length travel = {},
                       double wavelength_um = line_d_um);

  /// The opening: what passes in the stop's plane, its radius. As wide as it opens until it is set.
  /// @throws OpticsError for one that is not above zero or larger than the stop's clear radius
  void set_opening(Length radius);
  /// The same as wide as that in its area, in the shape of an iris, seen as it lies in the stop's
  /// plane; fully open it is round. @throws as Opening, too
  void set_opening(Length radius, const Iris& iris);
  Length opening() const { return Length::from_mm(opening_); }
  /// Whether it is a circle: no blade stands in it.
  bool opens_round() const { return outline_.empty(); }
  /// Its outline in the stop's plane, mm, counter-clockwise; empty: a circle.
  const std::vector<std::array<double, 2>>& outline() const { return outline_; }
  /// Whether a place of the stop's plane (mm) lets light through.
  bool is_open(double x, double y) const;
  /// How far from the axis its outline reaches: the corners of blades stand out.
  Length farthest_open() const {
    return Length::from_mm(outline_.empty() ? opening_ : std::sqrt(outside_sq_));
  }

  /// How near to the axis it comes.
  Length nearest_edge() const {
    return Length::from_mm(outline_.empty() ? opening_ : std::sqrt(inside_sq_));
  }

  /// Exact skew rays. They are taken to the first surface (the last) from wherever they are.
  /// @param clips whether clear diameters and the opening stop it; else surfaces are infinite
  GlassWay to_film(const GlassRay& ray, bool clips = true) const;
  GlassWay to_scene(const GlassRay& ray, bool clips = true) const;

  /// As far as one surface, before it is refracted there; nothing stops it.
  GlassWay to_surface(const GlassRay& ray, std::size_t surface) const;

  /// Where it meets the stop's plane, on its way from the scene or from the film; end as above.
  GlassWay scene_to_stop(const GlassRay& ray, bool clips = true) const;
  GlassWay film_to_stop(const GlassRay& ray, bool clips = true) const;

  const std::vector<TracedSurface>& surfaces() const { return surfaces_; }
  std::size_t stop() const { return stop_; }
  double wavelength_um() const { return wavelength_um_; }
  friend bool operator==(const TracedGlass&, const TracedGlass&) = default;

 private:
  GlassWay run(GlassRay ray, std::ptrdiff_t from, std::ptrdiff_t to, bool clips) const;

  std::vector<TracedSurface> surfaces_{};
  std::size_t stop_ = 0;
  double opening_ = 0.0;
  // Of a shaped opening: its outline, mm, and between which squared radii it lies; empty: round.
  std::vector<std::array<double, 2>> outline_{};
  double inside_sq_ = 0.0;
  double outside_sq_ = 0.0;
  double wavelength_um_ = line_d_um;
};

/// From which to which travel no two surfaces meet at the axis. Where nothing ends it: a focal
/// length is the caller's bound; these are then infinite.
struct TravelRange {
  Length least{};
  Length most{};
};
TravelRange travel_range(const Prescription& prescription);

/// Where a surface is at the height (x, y) against its vertex, mm; NaN beyond it.
double sag_of(const TracedSurface& surface, double x, double y);

}  // namespace jolly_iris
