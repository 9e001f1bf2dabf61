#include "jolly_iris/picture/warp.hpp"

#include <gtest/gtest.h>

#include <algorithm>
#include <cmath>
#include <limits>

#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/picture_files/picture_file.hpp"
#include "support.hpp"

namespace jolly_iris {
namespace warp_test {

using testing::demo;
using testing::holds;
using testing::message_of;
using testing::TempFolder;

VirtualCamera camera(const Distortion& distortion, PixelSize pixels = {960, 540}) {
  const Body body{.gate = {25.9_mm, 14.56875_mm}, .pixels = pixels};
  return resolve(body, {.focal = 18_mm, .distortion = distortion}, {.stop = f_number(4.0)}, 5_m);
}

// Whether something sharp runs near a pixel, or the picture ends: there, any filter loses
// something.
bool near_an_edge(const Picture& p, int x, int y) {
  constexpr int around = 5;
  if (std::min({x, y, p.width() - 1 - x, p.height() - 1 - y}) < 3) return true;
  for (std::size_t c = 0; c < 3; ++c) {
    float min = std::numeric_limits<float>::max();
    float max = 0.0F;
    for (int j = std::max(0, y - around); j <= std::min(p.height() - 1, y + around); ++j) {
      for (int i = std::max(0, x - around); i <= std::min(p.width() - 1, x + around); ++i) {
        min = std::min(min, p.at(i, j)[c]);
        max = std::max(max, p.at(i, j)[c]);
      }
    }
    if (max - min > 0.2F * (max + min) + 1e-3F) return true;
  }
  return false;
}

// One pixel of so many is looked at, both across and down.
const int step = testing::cases(1, 4);

// Shares of its value that each pixel away from edges has lost on the way there and back, sorted.
std::vector<double> losses(const Frame& plate, double k1) {
  const DistortionMap map(camera({.k = {k1, -0.1 * k1}}, plate.colour.size()));
  const Frame back = redistorted(undistorted(plate, map, map.margin()), map);
  EXPECT_EQ(back.colour.size(), plate.colour.size());
  std::vector<double> lost;
  for (int y = 0; y < plate.colour.height(); y += step) {
    for (int x = 0; x < plate.colour.width(); x += step) {
      if (near_an_edge(plate.colour, x, y)) continue;
      for (std::size_t c = 0; c < 3; ++c) {
        const double a = static_cast<double>(plate.colour.at(x, y)[c]);
        const double b = static_cast<double>(back.colour.at(x, y)[c]);
        lost.push_back(std::abs(a - b) / std::max(a, 0.02));
      }
    }
  }
  std::sort(lost.begin(), lost.end());
  return lost;
}

class ThereAndBack : public ::testing::TestWithParam<double> {};

TEST_P(ThereAndBack, NoPixelLosesHalfAPercentOutsideEdges) {
  Frame plate{Picture({960, 540}), {}};
  for (int y = 0; y < 540; ++y) {
    for (int x = 0; x < 960; ++x) {
      const double wave = 0.5 + 0.2 * std::sin(x / 8.0) * std::cos(y / 11.0);
      const bool disc = std::hypot(x % 160 - 80, y % 180 - 90) < 30.0;
      const auto v = static_cast<float>(disc ? 4.0 : wave);
      plate.colour.at(x, y) = {v, 0.5F * v, 0.25F * v, 1.0F};
    }
  }
  const auto lost = losses(plate, GetParam());
  EXPECT_GT(lost.size(), 500000U / static_cast<unsigned>(step * step));
  EXPECT_LT(lost.back(), 0.005);
}

TEST_P(ThereAndBack, TheRegattaLosesItsNoiseAtMost) {
  // Traced, so every pixel has noise of its own, which two filters soften.
  const auto lost = losses(read_picture(demo("pinhole.exr")), GetParam());
  EXPECT_GT(lost.size(), 500000U / static_cast<unsigned>(step * step));
  EXPECT_LT(lost[lost.size() / 2], 0.0002);
  EXPECT_LT(lost[lost.size() / 100 * 99], 0.005);
}

INSTANTIATE_TEST_SUITE_P(Lenses, ThereAndBack, ::testing::Values(0.05, -0.05));

TEST(Warp, DepthIsNeverAMeanOfTwoDistances) {
  Frame frame{Picture({8, 8}, {1, 1, 1, 1}), std::vector<float>(64, 2.0F)};
  for (std::size_t i = 0; i < 64; ++i) {
    if (i % 8 >= 4) frame.depth[i] = 40.0F;
  }
  const Frame moved = warp(frame, {8, 8}, [](const std::array<double, 2>& p) {
    return std::optional(std::array{p[0] + 0.37, p[1]});
  });
  for (const float z : moved.depth) EXPECT_TRUE(z == 2.0F || z == 40.0F) << z;
}

TEST(Warp, ALampThrowsNoDarkRing) {
  Frame frame{Picture({9, 9}, {0.5F, 0.5F, 0.5F, 1.0F}), {}};
  frame.colour.at(4, 4) = {5000.0F, 5000.0F, 5000.0F, 1.0F};
  const Frame moved = warp(frame, {9, 9}, [](const std::array<double, 2>& p) {
    return std::optional(std::array{p[0] + 0.3, p[1] - 0.2});
  });
  for (const Rgba& p : moved.colour.pixels()) EXPECT_GE(p[0], 0.5F);
}

TEST(Warp, WhatTheOldPictureDoesNotShowIsEmptyAndFar) {
  const Frame frame{Picture({4, 4}, {1, 1, 1, 1}), std::vector<float>(16, 3.0F)};
  const Frame wider = warp(frame, {8, 4}, [](const std::array<double, 2>& p) {
    return std::optional(std::array{p[0] - 4.0, p[1]});
  });
  EXPECT_EQ(wider.colour.at(0, 0), (Rgba{0, 0, 0, 0}));
  EXPECT_TRUE(std::isinf(wider.depth[0]));
  EXPECT_EQ(wider.colour.at(7, 0), (Rgba{1, 1, 1, 1}));
}

TEST(Warp, OtherShapesAreRefusedWithWhatWouldDo) {
  const DistortionMap map(camera({.k = {0.05}}));
  const Frame square{Picture({100, 100}), {}};
  EXPECT_TRUE(holds(message_of<PictureError>([&] { (void)undistorted(square, map, {}); }),
                    "the shot's plate is 960 x 540"));
  const std::string message = message_of<PictureError>([&] { (void)redistorted(square, map); });
  const Margin m = map.margin();
  EXPECT_TRUE(holds(
      message, std::to_string(960 + 2 * m.beside) + " x " + std::to_string(540 + 2 * m.above)));
}

TEST(Warp, SmallerPicturesOfTheSameShapeAreBentAlike) {
  const DistortionMap map(camera({.k = {0.05}}));
  const Frame half{Picture({480, 270}, {1, 1, 1, 1}), {}};
  EXPECT_EQ(redistorted(half, map).colour.size(), (PixelSize{480, 270}));
  const Margin m = map.margin();
  EXPECT_EQ(undistorted(half, map, m).colour.width(), (960 + 2 * m.beside) / 2);
}

TEST(PositionMap, SaysWhereEachPixelComesFrom) {
  const VirtualCamera c = camera({.k = {0.05}}, {96, 54});
  const DistortionMap map(c);
  const Margin m = map.margin();
  const PositionMap un = undistorting_map(map, m);
  ASSERT_EQ(un.size, (PixelSize{96 + 2 * m.beside, 54 + 2 * m.above}));
  const std::size_t at = static_cast<std::size_t>(20 * un.size.width + 30);
  const auto expected = map.distorted({30.5 - m.beside, 20.5 - m.above});
  EXPECT_NEAR(un.from[at][0], (*expected)[0], 1e-9);
  EXPECT_EQ(un.from[static_cast<std::size_t>(un.size.width / 2)], (std::array{-1.0, -1.0}))
      << "the middle of the upper margin: the plate shows nothing there";
  const PositionMap re = redistorting_map(map, m);
  EXPECT_EQ(re.source, un.size);
  for (const auto& from : re.from) EXPECT_GE(from[0], 0.0) << "the margin fills the frame";

  const TempFolder folder;
  write_position_map(folder / "map.exr", re);
  const Frame file = read_picture(folder / "map.exr");
  const Rgba first = file.colour.at(3, 2);
  const auto wanted = re.from[2 * 96 + 3];
  EXPECT_NEAR(first[0], wanted[0] / re.source.width, 1e-6) << "finer than half floats";
  EXPECT_NEAR(first[1], 1.0 - wanted[1] / re.source.height, 1e-6) << "counted from below";
  EXPECT_TRUE(holds(message_of<UsageError>([&] { write_position_map(folder / "map.png", re); }),
                    "as .exr"));
  EXPECT_FALSE(std::filesystem::exists(folder / "map.png"));
}

TEST(Shrunk, KeepsTheMean) {
  Picture p({7, 5});
  double sum = 0.0;
  for (std::size_t i = 0; i < p.pixels().size(); ++i) {
    p.pixels()[i] = {static_cast<float>(i), 0, 0, 1};
    sum += static_cast<double>(i);
  }
  const Picture small = shrunk(p, 3);
  EXPECT_EQ(small.size(), (PixelSize{3, 2}));
  double less = 0.0;
  for (const Rgba& v : small.pixels()) less += static_cast<double>(v[0]);
  EXPECT_NEAR(less / 6.0, sum / 35.0, 1e-4);
  EXPECT_EQ(shrunk(p, 20).size(), p.size());
  EXPECT_TRUE(holds(message_of<UsageError>([&] { (void)shrunk(p, 0); }), "0 px wide"));
}

TEST(PictureBytes, AreAFileWithoutADisk) {
  const Frame frame{Picture({4, 4}, {0.5F, 0.5F, 0.5F, 1.0F}), {}};
  EXPECT_EQ(picture_bytes(".jpg", frame).substr(0, 2), "\xFF\xD8");
  EXPECT_LT(picture_bytes(".jpg", frame, 10).size(), picture_bytes(".png", frame).size() + 10000);
  EXPECT_TRUE(holds(message_of<UsageError>([&] { (void)picture_bytes(".bmp", frame); }), ".png"));
}

}  // namespace warp_test
}  // namespace jolly_iris
