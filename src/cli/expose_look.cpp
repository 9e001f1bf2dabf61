// Looking at one picture: metering, against the plate, its white, and what --apply makes of it.
#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <filesystem>

#include "expose.hpp"
#include "jolly_iris/curve_file.hpp"
#include "jolly_iris/errors.hpp"
#include "jolly_iris/picture_file.hpp"
#include "jolly_iris/transfer.hpp"
#include "jolly_iris/undistort.hpp"

namespace jolly_iris::cli {

namespace {

bool is_plate(const std::string& file, const LoadedShot& loaded) {
  std::error_code missing;
  return loaded.now.plate && !loaded.now.plate->file.empty() &&
         std::filesystem::equivalent(file, loaded.now.plate->file, missing);
}

// Places are told in px of the delivered picture, so a picture of another shape has none of them.
void check_shape(const ExposeOptions& options, const LoadedShot& loaded, Look& look) {
  const PixelSize whole = loaded.answer.camera.pixels;
  const double shape = static_cast<double>(look.size.width) / look.size.height;
  if (std::abs(shape * whole.height / whole.width - 1.0) <= 0.01) return;
  const bool needs_places = options.as_plate || options.spot || !options.regions.empty() ||
                            options.neutral.patch || options.meter == MeterWay::region;
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

Coded coded_as(const std::string& file, const ExposeOptions& options, const LoadedShot& loaded,
               std::vector<std::string>& files) {
  Transfer transfer =
      std::filesystem::path(file).extension() == ".exr" ? Transfer::linear : Transfer::srgb;
  Curve curve;
  if (options.coding.transfer) {
    transfer = *options.coding.transfer;
    if (transfer == Transfer::table) {
      files.push_back(options.coding.curve_file);
      curve = read_curve(options.coding.curve_file);
    }
  } else if (is_plate(file, loaded) && loaded.now.plate->transfer) {
    transfer = *loaded.now.plate->transfer;
    curve = loaded.now.plate->curve;
  }
  return {std::string(to_string(transfer)), most_light(transfer, curve)};
}

Box box_in_cg(const NamedRegion& region, const LoadedShot& loaded, PixelSize size) {
  return box_in_picture(region.in_cg.value_or(region.box), loaded.answer.camera.pixels, size);
}

Box box_of_region(const NamedRegion& region, const LoadedShot& loaded, PixelSize size) {
  return box_in_picture(region.box, loaded.answer.camera.pixels, size);
}

Metering metering_of(const ExposeOptions& options, const LoadedShot& loaded, const Look& look) {
  Metering how;
  how.way = options.meter.value_or(MeterWay::average);
  how.may_clip = options.may_clip;
  how.clips_at = look.clips_at;
  how.wanted = options.wanted;
  how.primaries = loaded.now.primaries;
  const PixelSize whole = loaded.answer.camera.pixels;
  const double scale = static_cast<double>(look.size.width) / whole.width;
  if (options.spot) {
    const auto& [x, y, r] = *options.spot;
    how.at = {x * scale, y * look.size.height / whole.height};
    how.radius = (r > 0.0 ? r : 0.01 * whole.width) * scale;
  }
  if (how.way == MeterWay::region) {
    if (look.regions.empty()) {
      throw UsageError(
          "--meter region: which? Give --region X,Y,W,H, or draw a grey card in the plate");
    }
    how.box = box_of_region(look.regions.front(), loaded, look.size);
  }
  return how;
}

// Regions are looked at in the same place in both; a plate that its lens bent shows them elsewhere
// than a straight CG picture does.
void warn_of_distortion(const NamedRegion& region, const LoadedShot& loaded, Look& look) {
  const VirtualCamera& camera = loaded.answer.camera;
  if (!camera.distortion.any() || region.in_cg) return;
  const PxBox& b = region.box;
  const std::array<double, 2> middle{b[0] + 0.5 * b[2], b[1] + 0.5 * b[3]};
  const auto straight = DistortionMap(camera).undistorted(middle);
  const double off = std::hypot(straight[0] - middle[0], straight[1] - middle[1]);
  if (off < 0.25 * std::min(b[2], b[3])) return;
  look.warnings.push_back(
      fmt::format("the lens moves '{}' by {:.0f} px in the plate: redistort CG first, or the two "
                  "are not the same place",
                  region.name, off));
}

// The same regions in both, as far as they tell.
std::vector<RegionPair> pairs_of(const Picture& cg, const Picture& plate, const LoadedShot& loaded,
                                 double plate_clips_at, Look& look) {
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

void match(const Frame& frame, const ExposeOptions& options, const LoadedShot& loaded,
           std::vector<std::string>& files, Look& look) {
  const Shot& shot = loaded.now;
  if (!shot.plate || shot.plate->file.empty()) {
    throw UsageError(loaded.shot.file +
                     ": names no plate to be like; write [plate] file = \"plate.exr\"");
  }
  if (look.regions.empty()) {
    throw UsageError(loaded.shot.file +
                     ": has no region drawn in its plate to compare; give --region X,Y,W,H, or "
                     "draw boxes and grey cards on the shot's page");
  }
  if (options.card) {
    if (!look.regions.front().grey) {
      throw UsageError(loaded.shot.file +
                       ": has no grey card drawn in its plate ([[plate.grey]]) for --card to be "
                       "compared with");
    }
    look.regions.front().in_cg = options.card;
  }
  look.plate = shot.plate->file;
  files.push_back(look.plate);
  const Frame plate = read_plate(*shot.plate);
  ExposeOptions plain = options;
  plain.coding = {};
  const Coded coded = coded_as(look.plate, plain, loaded, files);
  look.match = match_to_plate(pairs_of(frame.colour, plate.colour, loaded, coded.clips_at, look),
                              shot.primaries);
  look.cg_white = options.light.value_or(white_of(white_of(shot.primaries)));
  try {
    look.plate_white = matched_white(*look.match, look.cg_white, shot.primaries);
  } catch (const OpticsError& e) {
    look.no_plate_white = e.what();
  }
  look.stops = look.match->stops;
  look.gains = look.match->gains;
  look.applied.push_back(fmt::format("as bright and as white as {}",
                                     std::filesystem::path(look.plate).filename().string()));
}

// A grey card in another light than the camera was told of.
void preview(const ExposeOptions& options, const LoadedShot& loaded, Look& look) {
  const Primaries p = loaded.now.primaries;
  const White own = white_of(white_of(p));
  look.told = options.told ? *options.told : loaded.now.take.white.value_or(own);
  look.light = options.light.value_or(own);
  look.seen_white = seen_white(look.told, look.light, p);
  if (options.adapt) {
    const Chromaticity space = white_of(p);
    look.colours = product(rgb_adaptation(chromaticity_of(look.told), space, *options.adapt, p),
                           rgb_adaptation(space, chromaticity_of(look.light), *options.adapt, p));
  } else {
    look.gains = *look.seen_white;
  }
  look.applied.push_back(fmt::format("in a light of {}, by a camera told {}",
                                     white_text(look.light), white_text(look.told)));
}

void find_white(const Frame& frame, const ExposeOptions& options, const LoadedShot& loaded,
                Look& look) {
  const Primaries p = loaded.now.primaries;
  if (options.neutral.by) {
    look.neutral = find_neutral(frame.colour, *options.neutral.by, p, look.clips_at);
  } else {
    const NamedRegion patch{"the patch", *options.neutral.patch, true, true, {}};
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
  look.applied.push_back("what was taken to be neutral is neutral");
}

void expose_by(const ExposeOptions& options, const LoadedShot& loaded, Look& look) {
  if (look.match) {
    // found there
  } else if (options.meter) {
    look.metered_counts = true;
    look.stops = look.metered.stops();
    look.applied.push_back(fmt::format("exposed as metered ({})", to_string(*options.meter)));
  } else if (loaded.now.light == SceneLight::candela && loaded.answer.value_per_candela &&
             !is_plate(look.file, loaded)) {
    look.stops = std::log2(*loaded.answer.value_per_candela);
    look.applied.push_back(fmt::format("cd/m2 times {:.4g}", *loaded.answer.value_per_candela));
  }
  if (options.stops != 0.0) {
    look.stops += options.stops;
    look.applied.push_back(fmt::format("{:+g} stops", options.stops));
  }
  using Use = ExposeOptions::FallOffUse;
  if (options.fall_off != Use::none) {
    look.applied.push_back(fmt::format("corners {:.2f} stop {}", loaded.answer.corner.stops,
                                       options.fall_off == Use::add ? "darker" : "brighter"));
  }
}

void read_regions(const Picture& picture, const LoadedShot& loaded, Look& look) {
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

}  // namespace

std::vector<NamedRegion> regions_of(const ExposeOptions& options, const Shot& shot) {
  std::vector<NamedRegion> regions;
  for (const PxBox& box : options.regions) {
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

Frame read_shots_picture(const std::string& file, const Coding& coding, const LoadedShot& loaded,
                         std::vector<std::string>& files) {
  files.push_back(file);
  return is_plate(file, loaded) && !coding.transfer ? read_plate(*loaded.now.plate)
                                                    : read_coded(file, coding, files);
}

Look look_at(const Frame& frame, const std::string& file, const ExposeOptions& options,
             const LoadedShot& loaded, std::vector<std::string>& files) {
  Look look;
  look.file = file;
  look.size = frame.colour.size();
  const Coded coded = coded_as(file, options, loaded, files);
  look.coded = coded.words;
  look.clips_at = coded.clips_at;
  look.regions = regions_of(options, loaded.now);
  check_shape(options, loaded, look);
  look.how = metering_of(options, loaded, look);
  try {
    look.metered = meter(frame.colour, look.how);
    if (options.as_plate) match(frame, options, loaded, files, look);
    if (options.neutral.any()) find_white(frame, options, loaded, look);
  } catch (const PictureError& e) {
    throw PictureError(file + ": " + e.what());
  }
  read_regions(frame.colour, loaded, look);
  if (!options.as_plate && !options.neutral.any() && (options.told || options.light)) {
    preview(options, loaded, look);
  }
  expose_by(options, loaded, look);
  return look;
}

void apply(const Look& look, const ExposeOptions& options, const LoadedShot& loaded,
           Picture& picture) {
  using Use = ExposeOptions::FallOffUse;
  std::optional<FallOff> fall_off;
  if (options.fall_off != Use::none)
    fall_off.emplace(loaded.now.lens, without_cheat(loaded.answer.camera));
  PictureChange what;
  what.factor = std::exp2(look.stops);
  what.gains = look.gains;
  what.colours = look.colours;
  what.fall_off = fall_off ? &*fall_off : nullptr;
  what.take_out = options.fall_off == Use::remove;
  change(picture, what);
}

}  // namespace jolly_iris::cli
