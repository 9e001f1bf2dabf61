// What one picture shows of its light: metered, against the plate, its white; and what has to be
// done to it.
//
//   Frame frame = read_for_shot("try.exr", {}, loaded, files);
//   const ExposureLook look = look_at(frame, "try.exr", {.as_plate = true}, loaded, files);
//   apply(look, loaded, frame.colour);
#pragma once

#include <array>
#include <map>
#include <optional>
#include <string>
#include <vector>

#include "jolly_iris/export.hpp"
#include "jolly_iris/optics/plate_match.hpp"
#include "jolly_iris/optics/white.hpp"
#include "jolly_iris/picture/expose_picture.hpp"
#include "jolly_iris/picture/meter.hpp"
#include "jolly_iris/picture/neutral.hpp"
#include "jolly_iris/picture/region_light.hpp"
#include "jolly_iris/workflow/load.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// A box of the delivered picture, px: left, top, width, height.
using PxBox = std::array<double, 4>;

/// What the white is looked for by.
struct NeutralRequest {
  std::optional<NeutralBy> by{};
  std::optional<PxBox> patch{};
  bool any() const { return by || patch; }
};

/// What is done about the corners that the lens darkens.
enum class IlluminationUse { none, add, remove };

struct LookRequest {
  // metering; places are px of the delivered picture
  std::optional<MeterWay> meter{};              ///< none: average, and it changes nothing
  std::optional<std::array<double, 3>> spot{};  ///< x, y, radius; 0: 1 % of the width
  std::vector<PxBox> regions{};                 ///< none: those drawn in the plate
  double may_clip = 0.001;                      ///< of MeterWay::highlights
  double wanted = grey_value;
  // light and white
  bool as_plate = false;
  std::optional<PxBox> card{};  ///< where CG shows the grey card that is drawn in the plate
  double stops = 0.0;           ///< so much brighter besides
  std::optional<White> told{};  ///< to the camera; none: the take's
  std::optional<White> light{};
  std::optional<Adaptation> adapt{};  ///< instead of gains
  NeutralRequest neutral{};
  IlluminationUse relative_illumination = IlluminationUse::none;
  Decoding decoding{};
};

/// A region of the plate or of the picture.
struct NamedRegion {
  std::string name{};
  PxBox box{};
  bool grey = false;
  bool asked = false;            ///< given for this look, not drawn in the plate
  std::optional<PxBox> in_cg{};  ///< where CG shows it, if elsewhere
};

/// What a region of the picture itself has.
struct RegionRead {
  std::string name{};
  PxBox box{};                 ///< where this picture shows it
  bool worth_telling = false;  ///< by itself: a grey card, or asked for
  RegionLight light{};
  std::optional<White> white{};  ///< in which a grey card would look so; none: in no light
};

/// What was found in one picture, and what `apply` makes of it.
struct ExposureLook {
  std::string file{};
  std::string coded{};  ///< "sRGB"
  PixelSize size{};
  double clips_at = 1.0;
  Metering how{};
  Metered metered{};
  bool metered_counts = false;  ///< its stops are applied
  std::vector<NamedRegion> regions{};
  std::vector<RegionRead> read{};
  std::optional<PlateMatch> match{};
  std::string plate{};  ///< the file that it was matched to
  White cg_white{};     ///< of CG's lights, where it was matched
  std::optional<White> plate_white{};
  std::string no_plate_white{};  ///< why not
  std::optional<Neutral> neutral{};
  std::optional<Rgb> seen_white{};  ///< of a grey card in that light, by a camera told so
  White told{};
  White light{};
  // what apply does
  double stops = 0.0;
  Rgb gains{1, 1, 1};
  std::optional<ColourMatrix> colours{};
  IlluminationUse relative_illumination = IlluminationUse::none;
  bool darker_corners = false;          ///< by its header they are in the picture already
  std::vector<std::string> applied{};   ///< a sentence each
  std::vector<std::string> warnings{};  ///< of regions that tell too little
};

/// Looks at a picture. @param file its name, for sentences and for how it is decoded
/// @throws as meter and match_to_plate, with the file's name; UsageError for what the shot has not
ExposureLook look_at(const Frame& frame, const std::string& file, const LookRequest& request,
                     const LoadedShot& loaded, std::vector<std::string>& files);

/// Puts what was found onto the picture.
/// @throws OpticsError where regions of the plate contradict each other: no one change is right
void apply(const ExposureLook& look, const LoadedShot& loaded, Picture& picture);

/// What the header of what it makes says besides the camera.
std::map<std::string, std::string> header_of(const ExposureLook& look);

}  // namespace jolly_iris
