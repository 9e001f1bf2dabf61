// A picture looked at again and again while the lens is turned: only what changes is made again.
//
//   turn_the_ring SHOT PICTURE OUT_FOLDER
#include <fmt/format.h>

#include <iostream>

#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/picture_files/picture_file.hpp"
#include "jolly_iris/workflow/live_shot.hpp"
#include "jolly_iris/workflow/preview.hpp"

int main(int argc, char** argv) {
  using namespace jolly_iris;
  if (argc != 4) {
    std::cerr << "usage: turn_the_ring SHOT PICTURE OUT_FOLDER\n";
    return 2;
  }
  try {
    LiveShot shot({.file = argv[1]});
    std::vector<DefocusLayer> layers;
    layers.push_back({.frame = read_picture(argv[2])});
    Preview preview(std::move(layers));
    const PixelSize draft = draft_size(preview.size(), 480, 270);
    for (const char* stop : {"f/1.8", "f/2.8", "f/4"}) {  // the ring is turned: drafts
      shot.change({{"take.stop", stop}});
      (void)preview.at(shot.loaded().answer.camera, draft);
    }
    shot.undo();  // back to f/2.8, and nothing moves any more: the whole picture
    const VirtualCamera camera = shot.loaded().answer.camera;
    write_picture(std::string(argv[3]) + "/still.png", {*preview.at(camera, preview.size()), {}});
    const PreviewCounts made = preview.counts();
    fmt::print("f/{:.3g}: {} pictures, made ready {} times, {} discs drawn and {} used again\n",
               shot.loaded().now.take.stop.value, made.blurred, made.prepared, made.discs_made,
               made.discs_reused);
  } catch (const Error& e) {
    std::cerr << e.what() << '\n';
    return 1;
  }
}
