#include "jolly_iris/files/load.hpp"

#include <fmt/format.h>

#include <initializer_list>

#include "camera_track.hpp"
#include "jolly_iris/files/curve_file.hpp"
#include "jolly_iris/files/gltf.hpp"
#include "jolly_iris/files/outline_file.hpp"
#include "jolly_iris/files/point_cloud.hpp"
#include "jolly_iris/files/usda.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/optics/keyframes.hpp"

namespace jolly_iris {

namespace {

// What is wrong with a file is told with the line of the shot file that names it.
template <class Work>
auto named_by(const Shot& shot, const char* key, const Work& work) {
  try {
    return work();
  } catch (const FileError& e) {
    throw FileError(shot.where(key) + e.what());
  }
}

void pick(Focus& focus, const Shot& shot, const DepthPicker& picker) {
  if (picker && (focus.pixel || focus.area)) focus.picked = picker(shot, focus);
}

void read_iris_files(Shot& shot, const OpeningReader& reader, std::vector<std::string>& read) {
  Iris& iris = shot.lens.iris;
  if (!iris.outline_file.empty()) {
    read.push_back(iris.outline_file);
    iris.outline =
        named_by(shot, "lens.iris.outline", [&] { return read_outline(iris.outline_file); });
  }
  if (iris.picture_file.empty()) return;
  read.push_back(iris.picture_file);
  if (!reader) {
    throw UsageError(shot.where("lens.iris.picture") +
                     "the opening is a picture, and nothing was given to read it with");
  }
  iris.picture = named_by(shot, "lens.iris.picture", [&] {
    return std::make_shared<const OpeningPicture>(reader(iris.picture_file));
  });
}

// A working space's primaries come from the config that has it; a shot that says others is wrong
// somewhere.
void read_primaries(Shot& shot, const PrimariesReader& reader, std::vector<std::string>& read) {
  const bool managed = shot.plate && shot.plate->transfer == Transfer::managed;
  if (!managed && shot.colour.working.empty() && shot.colour.display.empty()) return;
  if (!shot.colour.file.empty()) read.push_back(shot.colour.file);
  if (!reader) return;
  const auto asked = [&](std::initializer_list<const char*> keys, const ManagedSpace& space) {
    std::string where;
    for (const char* key : keys) {
      if (where.empty() && shot.origins.contains(key)) where = shot.where(key);
    }
    try {
      return reader(space);
    } catch (const UsageError& e) {
      throw UsageError(where + e.what());
    } catch (const FileError& e) {
      throw FileError(where + e.what());
    }
  };
  ColourConfig unseen = shot.colour;
  unseen.display.clear();
  unseen.view.clear();
  const auto found = asked({"plate.working", "plate.ocio", "body.ocio"}, ManagedSpace{{}, unseen});
  if (managed) {
    (void)asked({"plate.transfer", "body.transfer"}, ManagedSpace{shot.plate->space.name, unseen});
  }
  // Before any work whose picture it would show.
  if (!shot.colour.display.empty()) {
    (void)asked({"plate.view", "plate.display"}, ManagedSpace{{}, shot.colour});
  }
  if (!found) return;
  if (shot.origins.contains("plate.primaries") && shot.primaries != *found) {
    throw UsageError(
        fmt::format("{}says {}, but the colour config's working space has the primaries of {}; "
                    "leave the line out",
                    shot.where("plate.primaries"), to_string(shot.primaries), to_string(*found)));
  }
  shot.primaries = *found;
}

}  // namespace

Scene read_scene(const std::filesystem::path& path) {
  return path.extension() == ".usda" ? read_usda(path) : read_gltf(path);
}

LoadedShot load_shot(const std::filesystem::path& path, const LoadSettings& settings,
                     std::vector<std::string>* files) {
  std::vector<std::string> unwanted;
  std::vector<std::string>& read = files == nullptr ? unwanted : *files;
  read.push_back(path.string());
  LoadedShot loaded;
  Shot& shot = loaded.shot;
  shot = read_shot(path, settings.tried, settings.solved);
  // The first of these is the shot file itself, which is there already.
  read.insert(read.end(), shot.files.begin() + 1, shot.files.end());
  if (shot.track) {
    read.push_back(shot.track->file);
    shot.track->rows = named_by(shot, "scene.track", [&] { return read_track(shot.track->file); });
  }
  if (shot.plate && !shot.plate->curve.file.empty()) {
    Curve& curve = shot.plate->curve;
    read.push_back(curve.file);
    const char* key = shot.origins.contains("plate.transfer") ? "plate.transfer" : "body.transfer";
    curve = named_by(shot, key, [&] { return read_curve(curve.file); });
  }
  read_primaries(shot, settings.primaries, read);
  read_iris_files(shot, settings.opening, read);
  if (shot.scene && !shot.scene->file.empty()) {
    read.push_back(shot.scene->file);
    loaded.scene = named_by(shot, "scene.file", [&] {
      return settings.scene ? settings.scene(shot.scene->file) : read_scene(shot.scene->file);
    });
    loaded.scene->scale = shot.scene->scale;
    // Likewise the scene's own file; behind it come its buffers.
    read.insert(read.end(), loaded.scene->files.begin() + 1, loaded.scene->files.end());
  }
  if (shot.scene && !shot.scene->points.empty()) {
    read.push_back(shot.scene->points);
    if (!loaded.scene) loaded.scene.emplace();
    loaded.scene->scale = shot.scene->scale;
    named_by(shot, "scene.points", [&] {
      add_points(
          *loaded.scene, shot.scene->points,
          {shot.unit.m(), shot.scene->point_size.m() * shot.scene->scale, shot.scene->points_z_up});
      return 0;
    });
  }
  if (loaded.scene) pose(*loaded.scene, 0.0);
  if (shot.depth && !shot.depth->file.empty()) read.push_back(shot.depth->file);
  pick(shot.focus, shot, settings.pick);
  for (Pull& pull : shot.pulls) pick(pull.focus, shot, settings.pick);
  const Scene* scene = loaded.scene ? &*loaded.scene : nullptr;
  const auto frame = settings.frame ? settings.frame : usual_frame(shot, scene);
  loaded.now = frame ? shot_at(shot, *frame) : shot;
  if (loaded.scene && frame) pose_at_frame(*loaded.scene, shot, *frame);
  if (settings.numbers_only) {
    loaded.answer = answer_numbers(loaded.now, scene);
  } else {
    loaded.answer = frame ? answer_at(shot, scene, *frame) : answer(shot, scene);
  }
  return loaded;
}

}  // namespace jolly_iris
