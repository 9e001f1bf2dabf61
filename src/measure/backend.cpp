#include "backend.hpp"

#include "jolly_iris/module.hpp"

namespace jolly_iris::measuring {

const Backend& backend() {
  static const auto* loaded =
      static_cast<const Backend*>(module_entry("libjolly_iris_ceres.so", entry_name));
  return *loaded;
}

}  // namespace jolly_iris::measuring
