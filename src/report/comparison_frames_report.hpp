// A CG sequence against the plate's, as text, JSON and a table.
#pragma once

#include <string>

#include "disk/json.hpp"
#include "jolly_iris/export.hpp"
#include "jolly_iris/workflow/comparison_frames.hpp"

namespace jolly_iris {
namespace JOLLY_IRIS_EXPORT report {

std::string compared_frames_text(const ComparedFrames& compared);
Json compared_frames_json(const ComparedFrames& compared);
std::string compared_frames_csv(const ComparedFrames& compared);

}  // namespace report
}  // namespace jolly_iris
