// Long work that somebody stops, and scenes that many threads pose at once.
#include <gtest/gtest.h>

#include <atomic>
#include <filesystem>
#include <thread>
#include <vector>

#include "jolly_iris/jolly_iris.hpp"
#include "support.hpp"

namespace jolly_iris {
namespace execution_test {

using testing::TempFolder;

std::string demo(const std::string& file) { return std::string(JOLLY_IRIS_DEMO) + "/" + file; }

LoadedShot shot(const std::string& file) {
  std::vector<std::string> files;
  return open_shot({.file = demo(file)}, files);
}

// Stops as soon as the work tells that it is a part of the way.
struct StopsAt {
  explicit StopsAt(double at) : limit(at) {}
  double limit;
  std::stop_source source{};
  std::atomic<double> farthest = 0.0;
  Execution execution() {
    return {.progress =
                [this](double done) {
                  if (done > farthest) farthest = done;
                  if (done >= limit) source.request_stop();
                },
            .stop = source.get_token()};
  }
};

std::size_t files_in(const std::filesystem::path& folder) {
  std::size_t n = 0;
  for (const auto& entry : std::filesystem::recursive_directory_iterator(folder)) {
    n += entry.is_regular_file() ? 1U : 0U;
  }
  return n;
}

TEST(Stopped, DefocusEndsBeforeItIsDone) {
  const LoadedShot loaded = shot("hero.shot.toml");
  const Frame sharp = read_picture(demo("pinhole.exr"));
  StopsAt stops(0.2);
  EXPECT_THROW((void)defocus(sharp, loaded.answer.camera, {.execution = stops.execution()}),
               Cancelled);
  EXPECT_LT(stops.farthest, 0.95);
}

TEST(Stopped, TraceEndsBeforeItIsDone) {
  const LoadedShot loaded = shot("hero.shot.toml");
  TraceSettings settings;
  settings.samples = 16;
  settings.size = PixelSize{320, 180};
  StopsAt stops(0.1);
  settings.execution = stops.execution();
  EXPECT_THROW((void)trace(*loaded.scene, loaded.answer.camera, loaded.answer.place, settings),
               Cancelled);
  EXPECT_LT(stops.farthest, 0.95);
}

TEST(Stopped, MeasuringAndMatchingEndBeforeTheyAreDone) {
  std::vector<std::string> files;
  StopsAt early(0.25);
  const LoadedShot loaded = shot("hero.shot.toml");
  EXPECT_THROW((void)measure_discs(loaded, {.execution = early.execution()}, files), Cancelled);
  StopsAt late(0.65);  // while hypotheses are tried
  CameraMatchRequest request;
  request.shots = {{.file = demo("notes.shot.toml")}};
  request.execution = late.execution();
  EXPECT_THROW((void)match_camera(request, files), Cancelled);
  EXPECT_GE(late.farthest, 0.6);
}

TEST(Stopped, FramesLeaveWholePicturesAndNothingElse) {
  const TempFolder folder;
  const LoadedShot loaded = shot("hero.shot.toml");
  TraceSettings settings;
  settings.samples = 1;
  settings.pinhole = true;
  settings.size = PixelSize{96, 54};
  const Frame sharp = trace(*loaded.scene, loaded.answer.camera, loaded.answer.place, settings);
  for (int i = 1; i <= 6; ++i)
    write_picture(folder / ("in.000" + std::to_string(i) + ".exr"), sharp);
  DefocusRequest request;
  request.pictures = {folder / ("in.####.exr")};
  const FrameRunSettings frames{.frames = {.asked = true, .spans = {{{1, 6}}}}};
  std::vector<std::string> files;
  StopsAt stops(0.5);
  EXPECT_THROW((void)defocus_frames(request, {folder / ("out.####.exr")}, frames, loaded, files,
                                    stops.execution()),
               Cancelled);
  const std::size_t made = files_in(folder.path()) - 6;
  EXPECT_GE(made, 2U);
  EXPECT_LT(made, 6U);
  for (std::size_t i = 1; i <= made; ++i) {
    EXPECT_EQ(read_picture(folder / ("out.000" + std::to_string(i) + ".exr")).colour.size(),
              sharp.colour.size());
  }
}

TEST(Stopped, BeforeItBeganDoesNothing) {
  std::stop_source stop;
  stop.request_stop();
  const LoadedShot loaded = shot("drift.shot.toml");
  EXPECT_THROW(
      (void)answers_at(loaded.shot, &*loaded.scene, {1001, 1002, 1003}, {.stop = stop.get_token()}),
      Cancelled);
}

TEST(Scenes, ArePosedAtDifferentFramesByEightThreadsAtOnce) {
  const LoadedShot loaded = shot("drift.shot.toml");
  const Scene& scene = *loaded.scene;
  std::vector<double> frames;
  for (double f = 1001; f <= 1097; f += 8) frames.push_back(f);
  const std::vector<Answer> alone = answers_at(loaded.shot, &scene, frames);
  std::atomic<int> wrong = 0;
  std::vector<std::thread> threads;
  for (int t = 0; t < 8; ++t) {
    threads.emplace_back([&, t] {
      for (std::size_t k = 0; k < frames.size(); ++k) {
        const std::size_t i = (k + 3U * static_cast<std::size_t>(t)) % frames.size();
        const Answer a = answer_at(loaded.shot, &scene, frames[i]);
        const bool same = a.camera.focus == alone[i].camera.focus && a.place == alone[i].place &&
                          a.subjects.size() == alone[i].subjects.size();
        wrong += same ? 0 : 1;
        for (std::size_t s = 0; same && s < a.subjects.size(); ++s) {
          wrong += a.subjects[s].axial == alone[i].subjects[s].axial ? 0 : 1;
        }
      }
    });
  }
  for (std::thread& thread : threads) thread.join();
  EXPECT_EQ(wrong, 0);
}

TEST(Scenes, CopiesShareTheirMeshesUntilOneChanges) {
  const LoadedShot loaded = shot("drift.shot.toml");
  Scene copy = *loaded.scene;
  EXPECT_EQ(copy.meshes.begin(), loaded.scene->meshes.begin());
  copy.meshes.edit().front().name = "another";
  EXPECT_NE(copy.meshes.begin(), loaded.scene->meshes.begin());
  EXPECT_NE(loaded.scene->meshes[0].name, "another");
}

}  // namespace execution_test
}  // namespace jolly_iris
