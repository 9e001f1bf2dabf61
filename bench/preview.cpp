// How quick a picture follows the hand: drafts and whole pictures a second, a changed picture
// against a fresh defocus, one that is only brighter, and drafts of a picture four times as wide.
//
//   preview SHOT PICTURE       prints medians of its own run; ratios are within it, of turns that
//                              follow each other, since machines are not equally quick all the time
#include <fmt/format.h>
#include <sys/resource.h>

#include <algorithm>
#include <chrono>
#include <iostream>
#include <vector>

#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/picture/depth_map.hpp"
#include "jolly_iris/picture_files/picture_file.hpp"
#include "jolly_iris/workflow/live_shot.hpp"
#include "jolly_iris/workflow/preview.hpp"

namespace {

using namespace jolly_iris;

template <class Work>
double seconds_of(const Work& work) {
  const auto begin = std::chrono::steady_clock::now();
  work();
  return std::chrono::duration<double>(std::chrono::steady_clock::now() - begin).count();
}

double median(std::vector<double> v) {
  std::sort(v.begin(), v.end());
  return v[v.size() / 2];
}

Frame enlarged(const Frame& frame, int times) {
  const PixelSize size{frame.colour.width() * times, frame.colour.height() * times};
  Frame out{Picture(size), {}, {}};
  for (int y = 0; y < size.height; ++y) {
    for (int x = 0; x < size.width; ++x) {
      out.colour.at(x, y) = frame.colour.at(x / times, y / times);
      out.depth.push_back(frame.depth[static_cast<std::size_t>(y / times) *
                                          static_cast<std::size_t>(frame.colour.width()) +
                                      static_cast<std::size_t>(x / times)]);
    }
  }
  return out;
}

Preview preview_of(Frame frame) {
  std::vector<DefocusLayer> layers;
  layers.push_back({.frame = std::move(frame)});
  return Preview(std::move(layers));
}

}  // namespace

int main(int argc, char** argv) {
  if (argc != 3) {
    std::cerr << "usage: preview SHOT PICTURE\n";
    return 2;
  }
  constexpr int turns = 11;   // machines drift for seconds at a time
  constexpr int rounds = 15;  // each: a drag of the hand
  LiveShot shot({.file = argv[1]});
  shot.change({{"take.stop", "f/1.4"}, {"lens.widest", "f/1.4"}});
  const VirtualCamera camera = shot.loaded().answer.camera;
  std::vector<VirtualCamera> by_focus;
  std::vector<VirtualCamera> by_stop;
  for (int i = 0; i < rounds; ++i) {
    shot.change({{"focus.at", fmt::format("{} m", 2.35 + 0.005 * (i + 1))}});
    by_focus.push_back(shot.loaded().answer.camera);
    shot.undo();
    shot.change({{"take.stop", fmt::format("f/{}", 1.41 + 0.005 * i)}});
    by_stop.push_back(shot.loaded().answer.camera);
    shot.undo();
  }
  const Frame frame = reduced(read_picture(argv[2]), {960, 540});
  const PixelSize whole = frame.colour.size();
  const PixelSize draft = draft_size(whole, 480, 270);
  const auto sweep = [](Preview& of, const std::vector<VirtualCamera>& cameras, PixelSize size) {
    std::vector<double> took;
    for (const VirtualCamera& c : cameras)
      took.push_back(seconds_of([&] { (void)of.at(c, size); }));
    return median(took);
  };
  std::vector<double> drafts_took;
  std::vector<double> focus_took;
  std::vector<double> focus_ratio;
  std::vector<double> stop_ratio;
  std::vector<double> light_ratio;
  for (int turn = 0; turn < turns; ++turn) {
    // Without a preview, which also keeps memory that others would use.
    std::vector<double> fresh;
    for (const VirtualCamera& c : by_focus) {
      fresh.push_back(seconds_of([&] { (void)defocus(frame, c); }));
    }
    Preview preview = preview_of(frame);
    (void)preview.at(camera, draft);
    (void)preview.at(camera, whole);
    drafts_took.push_back(sweep(preview, by_focus, draft));
    focus_took.push_back(sweep(preview, by_focus, whole));
    focus_ratio.push_back(focus_took.back() / median(fresh));
    stop_ratio.push_back(sweep(preview, by_stop, whole) / median(fresh));
    std::vector<double> light;
    for (int i = 0; i < rounds; ++i) {
      PreviewView brighter{by_stop.back(), whole};
      brighter.light = {1.1 + 0.01 * i, {1.2, 1.0, 0.9}};
      light.push_back(seconds_of([&] { (void)preview.at(brighter); }));
    }
    light_ratio.push_back(median(light) / median(fresh));
  }
  const double drafts = median(drafts_took);
  fmt::print("{} x {} px, f/1.4\n", whole.width, whole.height);
  fmt::print("drafts {} x {}        {:6.1f} a second\n", draft.width, draft.height, 1.0 / drafts);
  fmt::print("whole pictures        {:6.1f} a second\n", 1.0 / median(focus_took));
  fmt::print("changed focus / fresh {:6.2f}\n", median(focus_ratio));
  fmt::print("changed stop / fresh  {:6.2f}\n", median(stop_ratio));
  fmt::print("changed light / fresh {:6.3f}\n", median(light_ratio));
  Preview large = preview_of(enlarged(frame, 4));
  (void)large.at(camera, draft);
  fmt::print("drafts of {} x {} / of {} x {}  {:.2f}\n", large.size().width, large.size().height,
             whole.width, whole.height, sweep(large, by_focus, draft) / drafts);
  (void)large.at(camera, large.size());
  rusage usage{};
  ::getrusage(RUSAGE_SELF, &usage);
  fmt::print("largest memory        {:6.2f} GB\n", static_cast<double>(usage.ru_maxrss) / 1e6);
}
