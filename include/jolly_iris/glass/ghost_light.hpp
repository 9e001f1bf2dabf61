// Ghosts: light of a lamp that two surfaces of a glass send back, so that it comes to the film
// beside where it belongs. Which pairs of surfaces make one, and where their light falls.
//
//   const GhostLight ghosts(camera, prescription);
//   for (const GhostPath& path : ghosts.paths()) ghosts.pieces(path, from, 1, 48, pieces) …
//
// Each pair is followed by a lattice of rays over the front, as discs are (point_light.hpp), with
// what every surface reflects and lets through. Light that turns back
// four times or more is left out: two reflections more cost the square of what a surface reflects
// (1e-4 with a coat, 2e-3 without), times the number of ways that there are.
#pragma once

#include <vector>

#include "jolly_iris/export.hpp"
#include "jolly_iris/glass/glass_camera.hpp"
#include "jolly_iris/glass/point_light.hpp"
#include "jolly_iris/glass/prescription.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// The surfaces that light turns back at, counted from 0 at the front: first at `far`, then at
/// `near` < far.
struct GhostPath {
  std::size_t far = 0;
  std::size_t near = 0;
  friend bool operator==(const GhostPath&, const GhostPath&) = default;
};

class GhostLight {
 public:
  /// @param camera lives longer; made of that prescription
  GhostLight(const GlassCamera& camera, const Prescription& prescription);

  /// All pairs of surfaces that reflect.
  const std::vector<GhostPath>& paths() const { return paths_; }

  /// Where a lamp's light falls after turning at both, m on the gate from the picture's middle
  /// (right, up), distortion included.
  /// @param from the lamp: its direction as the straight picture has it, and 1/m
  /// @param side of the lattice: cells, 2 … 512
  /// @param pieces is filled anew; their light counts against what the lamp has in a straight
  ///        picture that nothing dims
  void pieces(const GhostPath& path, const PupilPlace& from, std::size_t colour, int side,
              std::vector<LightPiece>& pieces) const;

 private:
  struct Box {
    double left = 0.0, right = 0.0, low = 0.0, high = 0.0;
  };
  struct Lattice;
  void follow(const GhostPath& path, const PupilPlace& from, std::size_t colour, const Box& box,
              int side, Lattice& lattice) const;

  const GlassCamera& camera_;
  std::vector<GhostPath> paths_{};
  std::array<ReflectanceTables, 3> tables_{};
  std::array<double, 3> direct_{};  // share of light that goes straight through
  double front_clear_ = 0.0;        // mm
  double front_sag_ = 0.0;
};

}  // namespace jolly_iris
