#include "jolly_iris/defocus.hpp"

#include "jolly_iris/picture_file.hpp"
#include "output.hpp"
#include "progress.hpp"
#include "verbs.hpp"

namespace jolly_iris::cli {

void defocus(const DefocusOptions& options, const Streams& io, std::vector<std::string>& files) {
  const LoadedShot loaded = load(options.shot, files);
  files.push_back(options.picture);
  WrittenPicture what;
  what.names = picture_names(options.out, stem_of(options.picture) + ".defocus.exr");
  const Frame sharp = read_coded(options.picture, options.coding, files);
  DefocusSettings settings;
  settings.distance = options.distance;
  settings.threads = options.threads;
  Progress progress(io.err, "defocusing");
  settings.progress = progress.callback();
  Frame blurred;
  try {
    blurred.colour = jolly_iris::defocus(sharp, loaded.answer.camera, settings);
  } catch (const PictureError& e) {
    throw PictureError(options.picture + ": " + e.what() +
                       (sharp.has_depth() || options.distance ? "" : ", e.g. --distance 12m"));
  }
  what.words = "defocused";
  what.seconds = progress.seconds();
  write_pictures(what, blurred, loaded, options.shot.form, io);
}

}  // namespace jolly_iris::cli
