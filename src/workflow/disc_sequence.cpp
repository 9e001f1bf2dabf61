#include "jolly_iris/workflow/disc_sequence.hpp"

#include <fmt/format.h>

#include <algorithm>

#include "jolly_iris/workflow/disc_measurement.hpp"

namespace jolly_iris {

namespace {

struct MeasuredFrame {
  FrameDiscs discs{};
  PixelSize size{};
  std::vector<std::string> files{};
};

// Another size in the middle is another recording, or a slip of a name.
void tell_sizes(const std::vector<MeasuredFrame>& frames, std::vector<std::string>& notes) {
  for (std::size_t i = 1; i < frames.size(); ++i) {
    if (frames[i].size == frames[i - 1].size) continue;
    notes.push_back(fmt::format(
        "from frame {:g} on the plate is {} x {} px, before it is {} x {}: discs are compared in "
        "px, so what changes there is that",
        frames[i].discs.frame, frames[i].size.width, frames[i].size.height,
        frames[i - 1].size.width, frames[i - 1].size.height));
  }
}

// Where most discs end and others begin at once, and none goes on: another picture, most likely.
void tell_cuts(const DiscSequence& s, std::vector<std::string>& notes) {
  constexpr std::size_t enough = 4;
  for (std::size_t i = 1; i < s.frames.size(); ++i) {
    std::size_t before = 0;
    std::size_t after = 0;
    std::size_t through = 0;
    for (const DiscTrack& t : s.tracks) {
      const std::size_t first = t.seen.front().frame;
      const std::size_t last = t.seen.back().frame;
      before += last + 1 == i ? 1U : 0U;
      after += first == i ? 1U : 0U;
      through += first < i && last >= i ? 1U : 0U;
    }
    if (through > 0 || before < enough || after < enough) continue;
    notes.push_back(fmt::format(
        "at frame {:g} all discs end and others begin: a cut, most likely; measure what lies on "
        "each side of it by itself",
        s.frames[i].frame));
  }
}

// How edges and the iris look in this sequence, from up to five of its frames, the same for any
// part of them: the first that shows enough discs, else the one that shows most.
std::shared_ptr<const PlateLook> look_of_sequence(const LoadedShot& loaded, DiscSearch search,
                                                  FrameRequest frames, const Execution& execution) {
  constexpr std::size_t enough = 8;
  frames.part = {};
  const std::vector<double> all = chosen_frames(frames, loaded);
  // A look at single frames is cheaper than to look for what they have in common.
  if (all.size() < 8) return nullptr;
  std::shared_ptr<const PlateLook> best;
  std::size_t most = 0;
  for (const double share : {0.5, 0.25, 0.75, 0.0, 1.0}) {
    const double frame = all[static_cast<std::size_t>(share * static_cast<double>(all.size() - 1))];
    search.execution = {execution.threads, {}, execution.stop};
    try {
      std::vector<std::string> files;
      const DiscMeasurement one = measure_discs(at_frame(loaded, frame), search, files);
      if (!one.found.look || one.found.discs.size() <= most) continue;
      best = one.found.look;
      most = one.found.discs.size();
    } catch (const Cancelled&) {
      throw;
    } catch (const Error&) {
      continue;  // a frame that fails is told of where it is measured
    }
    if (most >= enough) break;
  }
  return best;
}

}  // namespace

DiscSequence measure_disc_frames(const LoadedShot& loaded, const DiscSearch& search,
                                 const FrameRunSettings& settings, std::vector<std::string>& files,
                                 const Execution& execution) {
  const std::string plates = sequence_of_plate(loaded, "to find discs in");
  const std::vector<double> chosen = chosen_frames(settings.frames, loaded);
  if (!settings.keep_going) check_sequence({plates}, chosen);
  std::vector<MeasuredFrame> all(chosen.size());
  DiscSearch alike = search;
  alike.look = look_of_sequence(loaded, search, settings.frames, execution);
  DiscSequence out;
  out.failed = for_each_frame(
      chosen, FrameOrder::side_by_side, settings.keep_going,
      [&](std::size_t i, const Execution& how) {
        DiscSearch one = alike;
        one.execution = how;
        DiscMeasurement measured = measure_discs(at_frame(loaded, chosen[i]), one, all[i].files);
        all[i].discs = {chosen[i], std::move(measured.found.discs)};
        all[i].size = measured.plate.colour.size();
        return measured.plate.colour.pixels().size();
      },
      execution.part(0.05, 1.0));
  std::erase_if(all, [&](const MeasuredFrame& f) { return f.size == PixelSize{}; });
  tell_sizes(all, out.notes);
  for (MeasuredFrame& f : all) {
    files.insert(files.end(), f.files.begin(), f.files.end());
    out.empty += f.discs.discs.empty() ? 1U : 0U;
    out.frames.push_back(std::move(f.discs));
    out.sizes.push_back(f.size);
  }
  out.tracks = follow_discs(out.frames);
  tell_cuts(out, out.notes);
  return out;
}

}  // namespace jolly_iris
