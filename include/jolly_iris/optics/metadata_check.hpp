// What a picture file says of its take, held against the notes.
#pragma once

#include <string>
#include <vector>

#include "jolly_iris/export.hpp"
#include "jolly_iris/optics/plate_facts.hpp"
#include "jolly_iris/optics/shot.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

struct MetadataFinding {
  enum class Verdict {
    same,      ///< within what rounding does
    proposed,  ///< the notes say nothing: the entry could be taken over
    conflict   ///< they differ
  };
  Verdict verdict = Verdict::same;
  std::string what{};     ///< "focal length"
  std::string file{};     ///< as the file has it: "53 mm"
  std::string noted{};    ///< as the notes have it; empty: nothing
  std::string entry{};    ///< for a shot file, where it may be taken over: lens.focal = "53 mm"
  std::string message{};  ///< what a conflict may come from; may be empty
};

/// "same", "proposed", "conflict".
std::string_view to_string(MetadataFinding::Verdict verdict);

/// One row for each thing the file says; all of it is hearsay until a person agrees. Cameras round
/// what they write: a focal length to a millimetre, a stop to a tenth, a time to 1/50 of itself.
std::vector<MetadataFinding> check_metadata(const PlateFacts& facts, const Shot& notes);

}  // namespace jolly_iris
