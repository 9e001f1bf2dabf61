// The numbers that finding discs, fitting them and judging likeness rest on, and where each comes
// from.
//
// Those that follow from something say from what. Those marked "by bench" follow from nothing: they
// were chosen with plates of known truth at hand (bench/discs for discs, irises and rims,
// tests/image_comparison_test.cpp for likeness), and no table of the choice was kept. Who changes
// one runs these before and after.
#pragma once

#include <array>
#include <cstddef>

#include "edge_kernel.hpp"

namespace jolly_iris::measuring {

/// Is there a disc at all: looked at along rays from a candidate's middle, in its radii.
namespace candidate {
inline constexpr int directions = 64;  // four a blade of the most that an iris is taken to have
inline constexpr double from = 0.45;   // the nearest edge without its window
inline constexpr double to = 1.65;     // the farthest edge with its window, and two steps
inline constexpr int steps = 48;  // an eighth of a pixel of the smallest disc that is voted for
inline constexpr double step = (to - from) / steps;
inline constexpr double window = 0.22;   // on each side of an edge; by bench
inline constexpr double nearest = 0.68;  // where an edge may be; by bench
inline constexpr double farthest = 1.38;
}  // namespace candidate

/// One disc fitted to its pixels.
namespace one_disc {
inline constexpr double reach = 1.4;  // radii that are looked at: beyond a soft edge; by bench
// The deviation of a pixel's box is 1/√12 = 0.29 px; sharpened plates show a little less.
inline constexpr double min_edge_sigma = 0.25;
inline constexpr double max_edge_fraction = 0.3;  // softer than that of its height is no disc
// Steps of Gauss-Newton; by bench.
inline constexpr int steps_on_line = 10;
// However little a line leaves over, drawings are off by as much as makes likely and unlikely lamps
// differ so many times too much; by bench.
inline constexpr double least_misfit = 3.0;
inline constexpr double settled = 0.02;  // of half of χ²: a step that gains less is the last
inline constexpr int steps_on_plate = 12;
inline constexpr int steps_quick = 6;
inline constexpr double half_from = 24.0;  // px: larger discs are looked at by every second pixel
// What few bits leave unknown, of the curve's whole: about 1/√12 of 1/255; by bench.
inline constexpr double rounded = 1.5e-3;
// How differently bright a lamp's channels are where the clip hides it, natural logarithm; by
// bench.
inline constexpr double usual_colour = 0.3;
inline constexpr double colour_seen = 0.1;  // the same, of a channel that is not cut off; by bench
inline constexpr double colour_known = 0.05;    // at best, where the edge's foot tells it; by bench
inline constexpr double own_sigma_known = 0.1;  // of the kernel, natural logarithm; by bench
// Of the clip: what is as bright may have been cut off there; codecs leave 4 of 255 values open.
inline constexpr double cut_from = 0.97;
inline constexpr double least_green = 0.02;    // of a lamp's red or blue
inline constexpr double fewest_on_edge = 8.0;  // px that are not cut off: a third of the smallest
inline constexpr std::size_t parts = 16;       // of an edge, each with errors of its own
inline constexpr double min_ground = 1e-4;     // of the clip: below any camera's noise
// How far clipped discs are above the clip: by a stop and a third, give or take more than one; what
// lamps were when nobody looks at them.
inline constexpr double usual_excess = 2.5;                      // times
inline constexpr double excess_spread = 1.0;                     // natural logarithm
inline constexpr std::array<double, 3> excesses{1.4, 3.0, 7.0};  // to begin with
inline constexpr double least_excess = 1.003;
inline constexpr double one_cut = 0.015;  // of the curve's whole; by bench
// A lamp's own picture, its deviation in heights of its disc: larger ones make no disc. What is
// usual follows from nothing: a bell from none up, as wide as lamps that are five per cent of their
// discs across.
inline constexpr double typical_lamp_fraction = 0.008;
inline constexpr double usual_lamp = 0.0125;
inline constexpr double smallest_lamp = 0.0015;
inline constexpr std::array<double, 9> lamp_fractions{0.0,   0.0025, 0.005, 0.0075, 0.01,
                                                      0.013, 0.017,  0.022, 0.028};
}  // namespace one_disc

/// All of an edge on one line across it.
namespace edge_line {
inline constexpr double independent = 20.0;  // parts of an outline that are off by themselves
inline constexpr double corner = 2.0;        // deviations of its softness: so far corners are round
}  // namespace edge_line

/// Where a plate is clipped.
namespace clip {
inline constexpr long enough = 24;    // px: about the smallest disc that is measured
inline constexpr float same = 1e-4F;  // share by which half floats of one value differ, and less
// Likewise after sharpening, which brings the noise of other channels there; by bench (grid).
inline constexpr float worked_on = 3e-3F;
inline constexpr int band = 4;          // px: what overshoots beside an edge is no broader
inline constexpr float beside = 0.03F;  // three steps of 8 bits near their end
inline constexpr float lowest = 0.3F;   // of the brightest: what is sharpened overshoots by less
}  // namespace clip

/// How coarse a codec was.
namespace codec {
inline constexpr int looked_at = 6000;         // blocks of a plate
inline constexpr std::size_t enough = 1200;    // of them, with something in them
inline constexpr double least_contrast = 6.0;  // of a block, 255ths
inline constexpr int largest = 40;             // steps, 255ths
inline constexpr int smallest = 2;
inline constexpr int least = 12;  // blocks with a step or more
// Mean of cosines of multiples, which 8-bit colours leave 0.4 of 255ths off: 0.7 for a step of 3;
// what is no multiple has a mean of 0 ± 0.2 for so few.
inline constexpr double alike = 0.6;
// How far off an edge's mean is for each step: a uniform error of all 64 coefficients makes 0.29
// of a step; that small ones are left out makes more, and the same all the way round: 0.8, by
// bench. What lies within a px is off alike, and a line has five samples there: √5 times that.
inline constexpr double off = 0.8;
}  // namespace codec

/// The kernels that a plate's own is looked for among.
namespace kernels {
// What is taken until the plate tells: that of the reference tracer, a tent.
inline constexpr EdgeKernel usual{2, 0.0, 0.0};
// Deviations beside a photosite's square, px: from none to pictures that were enlarged threefold.
inline constexpr std::array<double, 14> bells_px{0.0,  0.15, 0.25, 0.35, 0.45, 0.55, 0.65,
                                                 0.75, 0.9,  1.1,  1.35, 1.7,  2.1,  2.6};
inline constexpr std::array<double, 3> tent_bells_px{0.0, 0.25, 0.4};
inline constexpr std::array<double, 4> sharpenings{0.0, 0.4, 0.8, 1.2};
inline constexpr double finest = 0.025;  // px of bells, and of amounts: moves no edge by 0.01 px
inline constexpr std::array<double, 2> finer{0.05, 0.025};  // steps around the likeliest
inline constexpr double finer_sharpening = 0.2;             // and of its sharpening, at first
inline constexpr double softest_sharpened_px = 0.95;
inline constexpr double sharpening_px = 1.0;  // radius of the mask: what converters begin with
inline constexpr std::size_t max_discs = 16;  // that are asked; more take time
// A few discs and lamps tell most kernels apart: how many, and how many kernels are kept then.
inline constexpr std::size_t first_discs = 4;
inline constexpr std::size_t first_sizes = 4;  // every so many of the lamps
inline constexpr std::size_t after_first = 30;
inline constexpr std::size_t next_discs = 8;
inline constexpr std::size_t next_sizes = 2;
inline constexpr std::size_t after_next = 24;
inline constexpr double softer_than_sharpest = 1.25;  // what sharpening hides, and noise; by bench
// Discs that all of them together count as; by bench. For margins no more than one, whose errors
// all others share; edges are told a little more boldly.
inline constexpr double worth = 1.0;
inline constexpr double worth_of_place = 3.0;
inline constexpr double well_above = 40.0;  // deviations of its softness, of a disc that tells well
inline constexpr double alike_px = 0.06;    // bells that differ by less count as one
inline constexpr std::size_t max_likely = 9;  // that discs are told by together
inline constexpr double unlikely = 5.0;       // logarithm of the odds against the best
inline constexpr double hopeless = 10.0;      // the same, by a few discs: not asked any more
}  // namespace kernels

/// Votes for middles of discs, by gradients (Hough's transform for circles; Duda and Hart, Use of
/// the Hough Transformation to Detect Lines and Curves in Pictures, CACM 15, 1972).
namespace votes {
inline constexpr int smallest = 5;  // radii, px: smaller ones are no outline but a blot
inline constexpr int radii = 6;     // 5 … 10 px: twice the smallest is the next coarser level's
inline constexpr int largest = smallest + radii - 1;
inline constexpr int tile = 256;                    // px: its votes stay in a core's cache
inline constexpr int blur = 2;                      // px: votes so near count together
inline constexpr float min_score = 0.42F;           // share of a circumference; by bench
inline constexpr float over_median = 2.5F;          // gradients that count as edges; by bench
inline constexpr double farthest = 0.35 * largest;  // px: two candidates so near are one disc
}  // namespace votes

/// Where discs are looked for.
namespace levels {
// Ovals: round, and the squeezes of the trade with a quarter between.
inline constexpr std::array<double, 6> aspects{1.0, 0.5, 0.68, 0.57, 0.82, 1.25};
inline constexpr int enough_discs = 8;  // of one oval, that others need not be looked for; by bench
// A lamp's disc is at least as much brighter than its ground, of how much the plate's lights are;
// by bench.
inline constexpr double lamps_contrast = 0.2;
inline constexpr double faintest_lamp = 0.05;  // of the brightest tenth's contrast; by bench
}  // namespace levels

/// What all discs of a plate say together.
namespace together {
// An iris that changes by less from one fit to the next changes no disc by its own deviation.
inline constexpr double settled_curvature = 0.015;
inline constexpr double usual_radius_px = 20.0;  // of discs that this is meant for
inline constexpr int most_rounds = 12;  // circles of 220 px become five straight blades in eight
// How exactly a plate shows outlines, px, however many discs agree: codecs and the clip shift all
// of them alike. By bench: the mean error of a plate's discs over its formal deviation.
inline constexpr double min_sigma_px = 0.04;     // of one disc's size
inline constexpr double common_px = 0.03;        // of all discs' sizes alike
inline constexpr double common_px_codec = 0.05;  // the same of a JPEG's; by bench (grid)
// Of the kernel's deviation: how far the clip's line may lie beside an edge's for all discs alike,
// where lamps are all brighter than is believed; by bench (grid).
inline constexpr double clipped_of_kernel = 0.45;
// The same of a JPEG's: the foot of a bright edge, which tells the kernel, is what it leaves out.
inline constexpr double clipped_of_kernel_codec = 1.0;
inline constexpr double believed = 0.7;  // share of what lamps leave open; by bench (grid)
// Pixels and blocks lean edges the same way in many discs; by bench (grid).
inline constexpr double turned_alike = 1.25;
inline constexpr double outline_px = 0.02;
inline constexpr double outline_px_clipped = 0.055;
inline constexpr double corner_rounded =
    0.04;                                     // of the softness: corners are rounder than is drawn
inline constexpr double max_left_over = 4.0;  // near its edge, in deviations of the noise; by bench
// The clip shows a line beside the outline, farther out the softer the edge is, and farther out
// corners are rounder: so much of the softness; by bench.
inline constexpr double clipped_beside = 0.12;
}  // namespace together

/// An outline as it is drawn, in its radii.
namespace outline {
inline constexpr double nearest = 0.7;  // cos(π/4): the middle of a side of four straight blades
inline constexpr double farthest =
    1.35;  // a corner of four straight blades of the same area, and a little more
inline constexpr double min_open = 0.02;  // where the rim hides even the middle
}  // namespace outline

/// The foot of a clipped lamp's edge, which tells the lamp's colour.
namespace foot {
inline constexpr double usual_colour = 0.4;  // natural logarithm: what is believed before; by bench
inline constexpr double max_luma = 0.997;    // above 254/255: all channels are cut
inline constexpr double shoulder_luma = 0.02;  // below its end: within the edge
inline constexpr int steps = 6;                // of Gauss-Newton
inline constexpr int together = 2;             // samples of the line that are one here
// How far a codec can lead colours astray all the way round: thin rings of a little colour are what
// it leaves out first. Of the curve's whole; by bench.
inline constexpr double left_out = 0.003;
// How coarse files' colours are, px: as luma; half as many across; half as many both ways, each
// box of two spread out by a triangle.
inline constexpr std::array<double, 3> smears{0.0, 0.7, 1.0};
}  // namespace foot

/// The iris, from the edges of many discs.
namespace iris {
inline constexpr double min_height = 18.0;  // px: smaller ones hardly tell; by bench
// Where not even three are that high, smaller ones do it together: corners of nine blades are 4 px
// apart there.
inline constexpr double small_height = 13.0;
inline constexpr int enough_small_discs = 6;
// Deviation of the lamp's own picture, of the disc's height: larger ones, and tiles, round corners.
inline constexpr double largest_lamp = 0.06;
inline constexpr double cut_from = 0.07;      // of the radius within the outline: hidden; by bench
inline constexpr double on_outline = 0.035;   // of the radius beside it: still on it
inline constexpr int enough_discs = 3;        // two can be alike by chance
inline constexpr double most_inward = -0.35;  // curvature: no blades that are made bend so far
inline constexpr double clear_vote = 9.0;   // χ² by which a disc says which way blades are turned
inline constexpr double contradict = 0.2;   // share of clear votes that may be against
inline constexpr double rows_near = 1.5;    // heights between discs that stand like tiles
inline constexpr double rows_alike = 0.06;  // share by which their distances differ
inline constexpr double rows_of_one_size = 0.1;  // share by which their sizes do
// So many that stand as close at random have one over another in 99 of 100 plates: 0.7^12.
inline constexpr std::size_t enough_apart = 12;
inline constexpr double some_overlap = 0.05;  // share of them that may, by what is no disc
// Deviation of log (width / height) of discs that are whole: 0.015 at the most where one opening
// drew them, 0.09 and more of stones; by bench.
inline constexpr double one_shape = 0.04;
inline constexpr double hardly_cut = 0.1;  // of the edge
inline constexpr double agrees = 0.75;     // share of a disc's edge that is on the common outline
inline constexpr int fewest_blades = 5;    // tiles and windows have four corners
inline constexpr int max_blades = 16;      // a side is then less than 2 % from its circle
inline constexpr double as_good_as_round =
    0.93;  // curvature of blades that none can count; by bench
}  // namespace iris

/// The barrel's rim, from how it cuts discs.
namespace tube_rim {
inline constexpr double min_height = iris::min_height;
inline constexpr double min_radius = 1.05;     // radii: a smaller one would cut the middle's discs
inline constexpr double min_sigma = 0.02;      // of an edge's place, radii; by bench
inline constexpr double clearly = 150.0;       // χ² that a rim must explain; by bench
inline constexpr double unexplained = 20.0;    // χ² of a disc that wants a reason; by bench
inline constexpr double clearly_sided = 12.0;  // χ² of one side against the other: 3½ deviations
inline constexpr double hides = 0.04;          // radii within the outline: two deviations
inline constexpr int min_cut = 3;              // discs: fewer are chance
inline constexpr double middle_fraction = 0.45;  // of the way to the corner: hardly cut
inline constexpr double moved = 0.3;  // deviation of a cut disc's place (radii) and log size
inline constexpr std::size_t max_looked_at = 40;  // more discs take time and tell no more
}  // namespace tube_rim

/// Edges of things out of focus.
namespace edges {
inline constexpr int along = 3;               // px to both sides along an edge that are averaged
inline constexpr double step = 0.5;           // px between samples across
inline constexpr double max_blur = 12.0;      // px of deviation: softer ones are gradients
inline constexpr double max_residual = 0.06;  // of the contrast: more is no edge of two even sides
inline constexpr double min_contrast = 0.05;
// Of a contrast, per px, of the softest edges: more than 1/(√(2π) σ) at the largest blur; by bench.
inline constexpr double steepest_fraction = 0.05;
inline constexpr double clearly = 10.0;           // times the noise
inline constexpr double between_px2 = 1.0 / 6.0;  // variance of the tent that lies between pixels
}  // namespace edges

/// CG against the plate.
namespace likeness {
inline constexpr double one_place = 0.35;  // of a disc's height: so near is the same lamp; by bench
inline constexpr double smallest_px = 8.0;  // of a disc of CG, where the plate shows one
inline constexpr int grid_columns = 6;      // nearly square places of a 16 : 9 picture
inline constexpr int grid_rows = 4;
}  // namespace likeness

/// How CG's discs stand to the plate's.
namespace ratios {
inline constexpr double farthest = 2.0;   // logarithm: beyond seven times, discs are not paired
inline constexpr int steps = 2000;        // a thousandth each
inline constexpr double outliers = 0.03;  // pairs that are no pairs
// Of a disc's size: deviation of what taking it for round, or for one with blades, makes of it. The
// regatta's discs differ by 0.6 % so.
inline constexpr double other_outline = 0.004;
inline constexpr double least_sigma =
    0.003;  // of a disc's size: no two fits agree better; by bench
// Of a disc, what may be its clipped lamp's own size: a lamp as large as its blur still looks like
// a disc. Where the lamp is not clipped its size is fitted apart.
inline constexpr double most_own = 0.7;
inline constexpr double most_own_seen = 0.04;
}  // namespace ratios

/// What is left over of two pictures of one view.
namespace left {
inline constexpr int block = 8;            // px: those of codecs
inline constexpr double deviations = 5.0;  // of a block's mean: one block in two millions by chance
inline constexpr double correlated = 2.0;  // codecs and demosaicing make neighbours alike; by bench
inline constexpr double scatter = 3.0;     // of a pixel's noise, of a block's root mean square
// Of the encoded whole: two steps of 8 bits are hardly seen side by side; codecs of quality 75
// leave six of 255 at edges.
inline constexpr double seen_mean = 2.0 / 255.0;
inline constexpr double seen_scatter = 8.0 / 255.0;
inline constexpr int across = 10;  // windows in the picture's width that places are looked for by
inline constexpr int down = 6;
inline constexpr std::size_t most_places = 5;  // more are not read
inline constexpr double worth_naming = 0.02;   // of what the first has
inline constexpr int fewest_blocks = 3;
inline constexpr double alone = 2.0;  // times the bound, that a block by itself must be off
}  // namespace left

/// Whether two pictures show one view.
namespace view {
inline constexpr int width = 160;  // px: what is blurred by a hundredth of the width still shows
inline constexpr int fine = 1;     // px to each side: means that are compared
inline constexpr int coarse = 12;  // and the mean around them
inline constexpr double hardly_any = 2.0 / 255.0;  // of the encoded whole: no detail to compare
inline constexpr double another = 0.2;             // correlation of two views at most; by bench
inline constexpr std::size_t enough_pairs = 3;     // of discs: one view all the same
}  // namespace view

/// What is just seen side by side, and worth a word: our judgement, not a measurement.
namespace just_seen {
inline constexpr double size = 0.01;  // of a disc
inline constexpr double stops = 0.05;
inline constexpr double white = 0.05;   // stops of a channel against green
inline constexpr double px = 0.3;       // of fringes and edges
inline constexpr double grain = 0.004;  // of the light
inline constexpr double rim = 0.25;     // stops
inline constexpr double turn_deg = 3.0;
inline constexpr double outline = 0.15;  // px
inline constexpr double gain = 0.9;      // what a move leaves of the discs' difference, at most
}  // namespace just_seen

}  // namespace jolly_iris::measuring
