// What match found, in words and as JSON: for the verb and for the page.
#pragma once

#include <string>
#include <vector>

#include "disk/json.hpp"
#include "jolly_iris/export.hpp"
#include "jolly_iris/workflow/camera_match.hpp"

namespace jolly_iris {
namespace JOLLY_IRIS_EXPORT report {

/// What the plates' headers say otherwise than the notes, or beyond them.
std::string metadata_text(const CameraMatch& match);
/// All the rest: what was seen, the verdict with the likeliest mistakes, the camera, and how each
/// observation goes with it.
std::string match_text(const CameraMatch& match, const std::vector<PriorOverride>& doubts);
Json match_json(const CameraMatch& match);

/// What is thought of the notes: a line or two, and the likeliest mistakes, numbered.
struct Verdict {
  std::vector<std::string> head{};
  std::vector<std::string> ranked{};
};
Verdict verdict_of(const CameraMatch& match);

}  // namespace report
}  // namespace jolly_iris
