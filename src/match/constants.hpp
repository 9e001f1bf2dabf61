// The numbers that matching and the ranking of mistakes rest on, and where each comes from.
//
// Those marked "by trial" follow from nothing: they were chosen with tests/match_test.cpp (each
// mistake planted in made notes) and bench/matched (notes that are only as far off as notes are) at
// hand, and no table of the choice was kept.
#pragma once

#include <array>
#include <cstddef>

namespace jolly_iris::matching {

/// What people write wrongly, and how often.
namespace mistakes {
// Factors of adapters that are sold; others are marked to a hundredth, and lie between these.
inline constexpr std::array<double, 6> adapters{0.64, 0.71, 0.84, 1.25, 1.4, 2.0};
inline constexpr double weakest = 0.5;
inline constexpr double strongest = 2.0;
inline constexpr double hundredth = 0.01;
// Parts of a sensor's width that bodies record.
inline constexpr std::array<double, 6> windows{0.9, 0.8, 0.75, 0.667, 0.5, 0.6};
// Squeezes that lenses are made with.
inline constexpr std::array<double, 5> squeezes{1.25, 1.33, 1.5, 1.8, 2.0};
// Of pictures brought to a size of another shape: by 5, 10 or 20 %, either way.
inline constexpr std::array<double, 6> stretches{1.05, 1.1, 1.2, 1.0 / 1.05, 1.0 / 1.1, 1.0 / 1.2};
// Logarithms of the odds: one report in twelve, one in thirty; our belief, by trial.
inline constexpr double common = -2.5;
inline constexpr double rare = -3.5;
// T-stops are about a third of a stop slower than f-stops: 2^(-1/3).
inline constexpr double usual_transmission = 0.8;
}  // namespace mistakes

/// Which mistakes are told.
namespace ranking {
inline constexpr std::size_t pairs_fitted =
    40;  // of all pairs, those that come nearest without a fit
inline constexpr std::size_t pairs_added_to = 8;  // by a third mistake; by bench
inline constexpr std::size_t enough_for_three =
    8;  // observations: each mistake explains one or two
inline constexpr double as_likely =
    3.0;                              // logarithm of the odds, 20 : 1: within, nobody can choose
inline constexpr double alike = 0.5;  // deviations by which predictions of a group may differ
inline constexpr double clearly_better = 3.0;  // than the notes alone, to be told: 20 : 1 as well
inline constexpr double too_far = 2.5;  // deviations of its own that a true note is off: one in 80
inline constexpr double contradicts = 6.0;  // deviations that no true notes leave of a sum of many
inline constexpr std::size_t max_ranked = 5;  // more are not read
inline constexpr double hopeless =
    25.0;  // so much dearer than the best, from where it began; by trial
}  // namespace ranking

/// How a camera is fitted.
namespace fitting {
inline constexpr double disbelieved = 40.0;  // times the usual deviation: as good as unknown
// Deviation of a focus noted at infinity: 1/50 m, our belief.
inline constexpr double infinity_dioptres = 0.02;
inline constexpr std::size_t enough_placed = 4;  // discs that tell how well lamps are placed
inline constexpr double worst_placed = 4.0;  // times the usual: beyond, Cauchy's loss sees to it
// Deviations from which Cauchy's loss lets what is farther off count little: a normal error is
// beyond them once in 370 times.
inline constexpr double robust_from = 3.0;
inline constexpr double lamp_reach =
    0.012;  // of the picture's width, from a lamp's place to its disc
}  // namespace fitting

/// Which disc is which lamp.
namespace pairing {
inline constexpr int enough = 5;              // pairs, from which places tell their width apart
inline constexpr std::size_t looked_at = 60;  // discs, where the scale is not known; the largest
inline constexpr double by_chance = 0.01;     // plates in which chance may make pairs
// Of 130 scales, those so near to each other that they pair the same count once.
inline constexpr double scales = 50.0;
inline constexpr double half = 0.5;            // of all that there could be: that is no chance
inline constexpr double most_of = 0.7;         // likewise: nothing is left to look for
inline constexpr double usual_shape = 0.5625;  // height over width of a 16 : 9 picture
// More than the pose of a camera in its scene does to places.
inline constexpr double stretched = 0.01;
// Those that people leave (mistakes::stretches), squeezed pictures, and between.
inline constexpr std::array<double, 16> stretches{0.5,  0.556, 0.667, 0.75, 0.8, 0.833, 0.87, 0.91,
                                                  0.95, 1.05,  1.1,   1.15, 1.2, 1.25,  1.33, 1.5};
}  // namespace pairing

}  // namespace jolly_iris::matching
