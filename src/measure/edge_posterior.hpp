// What the line across a disc's edge says of where the edge is, if the plate had one kernel.
//
// How large its lamp was and, where the clip hides it, how bright, shows only in how the edge
// rises, and moves the edge. So lamps of several sizes are tried, each with the brightness that
// suits it; what all of them say by their likelihood is the edge's place, and what they differ by
// is its margin.
#pragma once

#include <array>
#include <optional>
#include <vector>

#include "edge_line.hpp"

namespace jolly_iris::measuring {

/// How large lamps' own pictures are: deviation of one against its disc's height, and how much that
/// differs, natural logarithm.
struct LampSize {
  double fraction = 0.0;
  double spread = 0.0;
};

/// The lamp's colour if its green were so bright: channels that are not clipped are known, the
/// others are as they are told, and no darker than they look.
std::array<double, 3> colour_for(double contrast, const std::array<double, 3>& inside,
                                 const std::array<bool, 3>& cut,
                                 const std::array<double, 3>& cut_colour = {1.0, 1.0, 1.0});

/// One lamp that was tried.
struct EdgeTry {
  DrawnDisc disc{};        ///< as it fits best
  double moved_px = 0.0;   ///< the edge, farther out than the line's disc
  double light_px2 = 0.0;  ///< variance of that: what its brightness leaves open, for even noise
  double cost = 0.0;       ///< half of χ²
  double size = 0.0;       ///< of the lamp, as LampSize counts
  double log_prior = 0.0;  ///< what is believed of such a lamp, densities of brightness and size
};

/// @param sizes every so many of the sizes that are known: 1 all of them
std::vector<EdgeTry> edge_tries(const EdgeLine& line, const LumaModel& look,
                                const EdgeTable& kernel, const std::optional<LampSize>& lamp,
                                std::size_t sizes = 1);

/// How many times more than noise the best try leaves over of a line, and how far such
/// costs are believed at best.
double misfit_of(const std::vector<EdgeTry>& tries, std::size_t samples);

struct EdgePosterior {
  double log_evidence = 0.0;
  double moved_px = 0.0;
  double sigma_px = 0.0;      ///< of that: what the lamp leaves open
  std::size_t likeliest = 0;  ///< of the tries
};
/// @param misfit by which all costs are divided
EdgePosterior edge_posterior(const std::vector<EdgeTry>& tries, double misfit);

}  // namespace jolly_iris::measuring
