// A picture that follows the hand: the same as defocus makes, and nothing made twice.
#include "jolly_iris/workflow/preview.hpp"

#include <gtest/gtest.h>

#include <algorithm>
#include <atomic>
#include <thread>

#include "jolly_iris/jolly_iris.hpp"
#include "support.hpp"

namespace jolly_iris {
namespace preview_test {

using testing::demo;
using testing::holds;
using testing::message_of;

// The regatta at a third of its size: all kinds of blur, and lamps.
const Frame& small_regatta() {
  static const Frame frame = reduced(read_picture(demo("pinhole.exr")), {320, 180});
  return frame;
}

VirtualCamera hero(const std::vector<Override>& tried = {}) {
  std::vector<std::string> files;
  return open_shot({.file = demo("hero.shot.toml"), .overrides = tried}, files).answer.camera;
}

std::vector<DefocusLayer> one(Frame frame) {
  std::vector<DefocusLayer> layers;
  layers.push_back({std::move(frame), false});
  return layers;
}

// |a − b| ≤ 1e-3 (|b| + median of b) everywhere.
void expect_same(const Picture& a, const Picture& b) {
  ASSERT_EQ(a.size(), b.size());
  std::vector<float> all;
  for (const Rgba& p : b.pixels()) all.insert(all.end(), p.begin(), p.begin() + 3);
  std::nth_element(all.begin(), all.begin() + static_cast<std::ptrdiff_t>(all.size() / 2),
                   all.end());
  const float median = all[all.size() / 2];
  for (std::size_t i = 0; i < b.pixels().size(); ++i) {
    for (std::size_t c = 0; c < 4; ++c) {
      const float bound = 1e-3F * (std::abs(b.pixels()[i][c]) + median);
      ASSERT_LE(std::abs(a.pixels()[i][c] - b.pixels()[i][c]), bound) << i << " channel " << c;
    }
  }
}

TEST(Preview, IsWhatDefocusMakesAfterEveryTurn) {
  Preview preview(one(small_regatta()));
  for (const std::vector<Override>& tried : std::vector<std::vector<Override>>{
           {},
           {{"take.stop", "f/1.8"}},
           {{"focus.at", "3.7 m"}},
           {{"focus.at", "infinity"}},
           {{"take.stop", "f/8"}, {"focus.on", "boat"}},
           {{"lens.iris.blades", "3"}, {"lens.iris.blade_radius", "straight"}},
           {{"lens.iris.rim", "1.5"}},
           {{"lens.faults.focus_red", "0.03 dpt"}},
           {{"lens.squeeze", "2"}},
           {}}) {
    const VirtualCamera camera = hero(tried);
    expect_same(*preview.at(camera, preview.size()), defocus(small_regatta(), camera));
  }
}

TEST(Preview, IsWhatDefocusMakesThroughABarrelThatCuts) {
  std::vector<std::string> files;
  Preview preview(one(small_regatta()));
  for (const char* focus : {"2.35 m", "5 m", "2.35 m"}) {
    const VirtualCamera camera =
        open_shot({.file = demo("oval.shot.toml"), .overrides = {{"focus.at", focus}}}, files)
            .answer.camera;
    expect_same(*preview.at(camera, preview.size()), defocus(small_regatta(), camera));
  }
}

TEST(Preview, MakesNothingTwice) {
  Preview preview(one(small_regatta()));
  EXPECT_EQ(preview.counts().prepared, 1U);
  (void)preview.at(hero(), preview.size());
  const std::size_t first = preview.counts().discs_made;
  EXPECT_GT(first, 100U);
  // Half a turn of the ring and back: the same discs, but those of lamps.
  (void)preview.at(hero({{"focus.at", "2.4 m"}}), preview.size());
  (void)preview.at(hero({{"take.stop", "f/2.5"}}), preview.size());
  const PreviewCounts turned = preview.counts();
  EXPECT_EQ(turned.prepared, 1U);
  EXPECT_EQ(turned.blurred, 3U);
  EXPECT_GT(turned.discs_reused, turned.discs_made - first);
  // Another size is made ready once.
  (void)preview.at(hero(), {160, 90});
  (void)preview.at(hero({{"focus.at", "2.4 m"}}), {160, 90});
  EXPECT_EQ(preview.counts().prepared, 2U);
  // The same again, and the same in other light, is there.
  const PreviewCounts before = preview.counts();
  (void)preview.at(hero({{"focus.at", "2.4 m"}}), {160, 90});
  PreviewView brighter{hero(), preview.size()};
  brighter.light = {2.0, {1.0, 1.0, 0.5}};
  (void)preview.at(brighter);
  EXPECT_EQ(preview.counts().blurred, before.blurred);
  EXPECT_EQ(preview.counts().kept, before.kept + 2);
}

TEST(Preview, LightIsAFactorBehindTheLens) {
  Preview preview(one(small_regatta()));
  const Picture plain = *preview.at(hero(), {160, 90});
  PreviewView view{hero(), {160, 90}};
  view.light = {4.0, {1.0, 0.5, 0.25}};
  const Picture lit = *preview.at(view);
  for (std::size_t i = 0; i < plain.pixels().size(); ++i) {
    ASSERT_FLOAT_EQ(lit.pixels()[i][0], 4.0F * plain.pixels()[i][0]);
    ASSERT_FLOAT_EQ(lit.pixels()[i][1], 2.0F * plain.pixels()[i][1]);
    ASSERT_FLOAT_EQ(lit.pixels()[i][2], plain.pixels()[i][2]);
    ASSERT_FLOAT_EQ(lit.pixels()[i][3], plain.pixels()[i][3]);
  }
}

TEST(Preview, APartIsThatPartOfTheWhole) {
  Preview preview(one(small_regatta()));
  const Picture whole = *preview.at(hero(), preview.size());
  PreviewView view{hero(), preview.size()};
  view.box = Box{180, 90, 60, 40};
  const Picture part = *preview.at(view);
  ASSERT_EQ(part.size(), (PixelSize{60, 40}));
  // Filling of what was hidden looks at what is around, which a part has less of.
  EXPECT_GT(psnr(part, crop({whole, {}}, *view.box).colour), 45.0);
}

TEST(Preview, AFlatPictureIsAtItsDistance) {
  Frame flat{small_regatta().colour, {}, {}};
  Preview preview(one(flat));
  PreviewView view{hero(), preview.size()};
  view.distances = {Length::from_m(10.0)};
  expect_same(*preview.at(view), defocus(flat, hero(), {.distance = Length::from_m(10.0)}));
  EXPECT_THROW((void)preview.at(hero(), preview.size()), NoDepthError);
}

TEST(Preview, LayersAreThoseOfDefocusLayers) {
  Frame front{Picture({320, 180}), {}, {}};
  for (int y = 60; y < 120; ++y) {
    for (int x = 100; x < 200; ++x) front.colour.at(x, y) = {0.8F, 0.2F, 0.1F, 1.0F};
  }
  front.depth.assign(front.colour.pixels().size(), 1.2F);
  std::vector<DefocusLayer> layers;
  layers.push_back({front, false});
  layers.push_back({small_regatta(), false});
  const Picture truth = defocus_layers(layers, hero());
  Preview preview(std::move(layers));
  expect_same(*preview.at(hero(), preview.size()), truth);
  EXPECT_EQ(preview.counts().prepared, 2U);
}

TEST(Preview, WhatIsAskedForNextEndsWhatIsUnderWay) {
  Preview preview(one(read_picture(demo("pinhole.exr"))));
  (void)preview.at(hero(), {96, 54});
  std::atomic<bool> begun{false};
  std::atomic<int> cancelled{0};
  std::thread old([&] {
    const Execution slow{.threads = 1, .progress = [&](double) { begun = true; }};
    try {
      (void)preview.at({hero({{"take.stop", "f/1.8"}}), preview.size()}, slow);
    } catch (const Cancelled&) {
      ++cancelled;
    }
  });
  while (!begun) std::this_thread::yield();
  const Picture next = *preview.at(hero({{"take.stop", "f/4"}}), {96, 54});
  old.join();
  EXPECT_EQ(cancelled, 1);
  expect_same(next, *preview.at(hero({{"take.stop", "f/4"}}), {96, 54}));
}

TEST(Preview, RefusesWhatCannotBe) {
  Preview preview(one(small_regatta()));
  EXPECT_TRUE(holds(message_of<UsageError>([&] {
                      (void)preview.at(hero(), {640, 360});
                    }),
                    "is no smaller size of the picture, which is 320 x 180"));
  EXPECT_THROW((void)preview.at(hero(), {160, 160}), UsageError);
  EXPECT_THROW(Preview({}), PictureError);
  Frame bad = small_regatta();
  bad.colour.at(3, 2)[1] = std::numeric_limits<float>::quiet_NaN();
  EXPECT_TRUE(holds(message_of<PictureError>([&] { (void)Preview(one(bad)); }), "at pixel 3, 2"));
  bad = small_regatta();
  bad.depth[5] = std::numeric_limits<float>::quiet_NaN();
  Preview broken(one(bad));
  EXPECT_THROW((void)broken.at(hero(), broken.size()), PictureError);
  EXPECT_THROW((void)broken.at(hero(), {160, 90}), PictureError);
}

TEST(Reduced, HalfIsTheHalf) {
  const Frame& frame = small_regatta();
  const Frame a = reduced(frame, {160, 90});
  const Frame b = half_of(frame);
  for (std::size_t i = 0; i < b.depth.size(); ++i) {
    ASSERT_EQ(a.depth[i], b.depth[i]);
    for (std::size_t c = 0; c < 4; ++c) {
      ASSERT_NEAR(a.colour.pixels()[i][c], b.colour.pixels()[i][c],
                  1e-5F * (1.0F + std::abs(b.colour.pixels()[i][c])));
    }
  }
}

TEST(Reduced, NoLightIsLost) {
  const Frame& frame = small_regatta();
  const auto mean = [](const Picture& p) {
    double sum = 0.0;
    for (const Rgba& v : p.pixels()) sum += static_cast<double>(v[1]);
    return sum / static_cast<double>(p.pixels().size());
  };
  for (const PixelSize size : {PixelSize{320, 180}, {213, 120}, {100, 77}, {1, 1}}) {
    EXPECT_NEAR(mean(reduced(frame, size).colour) / mean(frame.colour), 1.0, 1e-5);
  }
  EXPECT_THROW((void)reduced(frame, {321, 180}), UsageError);
}

}  // namespace preview_test
}  // namespace jolly_iris
