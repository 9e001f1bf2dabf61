// What real cameras, lenses and sets have, generously: the least and the most of each quantity that
// is read. Within these, arithmetic neither overflows nor loses what it is about; outside of them a
// number is a slip of the pen. docs/limits.md lists them.
#pragma once

#include <string>
#include <string_view>

#include "jolly_iris/export.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

struct Range {
  double min = 0.0;
  double max = 0.0;
  bool holds(double value) const { return value >= min && value <= max; }  // NaN is nowhere
};

/// "from 0.1 to 10000 mm", for sentences. @param unit may be empty
std::string words_of(const Range& range, std::string_view unit = "");

namespace range {
/// Any length but zero, mm: from what no fault of a lens is smaller than to farther than the sun.
inline constexpr Range length_mm{1e-12, 1e15};
/// Focal lengths, mm: from a pinhead camera's to an observatory's.
inline constexpr Range focal_mm{0.1, 1e5};
/// Sides of a gate, mm: from a tenth of a millimetre to ten metres.
inline constexpr Range gate_mm{0.1, 1e4};
/// The same of scene files, which may count in units of their own.
inline constexpr Range scene_gate_mm{1e-6, 1e9};
/// Views from top to bottom, radians.
inline constexpr Range view{1e-6, 3.1415};
/// Distances of focus, m.
inline constexpr Range focus_m{1e-12, 1e12};
/// Shifts of the lens either way, and its pupil, mm.
inline constexpr Range shift_mm{-1e4, 1e4};
/// Stops, as numbers.
inline constexpr Range stop{0.1, 1e4};
/// Angles either way, degrees: a hundred turns.
inline constexpr Range angle_deg{-36000.0, 36000.0};
/// Times, s: from a nanosecond to a week.
inline constexpr Range time_s{1e-9, 6.1e5};
/// Dioptres either way.
inline constexpr Range power_dpt{-1e3, 1e3};
/// Factors above zero, and multiples, which a list may have below.
inline constexpr Range factor{1e-6, 1e6};
inline constexpr Range multiple{-1e6, 1e6};
/// Adapters and converters.
inline constexpr Range adapter{0.01, 100.0};
inline constexpr Range squeeze{1.0, 10.0};
/// Stops of neutral density.
inline constexpr Range nd_stops{0.0, 100.0};
inline constexpr Range iso{1e-3, 1e9};
/// Frames a second: one a week to what streak cameras have.
inline constexpr Range fps{1e-6, 1e12};
inline constexpr Range temperature_K{1.0, 1e6};
inline constexpr Range luminance_cd_m2{1e-12, 1e15};
/// Blur and criteria, in their own units.
inline constexpr Range blur{1e-9, 1e6};
/// Entries of lists and tables: places in a picture or a scene, coefficients.
inline constexpr Range entry{-1e15, 1e15};
/// Numbers of frames either way: doubles tell a thousandth apart there.
inline constexpr Range frame{-1e9, 1e9};
/// Steps between them, and how many one run has: over an hour at 24 a second.
inline constexpr Range frame_step{1e-3, 1e9};
inline constexpr double most_frames = 1e5;
}  // namespace range

}  // namespace jolly_iris
