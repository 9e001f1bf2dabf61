// Plain sentences for somebody who is not an optician, each only where it helps.
#pragma once

#include <string>
#include <vector>

#include "jolly_iris/scene/answer.hpp"

namespace jolly_iris {

/// @param behind names of subjects that are behind the camera
std::vector<std::string> notes_for(const Shot& shot, const Answer& answer,
                                   const std::vector<std::string>& behind);

}  // namespace jolly_iris
