#include "jolly_iris/workflow/comparison_frames.hpp"

#include <algorithm>
#include <cmath>

namespace jolly_iris {

namespace {

ComparedFrame told_of(const PlateComparison& c, double frame) {
  const ImageComparison& like = c.likes.front();
  ComparedFrame out;
  out.frame = frame;
  out.psnr_db = like.psnr_db;
  out.psnr_lit_db = like.psnr_lit_db;
  out.disc_pairs = like.discs.size();
  out.larger = like.larger;
  out.same_view = like.same_view;
  if (!like.light.contradict && like.same_view) {
    out.stops = like.light.stops;
    out.blue_stops = std::log2(like.light.gains[2] / like.light.gains[0]);
  }
  const std::vector<Suggestion> todo = advice(c, 0);
  if (!todo.empty()) out.advice = todo.front().message;
  return out;
}

}  // namespace

ComparedFrames compare_frames(const LoadedShot& loaded, const ComparisonRequest& request,
                              const FrameRunSettings& settings, std::vector<std::string>& files) {
  const std::string plates = sequence_of_plate(loaded, "to compare with");
  require_numbered(request.pictures);
  const std::vector<double> chosen = chosen_frames(settings.frames, loaded);
  if (!settings.keep_going) {
    check_sequence({plates}, chosen);
    check_sequence(request.pictures, chosen);
  }
  struct One {
    ComparedFrame told{};
    std::vector<std::string> files{};
  };
  std::vector<One> all(chosen.size());
  ComparedFrames out;
  out.failed = for_each_frame(
      chosen, FrameOrder::side_by_side, settings.keep_going,
      [&](std::size_t i, const Execution& how) {
        ComparisonRequest one = request;
        one.pictures = numbered(request.pictures, chosen[i]);
        one.finish = false;
        one.execution = how;
        const PlateComparison c = compare_pictures(at_frame(loaded, chosen[i]), one, all[i].files);
        all[i].told = told_of(c, chosen[i]);
        return c.picture.pixels().size();
      },
      request.execution);
  for (std::size_t i = 0; i < all.size(); ++i) {
    files.insert(files.end(), all[i].files.begin(), all[i].files.end());
    const bool failed = std::any_of(out.failed.begin(), out.failed.end(),
                                    [&](const FrameFailure& f) { return f.frame == chosen[i]; });
    if (!failed) out.frames.push_back(std::move(all[i].told));
  }
  return out;
}

}  // namespace jolly_iris
