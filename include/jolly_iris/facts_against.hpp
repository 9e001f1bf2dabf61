// What a picture file says of its take, held against the notes.
#pragma once

#include <string>
#include <vector>

#include "jolly_iris/plate_facts.hpp"
#include "jolly_iris/shot.hpp"

namespace jolly_iris {

struct FactAgainstNote {
  enum class Verdict {
    same,      ///< within what rounding does
    proposed,  ///< the notes say nothing: the entry could be taken over
    conflict   ///< they differ
  };
  Verdict verdict = Verdict::same;
  std::string what{};   ///< "focal length"
  std::string file{};   ///< as the file has it: "53 mm"
  std::string noted{};  ///< as the notes have it; empty: nothing
  std::string entry{};  ///< for a shot file, where it may be taken over: lens.focal = "53 mm"
  std::string said{};   ///< what a conflict may come from; may be empty
};

/// "same", "proposed", "conflict".
std::string_view to_string(FactAgainstNote::Verdict verdict);

/// One row for each thing the file says; all of it is hearsay until a person agrees. Cameras round
/// what they write: a focal length to a millimetre, a stop to a tenth, a time to 1/50 of itself.
std::vector<FactAgainstNote> facts_against(const PlateFacts& facts, const Shot& notes);

}  // namespace jolly_iris
