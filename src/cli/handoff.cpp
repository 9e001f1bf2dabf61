#include "jolly_iris/handoff.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <filesystem>

#include "jolly_iris/disk.hpp"
#include "jolly_iris/frame_table.hpp"
#include "jolly_iris/over.hpp"
#include "jolly_iris/picture_file.hpp"
#include "jolly_iris/usda.hpp"
#include "output.hpp"
#include "progress.hpp"
#include "verbs.hpp"

namespace jolly_iris::cli {

namespace {

bool moves(const LoadedShot& loaded) {
  return changes_over_frames(loaded.shot) || (loaded.scene && !loaded.scene->channels.empty());
}

}  // namespace

void handoff(const HandoffOptions& options, const Streams& io, std::vector<std::string>& files) {
  LoadedShot loaded = load(options.shot, files);
  std::vector<Answer> answers{loaded.answer};
  const bool moving = options.frames.asked || (moves(loaded) && !options.shot.frame);
  if (moving) {
    Progress progress(io.err, "frames");
    answers = answers_at(loaded.shot, loaded.scene ? &*loaded.scene : nullptr,
                         chosen_frames(options.frames, loaded), progress.callback());
  }
  const std::string stem =
      stem_of(loaded.shot.file) + (loaded.shot.variant.empty() ? "" : "." + loaded.shot.variant);
  const bool named = loaded.shot.scene && loaded.shot.scene->camera;
  const std::string name = named ? *loaded.shot.scene->camera : stem + " camera";
  std::vector<std::string> written;
  std::string text = tried_line(loaded.shot);
  const auto write = [&](const char* ending, const std::string& bytes, const std::string& words) {
    written.push_back((std::filesystem::path(options.folder) / (stem + ending)).string());
    write_whole_file(written.back(), bytes);
    text += fmt::format("{:<32} {}\n", written.back(), words);
  };
  const std::string over =
      moving ? fmt::format(", frames {1:g} to {2:g}", answers.size(),
                           answers.front().frame.value_or(0.0), answers.back().frame.value_or(0.0))
             : "";
  write(".camera.gltf", camera_gltf(answers, name, loaded.shot.take.fps),
        "the camera in its place" + over);
  write(".camera.usda", camera_usda(answers, name, loaded.shot.take.fps),
        "in USD text, with focus, stop and focal length" + over);
  write(".camera.json", answer_json(loaded.answer),
        "all numbers; its keys are those of report --json");
  if (moving) {
    write(".camera.csv", frames_csv(answers),
          "one line a frame: camera, focus, every subject's blur");
  }
  const bool zooms = std::any_of(answers.begin(), answers.end(), [&](const Answer& a) {
    return std::abs(a.camera.focal / answers.front().camera.focal - 1.0) > 1e-4;
  });
  if (zooms) {
    text +=
        "glTF cannot change a focal length over time: take breathing and zoom from the .usda or\n"
        "the .csv.\n";
  }
  for (const std::string& picture : options.stamp) {
    stamp_picture(picture, header_of(loaded));
    written.push_back(picture);
    text += fmt::format("{:<32} {}\n", picture, "its header has the camera's numbers now");
  }
  say(options.shot.form, io, written_json(written, {}, &loaded.shot), text);
}

}  // namespace jolly_iris::cli
