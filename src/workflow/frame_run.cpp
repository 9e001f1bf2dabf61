#include "jolly_iris/workflow/frame_run.hpp"

#include <algorithm>
#include <atomic>
#include <filesystem>
#include <mutex>
#include <thread>

#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/optics/memory.hpp"
#include "jolly_iris/workflow/write_picture.hpp"
#include "picture/parallel.hpp"
#include "workflow/run_fingerprint.hpp"

namespace jolly_iris {

namespace {

void add_new(std::vector<std::string>& all, const std::vector<std::string>& more) {
  for (const std::string& sentence : more) {
    if (std::find(all.begin(), all.end(), sentence) == all.end()) all.push_back(sentence);
  }
}

// Of a sentence that names one frame's file, the same of all of them.
void name_all_frames(std::vector<std::string>& sentences, const std::vector<std::string>& inputs,
                     double frame) {
  for (const std::string& input : inputs) {
    const std::string one = numbered(input, frame);
    if (one == input) continue;
    for (std::string& s : sentences) {
      for (auto at = s.find(one); at != std::string::npos; at = s.find(one, at + input.size())) {
        s.replace(at, one.size(), input);
      }
    }
  }
}

int cores_of(const Execution& execution) {
  if (execution.threads > 0) return execution.threads;
  return std::max(1, static_cast<int>(std::thread::hardware_concurrency()));
}

// What one frame left to be told, until all are told in their order.
struct FrameLog {
  bool kept = false;
  bool remade = false;
  std::vector<std::string> written{};
  std::vector<std::string> files{};
  std::vector<std::string> notes{};
  std::vector<std::string> warnings{};
};

std::size_t make_one(const FrameWork& work, bool keep_made, const LoadedShot& loaded, double frame,
                     FileHashes& hashes, FrameLog& log, const Execution& execution) {
  const LoadedShot now = work.posed ? posed_at_frame(loaded, frame) : at_frame(loaded, frame);
  const std::vector<std::string> names = numbered(work.names, frame);
  const std::string settings =
      work.settings + (work.settings_at ? " " + work.settings_at(frame) : "");
  const std::string fingerprint =
      fingerprint_of(now, numbered(work.inputs, frame), settings, frame, hashes);
  if (keep_made) {
    const auto made = [&](const std::string& name) { return is_made(name, fingerprint); };
    if (std::all_of(names.begin(), names.end(), made)) {
      log.kept = true;
      return 0;
    }
    const auto there = [](const std::string& name) { return std::filesystem::exists(name); };
    log.remade = std::any_of(names.begin(), names.end(), there);
  }
  MadeFrame made = work.make(now, frame, log.files, execution);
  made.header.merge(header_of(fingerprint));
  for (const std::string& name : names) {
    const bool layered = made.layered.empty() || made.layered == name;
    write_for_shot(name, made.frame, now, made.pixel_aspect, made.header,
                   layered ? made.layers : std::vector<NamedPicture>{});
    log.written.push_back(name);
  }
  name_all_frames(made.notes, work.inputs, frame);
  name_all_frames(made.warnings, work.inputs, frame);
  log.notes = std::move(made.notes);
  log.warnings = std::move(made.warnings);
  return made.frame.colour.pixels().size();
}

}  // namespace

std::vector<FrameFailure> for_each_frame(
    const std::vector<double>& frames, FrameOrder order, bool keep_going,
    const std::function<std::size_t(std::size_t, const Execution&)>& work,
    const Execution& execution) {
  std::mutex mutex;
  std::vector<FrameFailure> failed;
  const auto one = [&](std::size_t i, const Execution& how) -> std::size_t {
    try {
      return work(i, how);
    } catch (const Cancelled&) {
      throw;
    } catch (const std::exception& e) {
      if (!keep_going) throw;
      const std::scoped_lock lock(mutex);
      failed.push_back({frames[i], std::current_exception(), e.what()});
      return 0;
    }
  };
  const auto n = static_cast<double>(frames.size());
  if (order == FrameOrder::one_by_one) {
    for (std::size_t i = 0; i < frames.size(); ++i) {
      const auto done = static_cast<double>(i);
      execution.tell(done / n);
      one(i, execution.part(done / n, (done + 1.0) / n));
    }
    return failed;
  }
  Execution within = execution;
  within.progress = {};
  std::size_t pixels = 0;
  std::atomic<std::size_t> done = 0;
  const auto and_tell = [&](std::size_t i) {
    const std::size_t size = one(i, within);
    execution.tell(static_cast<double>(++done) / n);
    return size;
  };
  std::size_t begun = 0;  // until one tells how large its picture is
  with_threads(execution.threads, [&] {
    while (begun < frames.size() && pixels == 0) pixels = and_tell(begun++);
  });
  constexpr double bytes_a_pixel = 45.0;  // read, changed and written; measured
  const double at_once = static_cast<double>(memory_limit()) /
                         (bytes_a_pixel * static_cast<double>(std::max<std::size_t>(pixels, 1)));
  with_threads(static_cast<int>(std::clamp<double>(at_once, 1.0, cores_of(execution))), [&] {
    parallel_for(begun, frames.size(), [&](std::size_t i) {
      // A thread that waits inside must not begin another frame: memory would grow with it.
      isolated([&] { and_tell(i); });
    });
  });
  std::sort(failed.begin(), failed.end(),
            [](const FrameFailure& a, const FrameFailure& b) { return a.frame < b.frame; });
  return failed;
}

FrameRun make_frames(const FrameWork& work, const FrameRunSettings& settings,
                     const LoadedShot& loaded, std::vector<std::string>& files,
                     const Execution& execution) {
  require_numbered(work.names);
  FrameRun out;
  out.frames = chosen_frames(settings.frames, loaded);
  if (!settings.keep_going) check_sequence(work.inputs, out.frames);
  FileHashes hashes;
  std::vector<FrameLog> logs(out.frames.size());
  out.failed = for_each_frame(
      out.frames, work.order, settings.keep_going,
      [&](std::size_t i, const Execution& how) {
        return make_one(work, settings.keep_made, loaded, out.frames[i], hashes, logs[i], how);
      },
      execution);
  for (const FrameLog& log : logs) {
    out.kept += log.kept ? 1U : 0U;
    out.remade += log.remade ? 1U : 0U;
    out.written.insert(out.written.end(), log.written.begin(), log.written.end());
    files.insert(files.end(), log.files.begin(), log.files.end());
    add_new(out.notes, log.notes);
    add_new(out.warnings, log.warnings);
  }
  return out;
}

}  // namespace jolly_iris
