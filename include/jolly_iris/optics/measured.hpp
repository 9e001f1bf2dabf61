// A number that somebody measured, with how far it may be off.
#pragma once

#include "jolly_iris/export.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// A measured number and two standard deviations of it.
struct Measured {
  double value = 0.0;
  double margin = 0.0;
};

}  // namespace jolly_iris
