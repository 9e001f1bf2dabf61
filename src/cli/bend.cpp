// undistort and redistort.
#include <fmt/format.h>

#include <ostream>

#include "jolly_iris/errors.hpp"
#include "jolly_iris/picture_file.hpp"
#include "jolly_iris/warp.hpp"
#include "output.hpp"
#include "progress.hpp"
#include "text.hpp"
#include "verbs.hpp"

namespace jolly_iris::cli {

namespace {

std::string picture_of(const BendOptions& options, const LoadedShot& loaded) {
  if (!options.picture.empty() || options.back) return options.picture;
  if (loaded.now.plate && !loaded.now.plate->file.empty()) return loaded.now.plate->file;
  if (!options.map.empty()) return {};
  throw UsageError(loaded.shot.file +
                   ": names no plate to straighten; name a picture, or write [plate] file = "
                   "\"plate.exr\"");
}

// What CG has to render so that, redistorted, it fills the plate.
std::string margin_text(const VirtualCamera& c, const Margin& m) {
  if (m.beside == 0 && m.above == 0) {
    return "CG needs no margin: redistorted, a picture of the plate's size fills the frame\n";
  }
  const PixelSize size{c.pixels.width + 2 * m.beside, c.pixels.height + 2 * m.above};
  return fmt::format(
      "CG to redistort: {} x {} px on a gate of {:.4f} x {:.4f} mm, same focal length\n"
      "  ({} px more on each side, {} above and below)\n",
      size.width, size.height, c.picture.width.mm() * size.width / c.pixels.width,
      c.picture.height.mm() * size.height / c.pixels.height, m.beside, m.above);
}

Frame bent(const BendOptions& options, const std::string& picture, const LoadedShot& loaded,
           const DistortionMap& map, const Margin& margin, std::vector<std::string>& files) {
  const bool plate = loaded.now.plate && picture == loaded.now.plate->file;
  const Frame frame = plate && !options.coding.transfer
                          ? read_plate(*loaded.now.plate)
                          : read_coded(picture, options.coding, files);
  try {
    return options.back ? redistorted(frame, map) : undistorted(frame, map, margin);
  } catch (const PictureError& e) {
    throw PictureError(picture + ": " + e.what());
  }
}

}  // namespace

void bend(const BendOptions& options, const Streams& io, std::vector<std::string>& files) {
  const LoadedShot loaded = load(options.shot, files);
  const VirtualCamera& camera = loaded.answer.camera;
  if (!camera.distortion.any()) {
    throw UsageError(loaded.shot.file +
                     ": says nothing of the lens's distortion; measure it from edges drawn in the "
                     "plate (jolly-iris measure), or write [lens.distortion] k1 = 0.03");
  }
  const DistortionMap map(camera);
  const Margin margin = options.same_size ? Margin{} : map.margin();
  const std::string picture = picture_of(options, loaded);
  std::vector<std::string> written;
  std::string text = tried_line(loaded.shot);
  Progress progress(io.err, options.back ? "redistorting" : "undistorting");
  if (!options.map.empty()) {
    write_position_map(options.map, options.back ? redistorting_map(map, map.margin())
                                                 : undistorting_map(map, margin));
    written.push_back(options.map);
    text += fmt::format(
        "{:<28} where each pixel comes from: R of the width, G of the height from "
        "below\n",
        options.map);
  }
  PixelSize size{};
  if (!picture.empty()) {
    files.push_back(picture);
    const auto names = picture_names(
        options.out, stem_of(picture) + (options.back ? ".redistort.exr" : ".undistort.exr"));
    const Frame frame = bent(options, picture, loaded, map, margin, files);
    size = frame.colour.size();
    for (const std::string& name : names) {
      write_picture(name, frame, header_of(loaded));
      written.push_back(name);
      text += fmt::format("{:<28} {} x {}, {}, {:.1f} s\n", name, size.width, size.height,
                          options.back ? "bent as the lens bends" : "straight", progress.seconds());
    }
  }
  text += margin_text(camera, map.margin());
  const std::map<std::string, double> numbers{{"margin_above_px", map.margin().above},
                                              {"margin_beside_px", map.margin().beside},
                                              {"width", size.width},
                                              {"height", size.height}};
  say(options.shot.form, io, written_json(written, numbers, &loaded.shot), text);
}

}  // namespace jolly_iris::cli
