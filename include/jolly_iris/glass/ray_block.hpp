// Many rays at once, in single precision: what pupils, discs and pictures are made of by the
// thousand. Where a single ray has to be exact, TracedGlass has it in double.
//
//   const BlockTracer tracer(glass);
//   RayBlock rays = …;                                   // rays.count of them
//   tracer.to_scene(rays);                               // rays.open[i] != 0: it passed
#pragma once

#include <array>
#include <cstddef>
#include <cstdint>
#include <vector>

#include "jolly_iris/export.hpp"
#include "jolly_iris/glass/traced.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// Places and directions side by side; mm, in the glass's space (TracedGlass).
struct RayBlock {
  static constexpr std::size_t most = 256;
  std::size_t count = 0;  ///< ≤ most
  alignas(64) std::array<float, most> x{}, y{}, z{};
  alignas(64) std::array<float, most> along_x{}, along_y{}, along_z{};  ///< of length 1, z not 0
  alignas(64) std::array<std::int32_t, most> open{};                    ///< 0: it did not pass
};

/// What rays met on their way, where nothing stops them.
struct RayMarks {
  alignas(64) std::array<float, RayBlock::most> stop_x{}, stop_y{};  ///< in the stop's plane, mm
  /// How far out it came at the surface that is the narrowest for it: against that one's clear
  /// radius. Up to 1 it passes them all. The opening, which is within the stop's, is not counted.
  alignas(64) std::array<float, RayBlock::most> rim{};
};

/// Shares of light that surfaces send back, by the cosine of incidence: tables, since rays ask by
/// the million. One for each surface and each side that light may come from.
struct ReflectanceTables {
  static constexpr std::size_t steps = 128;
  using Table = std::array<float, steps + 2>;
  std::vector<Table> from_scene{};  ///< at cosines of 0, 1/steps … 1, and the last once more
  std::vector<Table> from_film{};
};

/// The same of rays that turn back twice.
struct GhostMarks {
  RayMarks marks{};  ///< its stop: where the opening is crossed for the first time
  /// All crossings, up to three: in the stop's plane, mm.
  std::size_t crossings = 0;
  alignas(64) std::array<std::array<float, RayBlock::most>, 3> cross_x{}, cross_y{};
  /// What is left of its light after all surfaces.
  alignas(64) std::array<float, RayBlock::most> light{};
};

/// A traced glass as tables of single precision. Copies what it needs.
class BlockTracer {
 public:
  explicit BlockTracer(const TracedGlass& glass);

  /// To the film plane; to the first surface's plane. What does not pass has open = 0 and any place
  /// that is a number; a ray that begins with open = 0, or is no number, stays so.
  void to_film(RayBlock& rays) const;
  void to_scene(RayBlock& rays) const;
  /// To the film plane, through the opening and clear diameters as if they were not there; they are
  /// told instead. open = 0: a surface is missed, or reflects all.
  void follow(RayBlock& rays, RayMarks& marks) const;

  /// To the film with two reflections: at surface `far` back towards the scene, at `near` < far
  /// towards the film again; neither is the stop. Nothing stops it, as in `follow`.
  void follow_ghost(RayBlock& rays, std::size_t far, std::size_t near,
                    const ReflectanceTables& tables, GhostMarks& marks) const;

  struct Surface {
    float apart = 0.0F;  ///< from the vertex before it on a ray's way to the film, mm
    float curvature = 0.0F;
    float bend = 1.0F;               ///< 1 + conic
    float across = 1.0F, up = 1.0F;  ///< 0 where a cylinder is straight
    float clear_sq = 0.0F;
    float ratio = 1.0F, ratio_back = 1.0F;  ///< of indices, before to after, either way
    std::vector<float> terms{};
    bool stop = false;
  };

 private:
  void check_opening(RayBlock& rays) const;

  std::vector<Surface> surfaces_{};
  TracedGlass glass_;  // for the opening's shape
  float opening_sq_ = 0.0F;
  float front_ = 0.0F;  // z of the first vertex
  float back_ = 0.0F;   // of the last
};

}  // namespace jolly_iris
