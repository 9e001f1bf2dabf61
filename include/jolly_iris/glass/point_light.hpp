// Where the light of one point of the scene falls: the disc that a glass makes of it, as pieces of
// the picture with the light on each. What discs are drawn of.
//
//   const PointLight light(camera, {0.2, 0.1, 1.0 / 12.0});   // up right, 12 m away
//   std::vector<LightPiece> pieces;
//   light.pieces(1, 16, pieces);                              // green
//
// A lattice of rays is sent through the glass; between four neighbours everything is linear. Where
// the opening's outline or a clear diameter passes between them, the piece is cut along it: so no
// edge is ragged, however few rays there are, and zones that land on each other add up.
#pragma once

#include <array>
#include <vector>

#include "jolly_iris/export.hpp"
#include "jolly_iris/glass/glass_camera.hpp"
#include "jolly_iris/optics/lens_sampler.hpp"
#include "jolly_iris/optics/pupil.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// What one ray of a lattice came to; nothing stopped it on its way.
struct LightRay {
  Point2 at{};         ///< m on the picture, right and up
  Point2 stop{};       ///< in the stop's plane, mm
  double rim = 0.0;    ///< up to 1: it passes all clear diameters
  double light = 0.0;  ///< of a mm² of the plane that the lattice lies in
  bool met = false;    ///< whether it comes to the film at all
};

/// A convex piece of a disc, evenly lit.
struct LightPiece {
  static constexpr std::size_t most = 10;
  std::array<Point2, most> corners{};  ///< m on the straight picture, right and up of its middle
  std::size_t count = 0;               ///< of corners, ≥ 3
  double light = 0.0;                  ///< all of the piece together: its part of light()
};

class PointLight {
 public:
  /// @param from the point: its direction as the straight picture has it, and 1/m along the axis
  ///        from the entrance pupil
  PointLight(const GlassCamera& camera, const PupilPlace& from);

  /// Whether a ray through the opening's middle reaches the film: else there is no disc.
  bool reaches() const { return reaches_; }
  /// Where it does, m on the gate: as the film has it, distortion included.
  std::array<double, 2> middle() const { return middle_; }

  /// @param colour 0 red, 1 green, 2 blue; places count from where green's middle ray lands. What
  ///        distortion does to the disc is taken back, since the straight picture gets it later.
  /// @param side of the lattice: cells, 2 … 512
  /// @param pieces is filled anew; empty where nothing passes
  void pieces(std::size_t colour, int side, std::vector<LightPiece>& pieces) const;

  /// The rays themselves, (side + 1)² of them row by row, at even steps over what the opening may
  /// look like from there; places as for `pieces`. @return mm² of a cell; 0: there are none
  double rays(std::size_t colour, int side, std::vector<LightRay>& rays) const;

  /// Light against the picture's middle in focus, ≥ 0: of green, natural fall-off and vignetting
  /// together. It is what `pieces` add up to.
  double light(int side = 16) const;

 private:
  struct Box {
    std::array<double, 2> low{};
    std::array<double, 2> high{};
  };
  void find_box();
  bool find_middle();

  const GlassCamera& camera_;
  PupilPlace from_;
  bool reaches_ = false;
  std::array<double, 2> middle_{};
  Box box_{};  // in the first vertex's plane, mm
  /// From m on the gate to m on the straight picture: the inverse of what distortion does here.
  std::array<double, 4> straight_{};
  double light_of_mm2_ = 0.0;
};

}  // namespace jolly_iris
