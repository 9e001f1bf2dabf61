// Pictures for looking at, by the display that a shot names.
#pragma once

#include "jolly_iris/export.hpp"
#include "jolly_iris/files/load.hpp"
#include "jolly_iris/picture/picture.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// Light as the shot's plate.display and plate.view show it, encoded as sRGB later on; the picture
/// itself where the shot names no display. @throws as as_displayed
Picture displayed(Picture light, const LoadedShot& loaded);

}  // namespace jolly_iris
