// Which number of all that a fit looks for is which unknown of which plate. What plates share is
// one number. All are counted in usual deviations from their notes.
#pragma once

#include <cstddef>
#include <vector>

#include "jolly_iris/match/match.hpp"

namespace jolly_iris::matching {

/// The notes with another value; `x` in usual deviations.
void move(CameraEstimate& estimate, Parameter parameter, double x);

/// The value that notes have, as FittedParameter tells it.
double value_of(const CameraEstimate& estimate, Parameter parameter);

/// What a share of an unknown is a share of, in the unit of value_of.
double unit_of(const CameraEstimate& noted, const CameraEstimate& found, Parameter parameter);

class ParameterLayout {
 public:
  ParameterLayout(const std::vector<NotedPlate>& plates, const MatchSettings& settings);

  struct ParameterSlot {
    Parameter of;
    std::size_t at;
  };
  std::size_t size() const { return prior_sigma_.size(); }
  const std::vector<ParameterSlot>& of_plate(std::size_t plate) const { return of_plates_[plate]; }
  Parameter what(std::size_t at) const { return of_[at]; }

  /// How far the note is believed, in usual deviations.
  double prior_sigma(std::size_t at) const { return prior_sigma_[at]; }

  /// A plate's notes with other values.
  CameraEstimate moved(const CameraEstimate& estimate, std::size_t plate, const double* x) const;

 private:
  std::vector<std::vector<ParameterSlot>> of_plates_{};
  std::vector<double> prior_sigma_{};
  std::vector<Parameter> of_{};
};

}  // namespace jolly_iris::matching
