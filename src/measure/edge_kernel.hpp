// How light falls off across an edge: a straight edge seen through a small round lamp (its own
// picture, even and round) and everything that blurs and sharpens in the camera and its file.
//
// What blurs all edges of a plate alike is its kernel: the square of a photosite (or two of them
// laid over each other, a tent, where a picture was resampled or filtered so), and whatever is
// smeared like a bell: low-pass filter, demosaicing, scaling. Directions are not told apart: the
// mean over all of them is taken. Where the foot of a bright, clipped edge is all that is seen, it
// matters that squares have an end.
#pragma once

#include <array>
#include <vector>

namespace jolly_iris::measuring {

struct EdgeKernel {
  int squares = 1;     ///< 1 or 2, each 1 px wide
  double bell_px = 0;  ///< deviation
  /// Amount of an unsharp mask on the file's values (`kernels::sharpening_px` is its radius); 0:
  /// none.
  double sharpening = 0.0;
};

struct EdgeLight {
  double cover = 0.0;  ///< 0 … 1
  double slope = 0.0;  ///< of it, per deviation
};

/// Edges through one kernel and lamps of any size, as a table.
class EdgeTable {
 public:
  explicit EdgeTable(const EdgeKernel& kernel);

  const EdgeKernel& kernel() const { return kernel_; }
  /// Deviation of the kernel without sharpening, px.
  double sigma_px() const { return sigma_px_; }

  /// @param t distance inside the edge, in deviations of all that blurs it
  /// @param lamp the lamp's share of its square: 0 the kernel alone, 1 a lamp with an end
  EdgeLight light(double t, double lamp) const;

  static constexpr double farthest = 5.0;  ///< deviations; beyond, an edge has ended

 private:
  static constexpr int cells = 400;  // from −farthest to farthest
  static constexpr int lamps = 24;   // shares, 0 … 1
  static constexpr double step = 2.0 * farthest / cells;
  EdgeKernel kernel_;
  double sigma_px_ = 0.0;
  std::array<std::array<float, cells + 1>, lamps + 1> cover_{};
};

/// The table of a kernel, made when it is first asked for and kept; bells and sharpening as near as
/// `kernels::finest` has them.
const EdgeTable& edge_table(const EdgeKernel& kernel);

/// What is taken where nothing tells.
const EdgeTable& usual_kernel();

/// Those that a plate's own is looked for among at first.
const std::vector<EdgeKernel>& known_kernels();

}  // namespace jolly_iris::measuring
