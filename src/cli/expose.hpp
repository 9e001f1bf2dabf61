// What expose finds, apart from how it says it. The shot's page shows the same.
#pragma once

#include <optional>
#include <string>
#include <utility>
#include <vector>

#include "jolly_iris/expose_picture.hpp"
#include "jolly_iris/exposure_sheet.hpp"
#include "jolly_iris/plate_match.hpp"
#include "jolly_iris/region_light.hpp"
#include "verbs.hpp"

namespace jolly_iris::cli {

/// What stop, shutter, ISO and ND mean, as rows: what, how much, and a word to it.
using Rows = std::vector<std::array<std::string, 3>>;
Rows exposure_rows(const LoadedShot& loaded);

/// The take, as text: the rows, what one stop costs whom, and, with --pay, the price of a change.
/// @return text and JSON
std::pair<std::string, std::string> take_said(const ExposeOptions& options, LoadedShot& loaded,
                                              std::vector<std::string>& files);

/// A region of the plate or of PICTURE.
struct NamedRegion {
  std::string name{};
  PxBox box{};  ///< px of the delivered picture
  bool grey = false;
  bool asked = false;            ///< given for this run, not drawn in the plate
  std::optional<PxBox> in_cg{};  ///< where CG shows it, if elsewhere
};
/// Those that were given, else those drawn in the shot's plate, cards first.
std::vector<NamedRegion> regions_of(const ExposeOptions& options, const Shot& shot);

/// What a region of the picture itself has.
struct RegionRead {
  std::string name{};
  PxBox box{};                 ///< px of the delivered picture, where this picture shows it
  bool worth_telling = false;  ///< by itself: a grey card, or asked for
  RegionLight light{};
  std::optional<White> white{};  ///< in which a grey card would look so; none: in no light
};

/// What was found in one picture, and what --apply makes of it.
struct Look {
  std::string file{};
  std::string coded{};  ///< "sRGB"
  PixelSize size{};
  double clips_at = 1.0;
  Metering how{};
  Metered metered{};
  bool metered_counts = false;  ///< --meter was given: its stops are applied
  std::vector<NamedRegion> regions{};
  std::vector<RegionRead> read{};
  std::optional<PlateMatch> match{};
  std::string plate{};  ///< the file that it was matched to
  White cg_white{};     ///< of CG's lights, where it was matched
  std::optional<White> plate_white{};
  std::string no_plate_white{};  ///< why not
  std::optional<Neutral> neutral{};
  std::optional<Rgb> seen_white{};  ///< of a grey card, for --told and --light
  White told{};
  White light{};
  // what --apply does
  double stops = 0.0;
  Rgb gains{1, 1, 1};
  std::optional<Matrix3> colours{};
  std::vector<std::string> applied{};   ///< a sentence each
  std::vector<std::string> warnings{};  ///< of regions that tell too little
};

/// A picture as this shot means it: the plate decoded as the plate.
Frame read_shots_picture(const std::string& file, const Coding& coding, const LoadedShot& loaded,
                         std::vector<std::string>& files);

/// Looks at a picture. @throws as meter and match_to_plate, with the file's name
Look look_at(const Frame& frame, const std::string& file, const ExposeOptions& options,
             const LoadedShot& loaded, std::vector<std::string>& files);

/// Puts what was found onto the picture.
void apply(const Look& look, const ExposeOptions& options, const LoadedShot& loaded,
           Picture& picture);

/// The drawing of a look.
ExposureSheet sheet_of(const Look& look, const Frame& frame, const LoadedShot& loaded);

std::string look_text(const Look& look, const LoadedShot& loaded);
std::string look_json(const Look& look);

/// expose --frames.
void expose_frames(const ExposeOptions& options, const LoadedShot& loaded, const Streams& io,
                   std::vector<std::string>& files);

/// "f/1.4", "84.7 deg", "1/102 s", "ISO 400", "ND 2 stops".
std::string partner_text(Partner partner, const Take& take);
/// "stop", "shutter", "ISO", "ND".
std::string partner_name(Partner partner);
/// "1.00 stop", "1.61 stops": without its sign.
std::string stops_text(double stops);
/// "5600 K", "5600 K tint +0.004".
std::string white_text(const White& white);

}  // namespace jolly_iris::cli
