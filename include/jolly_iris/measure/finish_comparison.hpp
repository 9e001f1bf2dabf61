// What a plate and a CG picture of it differ by in their finish: number by number, each with its
// margin.
//
//   const FinishComparison c = compare_finishes(plate, cg, marks_of_plate, marks_of_cg);
//   for (const FinishDifference& d : c.numbers) fmt::print("{} {:+.3g}\n", d.name, d.off.value);
//
// Grain is compared as the plate's flat squares have it; that its *kind* is alike is told by its
// power at four fineness bands. Corners are compared by the pictures' ratio, square by square, so
// that the scene's own light does not matter.
//
// Margins are two standard deviations of the difference.
#pragma once

#include <array>
#include <optional>
#include <string>
#include <vector>

#include "jolly_iris/export.hpp"
#include "jolly_iris/measure/finish_in_plate.hpp"
#include "jolly_iris/measure/image_comparison.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

enum class FinishPart { halo, spikes, streak, smear, corners, grain };
const char* to_string(FinishPart part);

/// One number that both pictures tell.
struct FinishDifference {
  FinishPart part = FinishPart::grain;
  std::string name{};  ///< "grain of green at 0.05"
  std::string unit{};  ///< "%", "px", "deg", "stops", ""
  double plate = 0.0;
  double cg = 0.0;
  Measured off{};  ///< CG less the plate
};

/// A part that one of both has and the other has not.
struct FinishMissing {
  FinishPart part = FinishPart::grain;
  bool in_cg = false;   ///< else the plate has it, and CG has not
  std::string words{};  ///< what it is there: "3.1 % of the light, reaching 6 px"
};

/// Grain's power in CG against the plate's, over a band of fineness.
struct GrainBand {
  double from = 0.0;  ///< cycles a pixel
  double to = 0.0;
  Measured db{};
};

struct FinishComparison {
  FinishInPlate plate{};
  FinishInPlate cg{};
  std::vector<FinishDifference> numbers{};
  std::vector<FinishMissing> missing{};
  std::vector<GrainBand> grain_bands{};  ///< empty: one of both has no grain that is told
  double chi2 = 0.0;                     ///< of all numbers together, against their margins
};

/// @param plate, cg of one size
/// @throws as finish_in; UsageError for pictures of two sizes
FinishComparison compare_finishes(const Picture& plate, const Picture& cg,
                                  const FileMarks& plate_marks, const FileMarks& cg_marks,
                                  const Execution& execution = {});

/// What to change in `[finish]`, the most visible first.
std::vector<Suggestion> finish_suggestions(const FinishComparison& like, const CgMade& made);

}  // namespace jolly_iris
