// A shot's lens as the glass that it is.
#pragma once

#include <memory>
#include <string>

#include "jolly_iris/export.hpp"
#include "jolly_iris/glass/glass_camera.hpp"
#include "jolly_iris/workflow/load.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// Focused and opened as the shot's camera is; null where its lens has no prescription.
/// @throws as read_glass and GlassCamera; UsageError for a lens with something mounted on its glass
std::shared_ptr<const GlassCamera> glass_camera_of(const LoadedShot& loaded);

/// The same for discs: null, too, where something is mounted on the glass; they are the thin lens's
/// then. @throws as read_glass and GlassCamera
std::shared_ptr<const GlassCamera> glass_for_discs(const LoadedShot& loaded);

/// What to say then; else empty.
std::string thin_lens_note(const LoadedShot& loaded);

}  // namespace jolly_iris
