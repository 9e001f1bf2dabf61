#include "jolly_iris/handoff.hpp"

#include <filesystem>

#include "jolly_iris/disk.hpp"
#include "output.hpp"
#include "verbs.hpp"

namespace jolly_iris::cli {

void handoff(const HandoffOptions& options, const Streams& io, std::vector<std::string>& files) {
  const LoadedShot loaded = load(options.shot, files);
  const std::string stem = stem_of(loaded.shot.file);
  const std::filesystem::path folder(options.folder);
  const std::string gltf = (folder / (stem + ".camera.gltf")).string();
  const std::string json = (folder / (stem + ".camera.json")).string();
  const bool named = loaded.shot.scene && loaded.shot.scene->camera;
  write_whole_file(
      gltf, camera_gltf(loaded.answer, named ? *loaded.shot.scene->camera : stem + " camera"));
  write_whole_file(json, answer_json(loaded.answer));
  say(options.shot.form, io, written_json({gltf, json}, {}, &loaded.shot),
      tried_line(loaded.shot) + gltf + "  the camera in its place, for any glTF reader\n" + json +
          "  all numbers; its keys are those of report --json\n");
}

}  // namespace jolly_iris::cli
