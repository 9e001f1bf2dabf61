#include "jolly_iris/workflow/flare_run.hpp"

#include <fmt/format.h>

#include "jolly_iris/files/glass_file.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/workflow/finish_run.hpp"
#include "jolly_iris/workflow/picture_origin.hpp"
#include "jolly_iris/workflow/shot_glass.hpp"
#include "jolly_iris/workflow/write_picture.hpp"

namespace jolly_iris {

namespace {

// What a picture's header says its ghosts by.
constexpr const char* flare_in_header = "jolly_iris:flare";

std::string surface_words(const GlassSurface& s) {
  if (s.stop) return "stop";
  const std::string radius =
      s.radius.is_finite() ? fmt::format("{:+.1f} mm", s.radius.mm()) : std::string("flat");
  return radius + (s.coat ? ", coated" : ", bare");
}

}  // namespace

std::string ghost_name(const GhostPath& path) {
  return fmt::format("{}-{}", path.far + 1, path.near + 1);
}

FlaredFrame flare_picture(const FlareRequest& request, const LoadedShot& loaded,
                          std::vector<std::string>& files, const Execution& execution) {
  const Lens& lens = loaded.now.lens;
  if (lens.glass.empty()) {
    throw UsageError(loaded.shot.file +
                     ": ghosts need the lens's surfaces; write lens.glass = "
                     "\"NAME.glass.toml\" (docs/glass.md)");
  }
  FlaredFrame out;
  Frame read = read_for_shot(request.picture, request.decoding, loaded, files, {});
  out.notes = std::move(read.notes);
  const auto before = read_header(request.picture);
  if (before.contains(flare_in_header)) {
    throw UsageError(
        fmt::format("{}: has its ghosts already, by its header; take the picture from "
                    "before that",
                    request.picture));
  }
  files.push_back(lens.glass);
  Prescription glass = read_glass(lens.glass);
  glass.iris = lens.iris;
  out.glass = lens.name;
  for (const GlassSurface& s : glass.surfaces) out.surfaces.push_back(surface_words(s));
  const auto camera = glass_camera_of(loaded);
  const GhostLight ghosts(*camera, glass);
  out.lamps = lamps_in(read.colour, request.search);
  if (out.lamps.lamps.empty()) {
    out.notes.push_back(fmt::format(
        "{}: nothing is brighter than {:g}, so there is no lamp whose ghosts could be seen; a "
        "clipped plate's lamps have lost their light, give it back first",
        request.picture, request.search.from));
  }
  FlareSettings settings = request.settings;
  settings.execution = execution;
  try {
    out.flare =
        flare_of(read.colour, out.lamps.lamps, loaded.answer.camera, *camera, ghosts, settings);
  } catch (const PictureError& e) {
    throw PictureError(request.picture + ": " + e.what());
  }
  out.notes.insert(out.notes.end(), out.flare.notes.begin(), out.flare.notes.end());
  if (out.lamps.all > out.lamps.lamps.size()) {
    out.notes.push_back(fmt::format("{} of {} lamps are followed; they have {:.0f} % of the light",
                                    out.lamps.lamps.size(), out.lamps.all,
                                    100.0 * out.lamps.share));
  }
  if (request.alone) {
    out.frame.colour = out.flare.added;
  } else {
    out.frame = std::move(read);
    for (std::size_t i = 0; i < out.frame.colour.pixels().size(); ++i) {
      for (std::size_t c = 0; c < 3; ++c) {
        out.frame.colour.pixels()[i][c] += out.flare.added.pixels()[i][c];
      }
    }
  }
  if (std::string note = rest_note(out.frame); !note.empty()) out.notes.push_back(std::move(note));
  for (const char* key : {lens_in_header, finish_in_header}) {
    if (const auto found = before.find(key); found != before.end()) out.header[key] = found->second;
  }
  if (origin_of(before).darker_corners) out.header["jolly_iris:fall_off"] = corners_in_picture;
  out.header[flare_in_header] = fmt::format("{}, {} ghosts of {} lamps", lens.name,
                                            out.flare.ghosts.size(), out.lamps.lamps.size());
  return out;
}

std::vector<NamedPicture> flare_layers(const FlaredFrame& made) {
  std::vector<NamedPicture> out{{"flare", made.flare.added}};
  for (std::size_t k = 0; k < made.flare.layers.size(); ++k) {
    out.push_back({"ghost " + ghost_name(made.flare.ghosts[k].path), made.flare.layers[k]});
  }
  return out;
}

FrameRun flare_frames(const FlareRequest& request, const std::vector<std::string>& names,
                      const std::string& layers, const FrameRunSettings& settings,
                      const LoadedShot& loaded, std::vector<std::string>& files,
                      const Execution& execution) {
  FrameWork work;
  work.names = names;
  if (!layers.empty()) work.names.push_back(layers);
  work.inputs = {request.picture, loaded.now.lens.glass};
  if (!request.decoding.curve_file.empty()) work.inputs.push_back(request.decoding.curve_file);
  const FlareSettings& s = request.settings;
  work.settings = fmt::format("flare {:.17g} {} {} {:.17g} {} {} {} {}", request.search.from,
                              request.search.most, s.bent, s.hold, s.side, s.layers, request.alone,
                              settings_text(request.decoding));
  work.make = [&](const LoadedShot& now, double frame, std::vector<std::string>& read,
                  const Execution& how) {
    FlareRequest one = request;
    one.picture = numbered(request.picture, frame);
    FlaredFrame made = flare_picture(one, now, read, how);
    MadeFrame out;
    if (!layers.empty()) {
      out.layers = flare_layers(made);
      out.layered = numbered(layers, frame);
    }
    out.frame = std::move(made.frame);
    out.header = std::move(made.header);
    out.notes = std::move(made.notes);
    return out;
  };
  return make_frames(work, settings, loaded, files, execution);
}

}  // namespace jolly_iris
