// The mistakes people make with notes, each as what the notes should have said instead.
#pragma once

#include <functional>
#include <optional>
#include <string>
#include <vector>

#include "jolly_iris/match/match.hpp"

namespace jolly_iris::matching {

struct ErrorHypothesis {
  /// Two of one family are not made together.
  enum class Family {
    adapter,
    window,
    squeeze,
    focal,
    focus_place,
    focus_unit,
    scale,
    stop,
    equivalent,
    resample
  };
  Family family = Family::adapter;
  std::string message{};
  double log_prior = 0.0;  ///< how often people make it, against noting it right
  std::function<CameraEstimate(const CameraEstimate&)> apply{};
  std::vector<Parameter> free{};  ///< notes that then say nothing
  /// Ways to make one mistake have one number: told together where the plate leaves both open.
  int way_of = -1;
  /// The note that is plainly wrong: the words are what the plate says instead.
  std::optional<Parameter> instead{};
};

/// Those that these notes leave room for. What was seen adds the factor of an adapter that nobody
/// sells under that number: where the lens itself told its focal length, it is the noted one's
/// share of that.
std::vector<ErrorHypothesis> error_hypotheses(const CameraEstimate& estimate,
                                              const std::vector<Observation>& seen);

}  // namespace jolly_iris::matching
