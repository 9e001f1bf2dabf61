#include "cairo_module.hpp"

#include "jolly_iris/module.hpp"

namespace jolly_iris::drawing {

const Backend& cairo_module() {
  static const auto* loaded =
      static_cast<const Backend*>(module_entry("libjolly_iris_cairo.so", entry_name));
  return *loaded;
}

}  // namespace jolly_iris::drawing
