#include "jolly_iris/load.hpp"

#include <fmt/format.h>

#include "jolly_iris/curve_file.hpp"
#include "jolly_iris/errors.hpp"
#include "jolly_iris/nearest.hpp"
#include "jolly_iris/pick.hpp"
#include "jolly_iris/picture_file.hpp"
#include "jolly_iris/quantity.hpp"
#include "verbs.hpp"

namespace jolly_iris::cli {

LoadedShot load(const ShotOptions& options, std::vector<std::string>& files) {
  LoadSettings settings;
  settings.tried = options.tried;
  settings.frame = options.frame;
  if (options.as_noted) settings.solved = Solved::left_out;
  settings.pick = [](const Shot& shot, const Focus& focus) {
    const Frame picture = read_picture(shot.depth->file, Transfer::linear);
    return pick_depth(picture, *shot.depth, shot.body.pixels, focus);
  };
  settings.opening = [](const std::string& file) {
    const Frame picture = read_picture(file);
    OpeningPicture opening{picture.colour.width(), picture.colour.height(), {}};
    // What is transparent in the picture is dark in the opening: colour comes premultiplied.
    for (const Rgba& p : picture.colour.pixels()) opening.light.push_back({p[0], p[1], p[2]});
    return opening;
  };
  return load_shot(options.shot, settings, &files);
}

Length distance_named(const LoadedShot& loaded, const std::string& text, const char* option) {
  std::vector<std::string> names;
  for (const SubjectBlur& s : loaded.answer.subjects) {
    if (s.name == text) return s.axial;
    names.push_back(s.name);
  }
  try {
    return parse_distance(text);
  } catch (const QuantityError& e) {
    // What begins with a figure was meant as a distance.
    if (!text.empty() && text[0] >= '0' && text[0] <= '9') {
      throw UsageError(fmt::format("{}: {}", option, e.what()));
    }
    throw UsageError(
        fmt::format("{}: '{}' is neither a subject in front of the camera nor a distance (write "
                    "e.g. 2.4m or infinity).{}",
                    option, text, did_you_mean(text, names)));
  }
}

Frame read_coded(const std::string& file, const Coding& coding, std::vector<std::string>& files) {
  Curve curve;
  if (!coding.curve_file.empty()) {
    files.push_back(coding.curve_file);
    curve = read_curve(coding.curve_file);
  }
  return read_picture(file, coding.transfer, curve);
}

}  // namespace jolly_iris::cli
