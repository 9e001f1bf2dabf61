// What a plate's frames say against the notes' keys, in sentences.
#pragma once

#include <vector>

#include "jolly_iris/workflow/camera_sequence.hpp"

namespace jolly_iris {

std::vector<SequenceFinding> findings_of(const CameraSequence& sequence);

}  // namespace jolly_iris
