#include "jolly_iris/workflow/load.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <filesystem>

#include "jolly_iris/files/curve_file.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/optics/quantity.hpp"
#include "jolly_iris/picture/pick.hpp"
#include "jolly_iris/picture_files/colour_management.hpp"
#include "jolly_iris/picture_files/picture_file.hpp"
#include "jolly_iris/workflow/picture_origin.hpp"
#include "optics/nearest.hpp"

namespace jolly_iris {

LoadSettings shot_settings() {
  LoadSettings settings;
  settings.pick = [](const Shot& shot, const Focus& focus) {
    const Frame picture = read_values(shot.depth->file);
    return pick_depth(picture, *shot.depth, shot.body.pixels, focus);
  };
  settings.primaries = [](const ManagedSpace& space) {
    if (!space.name.empty()) require_space(space);
    if (!space.config.display.empty()) {
      (void)as_displayed(Picture(PixelSize{1, 1}), space.config);
    }
    return working_primaries(space.config);
  };
  settings.opening = [](const std::string& file) {
    const Frame picture = read_picture(file, PictureRead{{}, {}, {}, true});
    OpeningPicture opening{picture.colour.width(), picture.colour.height(), {}};
    // What is transparent in the picture is dark in the opening: colour comes premultiplied.
    for (const Rgba& p : picture.colour.pixels()) opening.light.push_back({p[0], p[1], p[2]});
    return opening;
  };
  return settings;
}

LoadedShot open_shot(const ShotRequest& request, std::vector<std::string>& files) {
  LoadSettings settings = shot_settings();
  settings.tried = request.overrides;
  settings.frame = request.frame;
  if (request.as_noted) settings.solved = Solved::left_out;
  return load_shot(request.file, settings, &files);
}

std::string settings_text(const Decoding& decoding) {
  return fmt::format("{} '{}' '{}' '{}'",
                     decoding.transfer ? std::string(to_string(*decoding.transfer)) : "usual",
                     decoding.curve_file, decoding.space, decoding.layer);
}

Frame read_decoded(const std::string& file, const Decoding& decoding, const ColourConfig& colour,
                   std::vector<std::string>& files) {
  Curve curve;
  if (!decoding.curve_file.empty()) {
    files.push_back(decoding.curve_file);
    curve = read_curve(decoding.curve_file);
  }
  const ManagedSpace space{decoding.space, colour};
  if (decoding.transfer == Transfer::managed) files.push_back(config_file(colour));
  return read_picture(
      file, PictureRead{decoding.transfer, curve, decoding.layer, false, decoding.beyond, space});
}

bool is_plate(const std::string& file, const LoadedShot& loaded) {
  std::error_code missing;
  return loaded.now.plate && !loaded.now.plate->file.empty() &&
         std::filesystem::equivalent(file, loaded.now.plate->file, missing);
}

Frame read_for_shot(const std::string& file, const Decoding& decoding, const LoadedShot& loaded,
                    std::vector<std::string>& files, const Margin& margin) {
  files.push_back(file);
  if (is_plate(file, loaded) && !decoding.transfer && decoding.layer.empty()) {
    return read_plate(*loaded.now.plate);
  }
  Frame frame = read_decoded(file, decoding, loaded.now.colour, files);
  for (std::string& said :
       contradictions(file, frame.colour.size(), read_origin(file), loaded, margin)) {
    frame.notes.push_back(std::move(said));
  }
  return frame;
}

const std::string& plate_file(const LoadedShot& loaded, const std::string& why,
                              const std::string& otherwise) {
  if (loaded.now.plate && !loaded.now.plate->file.empty()) return loaded.now.plate->file;
  throw UsageError(fmt::format("{}: names no plate {}; write [plate] file = \"plate.exr\"{}",
                               loaded.shot.file, why, otherwise));
}

Length distance_named(const LoadedShot& loaded, const std::string& text) {
  std::vector<std::string> names;
  for (const SubjectBlur& s : loaded.answer.subjects) {
    if (s.name == text) return s.axial;
    names.push_back(s.name);
  }
  try {
    return parse_distance(text);
  } catch (const QuantityError& e) {
    // What begins with a figure was meant as a distance.
    if (!text.empty() && text[0] >= '0' && text[0] <= '9') throw UsageError(e.what());
    throw UsageError(
        fmt::format("'{}' is neither a subject in front of the camera nor a distance (write "
                    "e.g. 2.4m or infinity).{}",
                    text, did_you_mean(text, names)));
  }
}

bool is_in_scene(const LoadedShot& loaded, const std::string& subject) {
  return std::none_of(loaded.now.subjects.begin(), loaded.now.subjects.end(),
                      [&](const SubjectEntry& s) { return s.name == subject && s.distance; });
}

}  // namespace jolly_iris
