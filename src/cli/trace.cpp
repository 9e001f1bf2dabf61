#include "jolly_iris/trace.hpp"

#include <fmt/format.h>

#include <ostream>

#include "output.hpp"
#include "progress.hpp"
#include "verbs.hpp"

namespace jolly_iris::cli {

void trace(const TraceOptions& options, const Streams& io, std::vector<std::string>& files) {
  const LoadedShot loaded = load(options.shot, files);
  if (!loaded.scene) {
    throw UsageError(loaded.shot.file +
                     ": has no scene to trace; write [scene] file = \"set.gltf\"");
  }
  if (loaded.now.cheat.bends() && !options.pinhole) {
    io.err
        << "warning: no lens does what [cheat] asks for (a sharp band, a largest disc); the trace "
           "shows the optics, defocus the cheat\n";
  }
  WrittenPicture what;
  what.names = picture_names(
      options.out, stem_of(loaded.shot.file) + (options.pinhole ? ".pinhole.exr" : ".trace.exr"));
  TraceSettings settings;
  settings.samples = options.samples;
  settings.seed = static_cast<std::uint32_t>(options.seed);
  settings.pinhole = options.pinhole;
  settings.box = options.box;
  settings.just = options.just;
  settings.without = options.without;
  settings.density = options.density;
  settings.threads = options.threads;
  if (options.half) {
    const PixelSize full = loaded.answer.camera.pixels;
    settings.size = PixelSize{std::max(1, full.width / 2), std::max(1, full.height / 2)};
  }
  if (options.squeezed) {
    settings.size = squeezed_size(loaded, settings.size.value_or(loaded.answer.camera.pixels));
    what.pixel_aspect = loaded.now.lens.squeeze;
  }
  Progress progress(io.err, "tracing");
  settings.progress = progress.callback();
  const Frame frame =
      jolly_iris::trace(*loaded.scene, loaded.answer.camera, loaded.answer.place, settings);
  what.words = fmt::format("{}, {} rays a pixel", options.pinhole ? "pinhole with depth" : "traced",
                           options.samples);
  what.seconds = progress.seconds();
  write_pictures(what, frame, loaded, options.shot.form, io);
}

}  // namespace jolly_iris::cli
