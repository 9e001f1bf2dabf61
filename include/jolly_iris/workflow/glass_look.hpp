// A prescription looked at: what the verb `glass` tells of it.
//
//   std::vector<std::string> files;
//   const GlassLook look = look_at_glass({.file = "quince-58.glass.toml"}, files);
//   look.up.focal.mm();  look.field[3].light;
#pragma once

#include <array>
#include <optional>
#include <string>
#include <vector>

#include "jolly_iris/export.hpp"
#include "jolly_iris/glass/field.hpp"
#include "jolly_iris/glass/focus_travel.hpp"
#include "jolly_iris/glass/glass_camera.hpp"
#include "jolly_iris/glass/glass_facts.hpp"
#include "jolly_iris/glass/glass_fit.hpp"
#include "jolly_iris/glass/paraxial.hpp"
#include "jolly_iris/glass/prescription.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

struct GlassRequest {
  std::string file{};
  Length distance = Length::infinity();  ///< what it is focused at, from the film plane
  std::optional<double> f_number{};      ///< none: wide open
  std::optional<Extent> gate{};          ///< the picture's; none: what the glass lights
};

struct GlassLook {
  std::string file{};
  Prescription prescription{};
  GlassRequest request{};
  Length opening{};  ///< radius in the stop
  ParaxialFacts up{};
  std::optional<ParaxialFacts> across{};  ///< of a glass with cylinders
  double squeeze = 1.0;                   ///< focal length up and down over across
  double widest = 0.0;                    ///< least f-number
  std::array<double, 3> passes{};         ///< share of light on the axis, red, green, blue
  FocusTravel travel{};
  Length length{};                  ///< first surface to the film
  Length nearest{};                 ///< that it focuses at
  Length circle{};                  ///< radius that it lights, in the meridian up
  std::vector<GlassMark> focus{};   ///< from infinity to the nearest
  std::vector<FieldPoint> field{};  ///< from the middle to the corner
  std::vector<std::string> notes{};
};

/// @throws as read_glass and focused; UsageError for a gate that is none
GlassLook look_at_glass(const GlassRequest& request, std::vector<std::string>& files);

/// The look's glass as a camera: focused, opened, on its gate (or as far as it lights).
/// @throws as GlassCamera
GlassCamera camera_of(const GlassLook& look);

/// Its compact form for renderers. @throws as fit_glass
GlassFit fit_of(const GlassLook& look, int order);

}  // namespace jolly_iris
