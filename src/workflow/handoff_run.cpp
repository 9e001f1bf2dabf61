#include "jolly_iris/workflow/handoff_run.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <filesystem>

#include "disk/disk.hpp"
#include "jolly_iris/files/frame_table.hpp"
#include "jolly_iris/files/handoff.hpp"
#include "jolly_iris/files/usda.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/optics/keyframes.hpp"
#include "jolly_iris/picture_files/picture_file.hpp"
#include "jolly_iris/workflow/shot_list.hpp"
#include "jolly_iris/workflow/write_picture.hpp"

namespace jolly_iris {

namespace {

bool shot_moves(const LoadedShot& loaded) {
  return changes_over_frames(loaded.shot) || (loaded.scene && !loaded.scene->channels.empty());
}

}  // namespace

Handoff hand_off(const HandoffRequest& request, const LoadedShot& loaded) {
  if (!std::filesystem::is_directory(request.folder)) {
    throw FileError(fmt::format("{}: is no folder that is there; make it first, or name another",
                                request.folder));
  }
  std::vector<Answer> answers{loaded.answer};
  const bool moving = request.frames.asked || (shot_moves(loaded) && !request.one_frame);
  if (moving) {
    answers = answers_at(loaded.shot, loaded.scene ? &*loaded.scene : nullptr,
                         chosen_frames(request.frames, loaded), request.execution);
  }
  std::string stem = shot_name(loaded.shot.file);
  if (!loaded.shot.variant.empty()) stem += "." + loaded.shot.variant;
  const bool named = loaded.shot.scene && loaded.shot.scene->camera;
  const std::string name = named ? *loaded.shot.scene->camera : stem + " camera";
  const auto fps = loaded.shot.take.fps;
  Handoff out;
  const auto write = [&](const char* ending, const std::string& bytes, const std::string& words) {
    const std::string file = (std::filesystem::path(request.folder) / (stem + ending)).string();
    write_whole_file(file, bytes);
    out.files.push_back({file, words});
  };
  const std::string over =
      moving ? fmt::format(", frames {:g} to {:g}", answers.front().frame.value_or(0.0),
                           answers.back().frame.value_or(0.0))
             : "";
  write(".camera.gltf", camera_gltf(answers, name, fps), "the camera in its place" + over);
  write(".camera.usda", camera_usda(answers, name, fps),
        "in USD text, with focus, stop and focal length" + over);
  write(".camera.json", answer_json(loaded.answer),
        "all numbers; its keys are those of report --json");
  if (moving) {
    write(".camera.csv", frames_csv(answers),
          "one line a frame: camera, focus, every subject's blur");
  }
  out.zooms = std::any_of(answers.begin(), answers.end(), [&](const Answer& a) {
    return std::abs(a.camera.focal / answers.front().camera.focal - 1.0) > 1e-4;
  });
  for (const std::string& picture : request.stamp) {
    stamp_picture(picture, camera_header(loaded));
    out.files.push_back({picture, "its header has the camera's numbers now"});
  }
  return out;
}

}  // namespace jolly_iris
