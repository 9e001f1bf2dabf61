#include "jolly_iris/load.hpp"

#include "jolly_iris/pick.hpp"
#include "jolly_iris/picture_file.hpp"
#include "verbs.hpp"

namespace jolly_iris::cli {

LoadedShot load(const ShotOptions& options, std::vector<std::string>& files) {
  LoadSettings settings;
  settings.tried = options.tried;
  settings.frame = options.frame;
  settings.pick = [](const Shot& shot, const Focus& focus) {
    const Frame picture = read_picture(shot.depth->file, Transfer::linear);
    return pick_depth(picture, *shot.depth, shot.body.pixels, focus);
  };
  return load_shot(options.shot, settings, &files);
}

}  // namespace jolly_iris::cli
