#include "above_zero.hpp"

#include <fmt/format.h>

#include <cmath>

#include "jolly_iris/optics/errors.hpp"

namespace jolly_iris {

void require_above_zero(double value, const char* what, const char* key) {
  if (value > 0.0 && std::isfinite(value)) return;
  throw OpticsError(fmt::format("{} is {:g}; it must be greater than zero", what, value), key);
}

}  // namespace jolly_iris
