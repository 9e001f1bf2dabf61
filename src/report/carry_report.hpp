// A look taken to other shots, and numbers set by feel taken to other distances.
#pragma once

#include <string>
#include <vector>

#include "disk/json.hpp"
#include "jolly_iris/export.hpp"
#include "jolly_iris/workflow/carry.hpp"

namespace jolly_iris {
namespace JOLLY_IRIS_EXPORT report {

std::string carry_text(const Carried& carried, BlurMeasure measure);
Json carry_json(const Carried& carried, BlurMeasure measure);
/// A row for each shot and frame.
std::string carry_csv(const Carried& carried);

/// A number set by feel, at each of the distances, by all three laws side by side.
std::string felt_text(const ValueCarrier& carrier, const std::vector<FeltValue>& felt,
                      const std::vector<Length>& at);
Json felt_json(const ValueCarrier& carrier, const std::vector<FeltValue>& felt,
               const std::vector<Length>& at);

}  // namespace report
}  // namespace jolly_iris
