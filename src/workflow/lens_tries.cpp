#include "jolly_iris/workflow/lens_tries.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <filesystem>
#include <optional>

#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/picture/defocus.hpp"
#include "jolly_iris/picture_files/picture_file.hpp"
#include "jolly_iris/trace/trace.hpp"
#include "jolly_iris/workflow/shot_glass.hpp"

namespace jolly_iris {

namespace {

// "swirl" of "../looks/swirl.look.toml", also of several; anything else as it was typed.
std::string name_of(const std::string& value) {
  constexpr std::string_view between = " + ";
  if (const auto plus = value.find(between); plus != std::string::npos) {
    return name_of(value.substr(0, plus)) + std::string(between) +
           name_of(value.substr(plus + between.size()));
  }
  if (!value.ends_with(".toml")) return value;
  return std::filesystem::path(value).stem().stem().string();
}

// How much of the world the picture shows across, at a distance of one.
double view_of(const LoadedShot& loaded) {
  return loaded.answer.camera.picture.width / loaded.answer.camera.focal;
}

LoadedShot with(const ShotRequest& shot, const std::vector<Override>& overrides,
                std::vector<std::string>& files) {
  ShotRequest one = shot;
  one.overrides.insert(one.overrides.end(), overrides.begin(), overrides.end());
  return open_shot(one, files);
}

LensTry on_matched_gate(const ShotRequest& shot, const LoadedShot& own, const std::string& lens,
                        std::vector<std::string>& files) {
  const Override chosen{"lens", std::filesystem::absolute(lens).string()};
  const LoadedShot plain = with(shot, {chosen}, files);
  const double times = view_of(own) / view_of(plain);
  const Extent& gate = plain.now.body.gate;
  const Override matched{"body.gate", fmt::format("{:.9g} x {:.9g} mm", times * gate.width.mm(),
                                                  times * gate.height.mm())};
  LensTry t{name_of(lens), with(shot, {chosen, matched}, files)};
  if (std::abs(view_of(t.loaded) / view_of(own) - 1.0) > 1e-3) {
    throw UsageError(fmt::format(
        "the breathing of {} was measured as fields of view on one gate, so another gate cannot "
        "give it the framing of {}; give its breathing as focal lengths",
        lens, shot.file));
  }
  return t;
}

PixelSize fitting(const VirtualCamera& c, const SceneLook& look) {
  const double width = std::min(look.width, look.height * c.pixels.width / c.pixels.height);
  return {std::max(16, static_cast<int>(width)),
          std::max(9, static_cast<int>(width * c.pixels.height / c.pixels.width))};
}

}  // namespace

bool tries_variants(const Steps& steps) { return steps.key == "variant"; }

std::vector<TriedValue> tried_values(const Steps& steps) {
  std::vector<TriedValue> out;
  if (tries_variants(steps)) out.push_back({"as in the shot", ""});
  for (const std::string& value : steps.values) {
    TriedValue one{name_of(value), value};
    if (tries_variants(steps)) std::replace(one.text.begin(), one.text.end(), '+', ',');
    out.push_back(std::move(one));
  }
  return out;
}

LensTries try_values(const ShotRequest& shot, const Steps& steps, std::vector<std::string>& files) {
  LensTries out{shot.file, steps.key, {}};
  for (const TriedValue& value : tried_values(steps)) {
    std::vector<Override> over;
    if (!value.text.empty()) over.push_back({steps.key, value.text, steps.place});
    out.tries.push_back({value.name, with(shot, over, files)});
  }
  return out;
}

LensTries try_lenses(const ShotRequest& shot, const std::vector<std::string>& lenses,
                     std::vector<std::string>& files) {
  LensTries out{shot.file, {}, {}};
  out.tries.push_back({"as in the shot", open_shot(shot, files)});
  for (const std::string& lens : lenses) {
    out.tries.push_back(on_matched_gate(shot, out.tries.front().loaded, lens, files));
  }
  return out;
}

TriedScenes render_tries(const LensTries& tries, const SceneLook& look,
                         std::vector<std::string>& files, const Execution& execution) {
  TriedScenes out{look.traced, {}, {}};
  std::optional<Frame> sharp;
  if (!look.traced && !look.sharp.empty()) {
    files.push_back(look.sharp);
    sharp = read_picture(look.sharp);
    out.notes = sharp->notes;
  }
  const auto n = static_cast<double>(tries.tries.size());
  for (const LensTry& t : tries.tries) {
    const LoadedShot& loaded = t.loaded;
    const VirtualCamera& c = loaded.answer.camera;
    if (!sharp && !loaded.scene) {
      throw UsageError(loaded.shot.file + ": has no scene; give the picture to blur");
    }
    const auto i = static_cast<double>(out.pictures.size());
    std::optional<TryLight> light;
    if (tries.variants()) {
      light = light_beside(tries.tries.front().loaded, loaded);
      out.lights.push_back(*light);
    }
    const Execution part = execution.part(i / n, (i + 1.0) / n);
    DefocusSettings blur;
    blur.execution = part;
    TraceSettings settings;
    settings.size = fitting(c, look);
    settings.samples = 64;
    settings.execution = part;
    if (look.traced) {
      settings.glass = glass_camera_of(loaded);
      const Frame truth = trace(*loaded.scene, c, loaded.answer.place, settings);
      out.pictures.push_back(finished_try(truth.colour, loaded, light, part));
    } else if (sharp) {
      out.pictures.push_back(tried_picture(*sharp, loaded, light, blur));
    } else {
      settings.pinhole = true;
      settings.size = PixelSize{2 * settings.size->width, 2 * settings.size->height};
      settings.samples = 16;
      blur.execution = {part.threads, {}, part.stop};
      const Frame seen = trace(*loaded.scene, c, loaded.answer.place, settings);
      out.pictures.push_back(tried_picture(seen, loaded, light, blur));
    }
  }
  return out;
}

}  // namespace jolly_iris
