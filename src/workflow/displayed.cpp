#include "jolly_iris/workflow/displayed.hpp"

#include <utility>

#include "jolly_iris/picture_files/colour_management.hpp"

namespace jolly_iris {

Picture displayed(Picture light, const LoadedShot& loaded) {
  if (loaded.now.colour.display.empty()) return light;
  return as_displayed(light, loaded.now.colour);
}

}  // namespace jolly_iris
