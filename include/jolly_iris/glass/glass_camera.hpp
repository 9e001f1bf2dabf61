// A glass as a camera has it: focused, opened, with the shape of its iris; which ray a place of the
// picture and two numbers stand for, and where a point of the scene comes to lie.
//
//   const GlassCamera camera(prescription, 2.4_m, 2.8);        // from the entrance pupil
//   const auto ray = camera.ray({4_mm, -2_mm}, u, v, 1);       // u, v in [0, 1)
//
// Space is the camera's (x right, y up, looking along −z, metres), its origin in the middle of the
// entrance pupil, where the CG camera's is; places of the picture are on the gate as the picture
// shows them (right and up), which is upside down on the film.
#pragma once

#include <array>
#include <memory>
#include <optional>
#include <span>
#include <vector>

#include "jolly_iris/export.hpp"
#include "jolly_iris/glass/prescription.hpp"
#include "jolly_iris/glass/ray_block.hpp"
#include "jolly_iris/glass/traced.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

class StopWedges;

/// What the three colours of a picture are traced at, µm: about the middles of what red, green and
/// blue of a camera see.
inline constexpr std::array<double, 3> colours_um{0.61, 0.55, 0.465};

struct GlassCameraRay {
  std::array<double, 3> origin{};     ///< m, in the entrance pupil's plane
  std::array<double, 3> direction{};  ///< z is −1
  double weight = 0.0;                ///< mean over u and v: light against the picture's middle
};

struct GlassLanding {
  std::array<double, 2> at{};  ///< m on the gate: right, up
  double weight = 0.0;
};

class GlassCamera {
 public:
  /// @param focus from the entrance pupil, as VirtualCamera has it; may be infinite
  /// @param f_number as marked, of infinity
  /// @param half_diagonal of the gate: how far from its middle the picture reaches
  /// @param squeeze by which pictures are desqueezed: places to the right are as much nearer to the
  ///        middle on the film, ≥ 1
  /// @throws as focused and opening_for; OpticsError where no light of the middle passes
  GlassCamera(const Prescription& prescription, Length focus, double f_number, Length half_diagonal,
              double squeeze = 1.0);

  /// @param right, up on the gate, m
  /// @param u, v in [0, 1): evenly over what the opening may look like from there
  /// @param colour 0 red, 1 green, 2 blue
  /// @return weight 0 where the ray does not pass
  GlassCameraRay ray(double right, double up, double u, double v, std::size_t colour) const;

  /// The same of many, in single precision: several times as quick.
  /// @param right, up, u, v, out of one length
  void rays(std::span<const double> right, std::span<const double> up, std::span<const double> u,
            std::span<const double> v, std::size_t colour, std::span<GlassCameraRay> out) const;

  /// A point of the entrance pupil's plane that covers what light may go through, m.
  std::array<double, 3> pupil_point(double u, double v) const;
  /// Where light of a point (m, camera space) lands that goes towards that pupil point.
  /// @return weight such that area × weight / (n pixels) of n even points is the picture's light,
  ///         for an emitter's projected area (see glass_camera.cpp); 0 where it does not pass
  GlassLanding land(const std::array<double, 3>& point, const std::array<double, 3>& pupil,
                    std::size_t colour) const;

  /// Through the opening's middle; none where no ray goes.
  std::optional<std::array<double, 2>> project(const std::array<double, 3>& point) const;
  /// How far from there its light lands at the most, m on the gate.
  double reach(const std::array<double, 3>& point) const;

  const TracedGlass& green() const { return glass_[1]; }
  const TracedGlass& glass(std::size_t colour) const { return glass_[colour]; }
  const BlockTracer& blocks(std::size_t colour) const { return blocks_[colour]; }
  /// How far from its middle the film's picture reaches.
  Length reach_on_film() const { return Length::from_mm(reach_mm_); }
  /// By which pictures are desqueezed.
  double squeeze() const { return squeeze_; }
  /// Projected solid angle that the picture's middle has light from: what weights count against.
  double middle_light() const { return middle_light_; }
  /// Focal length of the pinhole that frames alike near the axis: a picture's, before distortion.
  Length scene_focal() const { return scene_focal_; }
  /// Of green's opening.
  const StopWedges& wedges() const { return *wedges_; }
  /// Whether the other makes the same discs: surfaces where they lie, opening, squeeze.
  bool alike(const GlassCamera& other) const;
  Length travel() const { return travel_; }
  /// From the entrance pupil to the film.
  Length pupil_to_film() const { return Length::from_mm(-pupil_z_); }

 private:
  // An ellipse in the last surface's plane.
  struct Bounds {
    std::array<double, 2> middle{};
    std::array<double, 2> half{};
  };
  // A ray out of the film, and its weight if it passes.
  struct Begun {
    GlassRay ray{};
    double weight = 0.0;
  };
  Begun begun(double right, double up, double u, double v) const;
  Bounds bounds_at(double right_mm, double up_mm) const;
  void fill_bounds();

  std::vector<TracedGlass> glass_{};   // red, green, blue
  std::vector<BlockTracer> blocks_{};  // likewise
  Length travel_{};
  double pupil_z_ = 0.0;       // of the entrance pupil, mm
  double pupil_radius_ = 0.0;  // of what may pass there, mm
  double reach_mm_ = 0.0;      // of the picture
  double squeeze_ = 1.0;
  Length scene_focal_{};
  std::shared_ptr<const StopWedges> wedges_{};
  double middle_light_ = 1.0;  // projected solid angle there
  std::vector<Bounds> bounds_{};
};

}  // namespace jolly_iris
