#include "jolly_iris/workflow/exposure_look.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <filesystem>

#include "jolly_iris/files/curve_file.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/optics/transfer.hpp"
#include "jolly_iris/optics/undistort.hpp"
#include "jolly_iris/picture_files/colour_management.hpp"
#include "jolly_iris/picture_files/picture_file.hpp"
#include "jolly_iris/workflow/picture_origin.hpp"
#include "optics/value_text.hpp"

namespace jolly_iris {

namespace {

// Places are told in px of the delivered picture, so a picture of another shape has none of them.
void check_shape(const LookRequest& request, const LoadedShot& loaded, ExposureLook& look) {
  const PixelSize whole = loaded.answer.camera.pixels;
  const double shape = static_cast<double>(look.size.width) / look.size.height;
  if (std::abs(shape * whole.height / whole.width - 1.0) <= 0.01) return;
  const bool needs_places = request.as_plate || request.spot || !request.regions.empty() ||
                            request.neutral.patch || request.meter == MeterWay::region;
  if (needs_places) {
    throw UsageError(fmt::format(
        "{}: is {} x {} px, another shape than the delivered picture of {} x {} (body.pixels): "
        "places in it would be wrong; take its margin off first",
        look.file, look.size.width, look.size.height, whole.width, whole.height));
  }
  look.regions.clear();
}

// Regions that clip say something else than they seem to, and uneven ones depend on their edges.
constexpr double much_clipped = 0.01;
constexpr double uneven_stops = 1.0;
// Candles have 1900 K, poor tubes a tint of 0.02.
constexpr double hardly_white_K = 1800.0;
constexpr double hardly_white_tint = 0.025;

struct Coded {
  std::string words{};
  double clips_at = 1.0;
};

Coded coded_as(const std::string& file, const LookRequest& request, const LoadedShot& loaded,
               std::vector<std::string>& files) {
  Transfer transfer =
      std::filesystem::path(file).extension() == ".exr" ? Transfer::linear : Transfer::srgb;
  Curve curve;
  ManagedSpace space{request.decoding.space, loaded.now.colour};
  if (request.decoding.transfer) {
    transfer = *request.decoding.transfer;
    if (transfer == Transfer::table) {
      files.push_back(request.decoding.curve_file);
      curve = read_curve(request.decoding.curve_file);
    }
  } else if (is_plate(file, loaded) && loaded.now.plate->transfer) {
    transfer = *loaded.now.plate->transfer;
    curve = loaded.now.plate->curve;
    space = loaded.now.plate->space;
  }
  if (transfer == Transfer::managed) {
    // The brightest number of each channel, in light.
    Picture white(PixelSize{1, 1}, {1, 1, 1, 1});
    to_light(white, space);
    const Rgba& most = white.at(0, 0);
    return {managed_prefix + space.name,
            static_cast<double>(std::min({most[0], most[1], most[2]}))};
  }
  return {std::string(to_string(transfer)), max_light(transfer, curve)};
}

Box box_in_cg(const NamedRegion& region, const LoadedShot& loaded, PixelSize size) {
  return box_in_picture(region.in_cg.value_or(region.box), loaded.answer.camera.pixels, size);
}

Box box_of_region(const NamedRegion& region, const LoadedShot& loaded, PixelSize size) {
  return box_in_picture(region.box, loaded.answer.camera.pixels, size);
}

Metering metering_of(const LookRequest& request, const LoadedShot& loaded,
                     const ExposureLook& look) {
  Metering how;
  how.way = request.meter.value_or(MeterWay::average);
  how.may_clip = request.may_clip;
  how.clips_at = look.clips_at;
  how.wanted = request.wanted;
  how.primaries = loaded.now.primaries;
  const PixelSize whole = loaded.answer.camera.pixels;
  const double scale = static_cast<double>(look.size.width) / whole.width;
  if (request.spot) {
    const auto& [x, y, r] = *request.spot;
    how.at = {x * scale, y * look.size.height / whole.height};
    how.radius = (r > 0.0 ? r : 0.01 * whole.width) * scale;
  }
  if (how.way == MeterWay::region) {
    if (look.regions.empty()) {
      throw UsageError("which region shall be metered? Give one, or draw a grey card in the plate");
    }
    how.box = box_of_region(look.regions.front(), loaded, look.size);
  }
  return how;
}

// Regions are looked at in the same place in both; a plate that its lens bent shows them elsewhere
// than a straight CG picture does.
void warn_of_distortion(const NamedRegion& region, const LoadedShot& loaded, ExposureLook& look) {
  const VirtualCamera& camera = loaded.answer.camera;
  if (!camera.distortion.any() || region.in_cg) return;
  const PxBox& b = region.box;
  const std::array<double, 2> middle{b[0] + 0.5 * b[2], b[1] + 0.5 * b[3]};
  const auto straight = DistortionMap(camera).undistorted(middle);
  const double distance = std::hypot(straight[0] - middle[0], straight[1] - middle[1]);
  if (distance < 0.25 * std::min(b[2], b[3])) return;
  look.warnings.push_back(
      fmt::format("the lens moves '{}' by {:.0f} px in the plate: redistort CG first, or the two "
                  "are not the same place",
                  region.name, distance));
}

// The same regions in both, as far as they tell.
std::vector<RegionPair> pairs_of(const Picture& cg, const Picture& plate, const LoadedShot& loaded,
                                 double plate_clips_at, ExposureLook& look) {
  std::vector<RegionPair> pairs;
  for (const NamedRegion& region : look.regions) {
    const Primaries primaries = loaded.now.primaries;
    const RegionLight a = light_of_region(plate, box_of_region(region, loaded, plate.size()),
                                          primaries, plate_clips_at);
    const RegionLight b =
        light_of_region(cg, box_in_cg(region, loaded, cg.size()), primaries, 1e30);
    pairs.push_back({region.name, a.mean, b.mean});
    warn_of_distortion(region, loaded, look);
    if (a.clipped > much_clipped) {
      look.warnings.push_back(fmt::format(
          "{:.0f} % of '{}' is clipped in the plate: it is brighter than the numbers say",
          100.0 * a.clipped, region.name));
    }
    for (const auto& [light, where] : {std::pair(&a, "the plate"), std::pair(&b, "CG")}) {
      if (light->spread_stops <= uneven_stops) continue;
      look.warnings.push_back(
          fmt::format("'{}' is uneven in {} ({:.1f} stops): an even patch tells more", region.name,
                      where, light->spread_stops));
    }
  }
  return pairs;
}

void match_plate(const Frame& frame, const LookRequest& request, const LoadedShot& loaded,
                 std::vector<std::string>& files, ExposureLook& look) {
  const Shot& shot = loaded.now;
  look.plate = plate_file(loaded, "to be like");
  if (look.regions.empty()) {
    throw UsageError(loaded.shot.file +
                     ": has no region drawn in its plate to compare; give one, or draw boxes and "
                     "grey cards on the shot's page");
  }
  if (request.card) {
    if (!look.regions.front().grey) {
      throw UsageError(
          loaded.shot.file +
          ": has no grey card drawn in its plate ([[plate.grey]]) for the one in CG to "
          "be compared with");
    }
    look.regions.front().in_cg = request.card;
  }
  files.push_back(look.plate);
  const Frame plate = read_plate(*shot.plate);
  look.warnings.insert(look.warnings.end(), plate.notes.begin(), plate.notes.end());
  LookRequest plain = request;
  plain.decoding = {};
  const Coded coded = coded_as(look.plate, plain, loaded, files);
  look.match = match_to_plate(pairs_of(frame.colour, plate.colour, loaded, coded.clips_at, look),
                              shot.primaries);
  look.cg_white = request.light.value_or(white_of(white_of(shot.primaries)));
  try {
    look.plate_white = matched_white(*look.match, look.cg_white, shot.primaries);
  } catch (const OpticsError& e) {
    look.no_plate_white = e.what();
  }
  if (look.match->contradict) {
    look.plate_white.reset();
    return;  // a mean of what has nothing in common is no change to make
  }
  look.stops = look.match->stops;
  look.gains = look.match->gains;
  look.applied.push_back(fmt::format("as bright and as white as {}",
                                     std::filesystem::path(look.plate).filename().string()));
}

// A grey card in another light than the camera was told of.
void preview(const LookRequest& request, const LoadedShot& loaded, ExposureLook& look) {
  const Primaries p = loaded.now.primaries;
  const White own = white_of(white_of(p));
  look.told = request.told ? *request.told : loaded.now.take.white.value_or(own);
  look.light = request.light.value_or(own);
  look.seen_white = seen_white(look.told, look.light, p);
  if (request.adapt) {
    const Chromaticity space = white_of(p);
    look.colours = product(rgb_adaptation(chromaticity_of(look.told), space, *request.adapt, p),
                           rgb_adaptation(space, chromaticity_of(look.light), *request.adapt, p));
  } else {
    look.gains = *look.seen_white;
  }
  look.applied.push_back(fmt::format("in a light of {}, by a camera told {}",
                                     white_text(look.light), white_text(look.told)));
}

void find_white(const Frame& frame, const LookRequest& request, const LoadedShot& loaded,
                ExposureLook& look) {
  const Primaries p = loaded.now.primaries;
  if (request.neutral.by) {
    look.neutral = find_neutral(frame.colour, *request.neutral.by, p, look.clips_at);
  } else {
    const NamedRegion patch{"the patch", *request.neutral.patch, true, true, {}};
    const RegionLight light =
        light_of_region(frame.colour, box_of_region(patch, loaded, look.size), p, look.clips_at);
    look.neutral = Neutral{light.mean, white_of_patch(light.mean, p), 0.0};
    look.regions = {patch};
  }
  const White& white = look.neutral->white;
  if (white.temperature.kelvin() < hardly_white_K || std::abs(white.tint) > hardly_white_tint) {
    look.warnings.push_back(
        fmt::format("a light of {} is rare: is that patch grey?", white_text(white)));
  }
  const Rgb& rgb = look.neutral->rgb;
  look.gains = {rgb[1] / rgb[0], 1.0, rgb[1] / rgb[2]};
  look.applied.emplace_back("what was taken to be neutral is neutral");
}

void expose_by(const LookRequest& request, const LoadedShot& loaded, ExposureLook& look) {
  if (look.match) {
    // found there
  } else if (request.meter) {
    look.metered_counts = true;
    look.stops = look.metered.stops();
    look.applied.push_back(fmt::format("exposed as metered ({})", to_string(*request.meter)));
  } else if (loaded.now.light == SceneLight::candela && loaded.answer.value_per_candela &&
             !is_plate(look.file, loaded)) {
    look.stops = std::log2(*loaded.answer.value_per_candela);
    look.applied.push_back(fmt::format("cd/m2 times {:.4g}", *loaded.answer.value_per_candela));
  }
  if (request.stops != 0.0) {
    look.stops += request.stops;
    look.applied.push_back(fmt::format("{:+g} stops", request.stops));
  }
  using Use = IlluminationUse;
  if (request.relative_illumination != Use::none) {
    look.applied.push_back(
        fmt::format("corners {:.2f} stop {}", loaded.answer.corner.stops,
                    request.relative_illumination == Use::add ? "darker" : "brighter"));
  }
}

void read_regions(const Picture& picture, const LoadedShot& loaded, ExposureLook& look) {
  const Primaries p = loaded.now.primaries;
  for (const NamedRegion& region : look.regions) {
    RegionRead read;
    read.name = region.name;
    read.box = region.in_cg.value_or(region.box);
    read.worth_telling = region.grey || region.asked;
    try {
      read.light = light_of_region(picture, box_in_cg(region, loaded, look.size), p, look.clips_at);
      read.white = white_of_patch(read.light.mean, p);
    } catch (const OpticsError&) {
      // It has the colour of no light: nothing to say of its white.
    } catch (const PictureError& e) {
      look.warnings.push_back(fmt::format("'{}' {}", region.name, e.what()));
      continue;
    }
    look.read.push_back(read);
  }
}

std::vector<NamedRegion> regions_of(const LookRequest& request, const Shot& shot) {
  std::vector<NamedRegion> regions;
  for (const PxBox& box : request.regions) {
    regions.push_back({fmt::format("region {}", regions.size() + 1), box, false, true, {}});
  }
  if (!regions.empty() || !shot.plate) return regions;
  for (const bool grey : {true, false}) {
    for (const DrawnBox& drawn : shot.plate->marks.boxes) {
      if ((drawn.kind == DrawnBox::Kind::grey) != grey) continue;
      const std::string name =
          !drawn.name.empty()
              ? drawn.name
              : fmt::format("{} {}", grey ? "grey card" : "box", regions.size() + 1);
      regions.push_back({name, drawn.box, grey, false, {}});
    }
  }
  return regions;
}

}  // namespace

ExposureLook look_at(const Frame& frame, const std::string& file, const LookRequest& request,
                     const LoadedShot& loaded, std::vector<std::string>& files) {
  ExposureLook look;
  look.file = file;
  look.size = frame.colour.size();
  const Coded coded = coded_as(file, request, loaded, files);
  look.coded = coded.words;
  look.clips_at = coded.clips_at;
  look.warnings = frame.notes;
  look.regions = regions_of(request, loaded.now);
  check_shape(request, loaded, look);
  look.how = metering_of(request, loaded, look);
  try {
    look.metered = meter(frame.colour, look.how);
    if (request.as_plate) match_plate(frame, request, loaded, files, look);
    if (request.neutral.any()) find_white(frame, request, loaded, look);
  } catch (const PictureError& e) {
    throw PictureError(file + ": " + e.what());
  }
  read_regions(frame.colour, loaded, look);
  if (!request.as_plate && !request.neutral.any() && (request.told || request.light)) {
    preview(request, loaded, look);
  }
  look.relative_illumination = request.relative_illumination;
  if (!is_plate(file, loaded)) look.darker_corners = read_origin(file).darker_corners;
  if (look.darker_corners && request.relative_illumination == IlluminationUse::add) {
    look.warnings.push_back(
        fmt::format("{}: has the lens's darker corners already, its header says; now they are in "
                    "it twice",
                    file));
  }
  expose_by(request, loaded, look);
  return look;
}

std::map<std::string, std::string> header_of(const ExposureLook& look) {
  const bool darker =
      look.relative_illumination == IlluminationUse::add ||
      (look.darker_corners && look.relative_illumination != IlluminationUse::remove);
  if (!darker) return {};
  return {{"jolly_iris:fall_off", corners_in_picture}};
}

void apply(const ExposureLook& look, const LoadedShot& loaded, Picture& picture) {
  if (look.match && look.match->contradict) {
    std::string by;
    for (const RegionLeft& r : look.match->regions) {
      by += fmt::format("{}{} {:+.1f}", by.empty() ? "" : ", ", r.name, r.alone_stops);
    }
    throw OpticsError(
        fmt::format("{}: its regions contradict each other about the light ({} "
                    "stops): no one change brings it to the plate, so none is made; "
                    "name those that are lit alike",
                    look.file, by));
  }
  std::optional<RelativeIllumination> corners;
  if (look.relative_illumination != IlluminationUse::none) {
    corners.emplace(loaded.now.lens, without_blur_override(loaded.answer.camera));
  }
  PictureChange what;
  what.factor = std::exp2(look.stops);
  what.gains = look.gains;
  what.colours = look.colours;
  what.relative_illumination = corners ? &*corners : nullptr;
  what.take_out = look.relative_illumination == IlluminationUse::remove;
  change(picture, what);
}

}  // namespace jolly_iris
