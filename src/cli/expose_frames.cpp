// expose --frames: a sequence, on all cores.
#include <fmt/format.h>
#include <tbb/blocked_range.h>
#include <tbb/parallel_for.h>
#include <tbb/task_arena.h>

#include <atomic>
#include <cmath>
#include <filesystem>
#include <functional>
#include <nlohmann/json.hpp>

#include "expose.hpp"
#include "jolly_iris/errors.hpp"
#include "jolly_iris/exposure_ramp.hpp"
#include "jolly_iris/frames.hpp"
#include "jolly_iris/picture_file.hpp"
#include "output.hpp"
#include "progress.hpp"
#include "sequence.hpp"
#include "text.hpp"

namespace jolly_iris::cli {

namespace {

using Json = nlohmann::ordered_json;

struct Done {
  double frame = 0.0;
  Look look{};
  double stops = 0.0;  ///< that are applied
  std::vector<std::string> files{};
};

// Each frame by itself, as many at a time as there are cores.
void for_each(std::vector<Done>& all, int threads, const std::function<void(double)>& told,
              const std::function<void(Done&)>& work) {
  std::atomic<std::size_t> count = 0;
  tbb::task_arena arena(threads > 0 ? threads : tbb::task_arena::automatic);
  arena.execute([&] {
    tbb::parallel_for(
        tbb::blocked_range<std::size_t>(0, all.size(), 1),
        [&](const tbb::blocked_range<std::size_t>& range) {
          for (std::size_t i = range.begin(); i < range.end(); ++i) {
            // A thread that waits inside must not begin another frame: memory would grow with it.
            tbb::this_task_arena::isolate([&] { work(all[i]); });
            const std::size_t n = ++count;
            if (told) told(static_cast<double>(n) / static_cast<double>(all.size()));
          }
        },
        tbb::simple_partitioner());
  });
}

std::string table(const std::vector<Done>& all, bool applied) {
  std::string text = fmt::format("{:>8}{:>12}{:>10}{:>10}{:>10}{}\n", "frame", "value", "stops",
                                 "black", "clipped", applied ? "   applied" : "");
  for (const Done& d : all) {
    const Metered& m = d.look.metered;
    text += fmt::format("{:>8g}{:>12.4g}{:>+10.2f}{:>8.1f} %{:>8.1f} %{}\n", d.frame, m.level,
                        m.stops(), 100.0 * m.black, 100.0 * m.clipped,
                        applied ? fmt::format("{:>+10.2f}", d.stops) : "");
  }
  return text;
}

}  // namespace

void expose_frames(const ExposeOptions& options, const LoadedShot& loaded, const Streams& io,
                   std::vector<std::string>& files) {
  std::vector<Done> all;
  for (const double frame : chosen_frames(options.frames, loaded))
    all.push_back({frame, {}, 0, {}});
  std::vector<std::string> names;
  if (options.apply) {
    names = picture_names(options.out, stem_of(options.picture) + ".expose.exr");
  }
  std::vector<std::string> inputs;
  for (const Done& d : all) inputs.push_back(numbered(options.picture, d.frame));
  for (const std::string& file : inputs) {
    if (std::filesystem::exists(file)) continue;
    throw FileError(file + ": cannot read it: No such file or directory");
  }
  {
    Progress progress(io.err, "metering");
    for_each(all, options.threads, progress.callback(), [&](Done& d) {
      const std::string file = numbered(options.picture, d.frame);
      const Frame frame = read_shots_picture(file, options.coding, loaded, d.files);
      d.look = look_at(frame, file, options, at_frame(loaded, d.frame), d.files);
      d.stops = d.look.stops;
    });
  }
  for (const Done& d : all) files.insert(files.end(), d.files.begin(), d.files.end());
  if (options.ramp) {
    RampSettings ramp = *options.ramp;
    if (!loaded.now.take.fps) {
      throw OpticsError(loaded.shot.where("take.fps") + "--ramp needs the frame rate: fps = 24",
                        "take.fps");
    }
    ramp.fps = *loaded.now.take.fps / options.frames.step;
    std::vector<double> wanted;
    for (const Done& d : all) {
      wanted.push_back(d.look.metered_counts ? d.stops : d.look.metered.stops() + options.stops);
    }
    const auto done = exposure_ramp(wanted, ramp);
    for (std::size_t i = 0; i < all.size(); ++i) all[i].stops = done[i];
  }
  const bool changes = options.apply || options.ramp;
  std::string text = tried_line(loaded.shot) +
                     fmt::format("{}: {} frames, metered by {}\n", options.picture, all.size(),
                                 to_string(all.front().look.how.way)) +
                     table(all, changes);
  Json json{{"picture", options.picture}, {"frames", Json::array()}, {"written", Json::array()}};
  if (options.apply) {
    Progress progress(io.err, "exposing");
    for_each(all, options.threads, progress.callback(), [&](Done& d) {
      Look look = d.look;
      look.stops = d.stops;
      const LoadedShot now = at_frame(loaded, d.frame);
      Frame frame = read_shots_picture(look.file, options.coding, now, d.files);
      apply(look, options, now, frame.colour);
      for (const std::string& name : names) {
        write_picture(numbered(name, d.frame), frame, header_of(now));
      }
    });
    text += fmt::format("\n{} written to {}\n", all.size(), names.front());
  }
  for (const Done& d : all) {
    const Metered& m = d.look.metered;
    json["frames"].push_back({{"frame", d.frame},
                              {"level", m.level},
                              {"stops", m.stops()},
                              {"black", m.black},
                              {"clipped", m.clipped},
                              {"non_finite", m.non_finite},
                              {"applied_stops", d.stops}});
    if (!options.apply) continue;
    for (const std::string& name : names) json["written"].push_back(numbered(name, d.frame));
  }
  say(options.shot.form, io, json.dump(2, ' ', false, Json::error_handler_t::replace) + "\n", text);
}

}  // namespace jolly_iris::cli
