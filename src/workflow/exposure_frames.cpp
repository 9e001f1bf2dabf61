#include "jolly_iris/workflow/exposure_frames.hpp"

#include <algorithm>
#include <atomic>
#include <thread>

#include "jolly_iris/optics/memory.hpp"
#include "jolly_iris/workflow/write_picture.hpp"
#include "picture/parallel.hpp"

namespace jolly_iris {

namespace {

// Each frame by itself, as many at a time as there are cores and memory.
// @param work returns how many pixels the frame had
void for_each(std::vector<ExposedFrame>& all, const Execution& execution,
              const std::function<std::size_t(ExposedFrame&)>& work) {
  if (all.empty()) return;
  std::size_t pixels = 0;
  with_threads(execution.threads, [&] { pixels = work(all.front()); });
  constexpr double bytes_a_pixel = 45.0;  // read, changed and written; measured
  const double at_once =
      static_cast<double>(memory_limit()) / (bytes_a_pixel * static_cast<double>(pixels));
  const int cores = execution.threads > 0
                        ? execution.threads
                        : std::max(1, static_cast<int>(std::thread::hardware_concurrency()));
  std::atomic<std::size_t> count = 1;
  with_threads(static_cast<int>(std::clamp<double>(at_once, 1.0, cores)), [&] {
    parallel_for(std::size_t{1}, all.size(), [&](std::size_t i) {
      // A thread that waits inside must not begin another frame: memory would grow with it.
      isolated([&] { work(all[i]); });
      const std::size_t n = ++count;
      execution.tell(static_cast<double>(n) / static_cast<double>(all.size()));
    });
  });
}

void follow_ramp(std::vector<ExposedFrame>& all, RampSettings ramp, const FrameRequest& frames,
                 const LookRequest& request, const LoadedShot& loaded) {
  if (!loaded.now.take.fps) {
    throw OpticsError(loaded.shot.where("take.fps") + "a ramp needs the frame rate: fps = 24",
                      "take.fps");
  }
  ramp.fps = *loaded.now.take.fps / frames.step;
  std::vector<double> wanted;
  for (const ExposedFrame& f : all) {
    wanted.push_back(f.look.metered_counts ? f.stops : f.look.metered.stops() + request.stops);
  }
  const auto done = exposure_ramp(wanted, ramp);
  for (std::size_t i = 0; i < all.size(); ++i) all[i].stops = done[i];
}

}  // namespace

std::vector<ExposedFrame> look_at_frames(const std::string& pictures, const FrameRequest& frames,
                                         const LookRequest& request,
                                         const std::optional<RampSettings>& ramp,
                                         const LoadedShot& loaded, std::vector<std::string>& files,
                                         const Execution& execution) {
  const std::vector<double> chosen = chosen_frames(frames, loaded);
  check_sequence({pictures}, chosen);
  std::vector<ExposedFrame> all;
  for (const double frame : chosen) all.push_back({frame, {}, 0.0, {}});
  for_each(all, execution, [&](ExposedFrame& f) {
    const std::string file = numbered(pictures, f.frame);
    const Frame frame = read_for_shot(file, request.decoding, loaded, f.files);
    f.look = look_at(frame, file, request, at_frame(loaded, f.frame), f.files);
    f.stops = f.look.stops;
    return frame.colour.pixels().size();
  });
  for (const ExposedFrame& f : all) files.insert(files.end(), f.files.begin(), f.files.end());
  if (ramp) follow_ramp(all, *ramp, frames, request, loaded);
  return all;
}

std::vector<std::string> write_exposed(const std::vector<ExposedFrame>& frames,
                                       const std::vector<std::string>& names,
                                       const LookRequest& request, const LoadedShot& loaded,
                                       const Execution& execution) {
  std::vector<ExposedFrame> all = frames;
  for_each(all, execution, [&](ExposedFrame& f) {
    f.look.stops = f.stops;
    const LoadedShot now = at_frame(loaded, f.frame);
    Frame frame = read_for_shot(f.look.file, request.decoding, now, f.files);
    apply(f.look, now, frame.colour);
    for (const std::string& name : numbered(names, f.frame)) {
      write_for_shot(name, frame, now, 1.0, header_of(f.look));
    }
    return frame.colour.pixels().size();
  });
  std::vector<std::string> written;
  for (const ExposedFrame& f : all) {
    for (const std::string& name : numbered(names, f.frame)) written.push_back(name);
  }
  return written;
}

}  // namespace jolly_iris
