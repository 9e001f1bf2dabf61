// An answer as a tree of values, for whoever says it or writes it into a file of another kind.
#pragma once

#include <vector>

#include "disk/json.hpp"
#include "jolly_iris/export.hpp"
#include "jolly_iris/scene/answer.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// The keys of docs/report-json.md, in their order.
Json to_json(const Answer& answer);

/// A number; null where there is none to tell (JSON knows no infinity).
Json finite_json(double value);

/// Its part "camera".
Json camera_json(const Answer& answer);

/// Its part "exposure".
Json exposure_json(const Answer& answer);

/// Of many frames, the keys of frames_json.
Json frames_tree(const std::vector<Answer>& frames);

}  // namespace jolly_iris
