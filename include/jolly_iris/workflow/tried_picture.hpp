// A try as a picture: the scene through its lens, with its finish and in its light.
#pragma once

#include <optional>
#include <string>

#include "jolly_iris/export.hpp"
#include "jolly_iris/optics/primaries.hpp"
#include "jolly_iris/picture/defocus.hpp"
#include "jolly_iris/picture/picture.hpp"
#include "jolly_iris/workflow/load.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// How a camera's picture of the same scene differs from another camera's by exposure and white.
struct TryLight {
  std::optional<double> stops{};  ///< brighter; none: the exposure of one of them is not known
  std::optional<Rgb> white{};     ///< gains, G = 1; none: one of them was told no white
};

/// By EV₁₀₀ (optics/exposure.hpp) and the whites that cameras were told (optics/white.hpp).
TryLight light_beside(const LoadedShot& first, const LoadedShot& one);

/// "+1.2 stops, 3200 K"; "exposure not known"; of a white that only one was told, nothing.
std::string light_words(const TryLight& light, const LoadedShot& one);

/// A picture in focus, blurred by a try's lens, with its finish. What moves stands still.
/// @param sharp with depth
/// @param light none: as bright and as white as `sharp` is
/// @throws as defocus and after_lens
Picture tried_picture(const Frame& sharp, const LoadedShot& one,
                      const std::optional<TryLight>& light, const DefocusSettings& settings);

/// The same of a picture that was taken through the lens already.
Picture finished_try(Picture picture, const LoadedShot& one, const std::optional<TryLight>& light,
                     const Execution& execution);

}  // namespace jolly_iris
