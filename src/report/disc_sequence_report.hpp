// The discs of a plate over frames, for people, programs and spreadsheets.
#pragma once

#include <string>

#include "disk/json.hpp"
#include "jolly_iris/export.hpp"
#include "jolly_iris/workflow/disc_sequence.hpp"

namespace jolly_iris {
namespace JOLLY_IRIS_EXPORT report {

std::string disc_sequence_text(const DiscSequence& sequence);
Json disc_sequence_json(const DiscSequence& sequence);
/// A row for each disc of a track.
std::string disc_sequence_csv(const DiscSequence& sequence);

}  // namespace report
}  // namespace jolly_iris
