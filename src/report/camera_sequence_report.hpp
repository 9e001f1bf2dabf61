// The camera over a plate's frames, as text, JSON and a table.
#pragma once

#include <string>

#include "disk/json.hpp"
#include "jolly_iris/export.hpp"
#include "jolly_iris/workflow/camera_sequence.hpp"

namespace jolly_iris {
namespace JOLLY_IRIS_EXPORT report {

/// "2.41 m", "f/2.2", "53.1 mm", "+0.80 stops", "-12 mired": an evenly counted value (FrameValue).
std::string even_text(Parameter of, double even);

std::string camera_sequence_text(const CameraSequence& sequence);
Json camera_sequence_json(const CameraSequence& sequence);
/// A row for each frame, with a heading.
std::string camera_sequence_csv(const CameraSequence& sequence);

}  // namespace report
}  // namespace jolly_iris
