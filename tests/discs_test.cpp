#include "jolly_iris/measure/discs.hpp"

#include <gtest/gtest.h>

#include <cmath>
#include <numbers>
#include <random>
#include <sstream>

#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/optics/sharpness.hpp"
#include "jolly_iris/picture/bokeh.hpp"
#include "jolly_iris/picture_files/picture_file.hpp"
#include "support.hpp"

namespace jolly_iris {
namespace discs_test {

using testing::holds;
using testing::message_of;

VirtualCamera camera_with(const Iris& iris, double squeeze = 1.0) {
  Lens lens{.focal = 85_mm, .squeeze = squeeze, .iris = iris};
  const Body body{.gate = {25.9_mm, 14.56875_mm}, .pixels = {960, 540}};
  return resolve(body, lens, {.stop = f_number(1.8)}, 1.2_m);
}

struct Drawn {
  std::array<double, 2> at{};
  double height = 0.0;
  bool in_front = false;
  std::array<double, 2> colour{1.0, 1.0};  // green and blue against red
};

// Discs drawn by the renderer's exact areas on a sloping, noisy ground.
class Plate {
 public:
  Plate(const VirtualCamera& camera, double noise)
      : camera_(camera), picture_({640, 360}, {0, 0, 0, 1}) {
    std::mt19937 random(5);
    std::normal_distribution<float> normal(0.0F, static_cast<float>(noise));
    for (int y = 0; y < 360; ++y) {
      for (int x = 0; x < 640; ++x) {
        const float ground = 0.03F + 0.04F * static_cast<float>(x) / 640.0F +
                             0.02F * std::sin(0.05F * static_cast<float>(x + 2 * y));
        for (std::size_t c = 0; c < 3; ++c) picture_.at(x, y)[c] = ground + normal(random);
      }
    }
  }

  // A lamp whose disc is about so high, signed; its middle is a pixel's middle.
  void lamp(int x, int y, double height, double value) {
    const double strength =
        2.0 * camera_.aperture_radius.m() * camera_.focal.m() / camera_.pixel_pitch().m();
    const double inverse = 1.0 / camera_.focus.m() - height / strength;
    ASSERT_GE(inverse, 0.0);
    const FramePlace place{(x + 0.5 - 320.0) / 320.0, (180.0 - y - 0.5) / 180.0};
    const BokehDisc d = bokeh_disc(camera_, camera_.vignetting.empty() ? FramePlace{} : place,
                                   Length::from_m(1.0 / inverse));
    const int half = d.picture.width() / 2;
    for (int j = 0; j < d.picture.height(); ++j) {
      for (int i = 0; i < d.picture.width(); ++i) {
        const int u = x + i - half;
        const int v = y + j - half;
        if (u < 0 || v < 0 || u >= 640 || v >= 360) continue;
        for (std::size_t c = 0; c < 3; ++c) {
          picture_.at(u, v)[c] += static_cast<float>(value) * d.picture.at(i, j)[c];
        }
      }
    }
    drawn_.push_back({{x + 0.5, y + 0.5}, std::abs(d.coc_px), d.coc_px < 0.0, {1.0, 1.0}});
  }
  // The same for a warm lamp: its green and blue are these shares of the red.
  void warm_lamp(int x, int y, double height, double value, double green, double blue) {
    const Picture before = picture_;
    lamp(x, y, height, value);
    for (int v = 0; v < 360; ++v) {
      for (int u = 0; u < 640; ++u) {
        const Rgba& old = before.at(u, v);
        Rgba& now = picture_.at(u, v);
        now[1] = old[1] + static_cast<float>(green) * (now[1] - old[1]);
        now[2] = old[2] + static_cast<float>(blue) * (now[2] - old[2]);
      }
    }
    drawn_.back().colour = {green, blue};
  }
  // As a camera's JPEG has it: eight bits, clipped, colours coarser than luma.
  void through_jpeg() {
    const testing::TempFolder folder;
    const std::string file = folder / "plate.jpg";
    write_picture(file, {picture_, {}});
    picture_ = read_picture(file).colour;
  }
  // A wall of even patches behind everything, at two scales, not quite in focus: each pixel is the
  // mean of its surroundings, three times over.
  void wall() {
    std::mt19937 random(11);
    std::uniform_real_distribution<float> tone(0.05F, 0.16F);
    std::vector<float> tones(40 * 40);
    for (float& t : tones) t = tone(random);
    std::vector<float> now(640 * 360);
    const auto at = [](int x, int y) { return static_cast<std::size_t>(y * 640 + x); };
    for (int y = 0; y < 360; ++y) {
      for (int x = 0; x < 640; ++x) {
        const auto near = static_cast<std::size_t>(y / 22 * 40 + x / 22);
        const auto far = static_cast<std::size_t>(y / 88 * 40 + x / 88);
        now[at(x, y)] = 0.6F * tones[near] + 0.4F * tones[far];
      }
    }
    for (int round = 0; round < 3; ++round) {
      std::vector<float> next = now;
      for (int y = 2; y < 358; ++y) {
        for (int x = 2; x < 638; ++x) {
          float sum = 0.0F;
          for (int v = -2; v <= 2; ++v) {
            for (int u = -2; u <= 2; ++u) sum += now[at(x + u, y + v)];
          }
          next[at(x, y)] = sum / 25.0F;
        }
      }
      now = next;
    }
    for (int y = 0; y < 360; ++y) {
      for (int x = 0; x < 640; ++x) {
        for (std::size_t c = 0; c < 3; ++c) picture_.at(x, y)[c] += now[at(x, y)];
      }
    }
  }
  void clip() {
    for (Rgba& p : picture_.pixels()) {
      for (std::size_t c = 0; c < 3; ++c) p[c] = std::min(p[c], 1.0F);
    }
  }
  const Picture& picture() const { return picture_; }
  const std::vector<Drawn>& drawn() const { return drawn_; }

 private:
  VirtualCamera camera_;
  Picture picture_;
  std::vector<Drawn> drawn_{};
};

void eight_lamps(Plate& plate) {
  plate.lamp(80, 80, 40.0, 0.9);
  plate.lamp(200, 70, 24.0, 0.5);
  plate.lamp(330, 90, 56.0, 0.7);
  plate.lamp(360, 120, 30.0, 0.6);  // over the last
  plate.lamp(520, 90, 18.0, 0.8);
  plate.lamp(120, 250, 33.0, 0.4);
  plate.lamp(300, 260, 13.0, 0.7);
  plate.lamp(480, 250, 64.0, 0.6);
}

// What was found, for those who read a failure.
std::string message(const FoundDiscs& found) {
  std::ostringstream out;
  for (const PlateDisc& d : found.discs) {
    out << "\n  disc at " << d.at[0] << ", " << d.at[1] << ": " << d.height_px.value << " x "
        << d.width_px.value << " ± " << d.height_px.margin << ", off " << d.residual << ", cut "
        << d.cut << ", soft " << d.edge_sigma_px;
  }
  for (const RejectedDisc& r : found.rejected) {
    out << "\n  refused at " << r.at[0] << ", " << r.at[1] << ": " << r.diameter_px << ", "
        << r.why;
  }
  return out.str();
}

const PlateDisc* found_at(const FoundDiscs& found, const std::array<double, 2>& at) {
  for (const PlateDisc& d : found.discs) {
    if (std::hypot(d.at[0] - at[0], d.at[1] - at[1]) < 2.0) return &d;
  }
  return nullptr;
}

void expect_all(const FoundDiscs& found, const Plate& plate) {
  EXPECT_EQ(found.discs.size(), plate.drawn().size()) << message(found);
  EXPECT_FALSE(found.vignetting.known);
  for (const Drawn& d : plate.drawn()) {
    const PlateDisc* f = found_at(found, d.at);
    ASSERT_NE(f, nullptr) << d.at[0] << ", " << d.at[1];
    EXPECT_NEAR(f->height_px.value, d.height, 0.007 * d.height + 0.15) << message(found);
  }
}

class PlateIrises : public ::testing::TestWithParam<std::tuple<int, double>> {};

TEST_P(PlateIrises, AreFoundWithTheirDiscs) {
  const auto [blades, times] = GetParam();
  const Iris iris{
      .blades = blades,
      .rotation = 7_deg,
      .blade_radius = times == 0.0 ? BladeRadius::straight() : BladeRadius::multiple(times)};
  Plate plate(camera_with(iris), 0.012);
  eight_lamps(plate);
  const FoundDiscs found = discs_in_plate(plate.picture());
  expect_all(found, plate);
  EXPECT_TRUE(found.iris.sure());
  EXPECT_EQ(found.iris.blades, blades);
  if (blades == 0) return;
  const double turn = 360.0 / blades;
  double off = found.iris.rotation_deg.value - 7.0;
  off -= turn * std::round(off / turn);
  EXPECT_NEAR(off, 0.0, 1.5);
  EXPECT_NEAR(found.iris.curvature.value, times == 0.0 ? 0.0 : 1.0 / times, 0.06);
}

INSTANTIATE_TEST_SUITE_P(All, PlateIrises,
                         ::testing::Values(std::tuple{0, 1.0}, std::tuple{5, 1.7},
                                           std::tuple{6, 0.0}, std::tuple{7, 2.2},
                                           std::tuple{8, 1.7}, std::tuple{9, 2.0},
                                           std::tuple{11, 2.5}));

TEST(PlateDiscs, OfASqueezedLensAreAsHighAsWideTimesTheSqueeze) {
  const Iris iris{.blades = 9, .blade_radius = BladeRadius::multiple(1.8)};
  Plate plate(camera_with(iris, 1.8), 0.01);
  eight_lamps(plate);
  const FoundDiscs found = discs_in_plate(plate.picture());
  EXPECT_NEAR(found.iris.height_over_width.value, 1.8, 0.007 * 1.8);
  EXPECT_GE(found.discs.size(), 7U);
}

// Patches are seen as round discs, and well; neither squeeze nor iris are theirs.
TEST(PlateDiscs, OfASqueezedLensAreFoundBeforeAWallOfPatches) {
  const Iris iris{.blades = 5, .blade_radius = BladeRadius::multiple(2.0)};
  Plate plate(camera_with(iris, 1.8), 0.004);
  plate.wall();
  plate.lamp(80, 80, 40.0, 0.9);
  plate.lamp(330, 90, 56.0, 0.7);
  plate.lamp(480, 250, 64.0, 0.6);
  plate.lamp(250, 270, 24.0, 0.8);
  plate.lamp(560, 60, 14.0, 0.9);
  plate.lamp(150, 220, 13.0, 0.8);
  plate.lamp(400, 310, 14.0, 0.7);
  const FoundDiscs found = discs_in_plate(plate.picture());
  expect_all(found, plate);
  EXPECT_EQ(found.iris.blades, 5) << message(found);
  EXPECT_NEAR(found.iris.curvature.value, 0.5, 0.06);
  EXPECT_NEAR(found.iris.height_over_width.value, 1.8, 0.007 * 1.8);
}

TEST(PlateDiscs, InFrontOfTheFocusAreTurned) {
  const Iris iris{.blades = 5, .blade_radius = BladeRadius::multiple(2.5)};
  Plate plate(camera_with(iris), 0.008);
  eight_lamps(plate);
  plate.lamp(590, 200, -44.0, 0.6);
  const FoundDiscs found = discs_in_plate(plate.picture());
  for (std::size_t i = 0; i < plate.drawn().size(); ++i) {
    const PlateDisc* f = found_at(found, plate.drawn()[i].at);
    ASSERT_NE(f, nullptr);
    if (f->height_px.value < 30.0) continue;
    EXPECT_EQ(f->facing, i == 8 ? Facing::turned : Facing::upright) << i;
  }
}

TEST(PlateDiscs, ThatAreClippedSayTheirMargin) {
  Plate plate(camera_with({}), 0.005);
  plate.lamp(100, 100, 40.0, 2.5);
  plate.lamp(300, 100, 40.0, 0.5);
  plate.lamp(500, 200, 30.0, 3.5);
  plate.clip();
  const FoundDiscs found = discs_in_plate(plate.picture());
  ASSERT_EQ(found.discs.size(), 3U) << message(found);
  for (const Drawn& d : plate.drawn()) {
    const PlateDisc* f = found_at(found, d.at);
    ASSERT_NE(f, nullptr);
    EXPECT_EQ(f->clipped, d.at[0] != 300.5);
    EXPECT_NEAR(f->height_px.value, d.height, f->height_px.margin + 0.1);
  }
}

TEST(PlateDiscs, OfWarmLampsInAClippedJpegAreAsLargeAsTheyAre) {
  const Iris iris{.blades = 9, .blade_radius = BladeRadius::multiple(2.0)};
  Plate plate(camera_with(iris), 0.006);
  plate.warm_lamp(80, 80, 40.0, 1.5, 0.8, 0.6);
  plate.warm_lamp(210, 70, 24.0, 2.2, 0.9, 0.7);
  plate.warm_lamp(340, 90, 56.0, 1.3, 0.7, 0.5);
  plate.warm_lamp(470, 90, 18.0, 1.8, 0.8, 0.4);
  plate.warm_lamp(580, 80, 30.0, 2.6, 0.9, 0.8);
  plate.warm_lamp(80, 250, 33.0, 0.5, 0.8, 0.6);
  plate.warm_lamp(190, 260, 20.0, 0.7, 0.8, 0.6);
  plate.warm_lamp(300, 260, 45.0, 0.4, 0.8, 0.6);
  plate.warm_lamp(420, 250, 27.0, 0.6, 0.8, 0.6);
  plate.warm_lamp(540, 250, 60.0, 0.5, 0.8, 0.6);
  plate.through_jpeg();
  const FoundDiscs found = discs_in_plate(plate.picture());
  expect_all(found, plate);
  EXPECT_EQ(found.iris.blades, 9);
  for (const Drawn& d : plate.drawn()) {
    const PlateDisc* f = found_at(found, d.at);
    ASSERT_NE(f, nullptr);
    EXPECT_NEAR(f->height_px.value, d.height, f->height_px.margin + 0.05);
    EXPECT_LT(f->height_px.margin, f->clipped ? 0.04 * d.height + 0.3 : 0.01 * d.height + 0.2);
    // What is cut off is told by the foot of the edge.
    const double min = f->clipped ? 0.8 : 0.95;
    EXPECT_GT(f->light[1] / f->light[0], min * d.colour[0]) << d.at[0];
    EXPECT_LT(f->light[1] / f->light[0], d.colour[0] / min) << d.at[0];
    EXPECT_GT(f->light[2] / f->light[0], min * d.colour[1]) << d.at[0];
    EXPECT_LT(f->light[2] / f->light[0], d.colour[1] / min) << d.at[0];
  }
}

// A disc of 14 px shows five straight edges well enough, and drawn the other way up it would not
// fit.
// Lamps all over a plate whose lens has a rim in front: cat's eyes, the more so the farther out.
class CutByTheBarrel : public ::testing::TestWithParam<int> {};

TEST_P(CutByTheBarrel, DiscsAreMeasuredWholeAndTellTheRim) {
  Lens lens{.focal = 37_mm, .iris = {.blades = GetParam(), .rotation = 5_deg}};
  lens.vignetting = {{17_mm, 30_mm}};
  const Body body{.gate = {25.9_mm, 14.56875_mm}, .pixels = {640, 360}};
  const VirtualCamera c = resolve(body, lens, {.stop = f_number(1.48)}, 60_cm);
  Plate plate(c, 0.002);
  int k = 0;
  for (const int y : {40, 110, 180, 250, 320}) {
    for (const int x : {50, 140, 230, 320, 410, 500, 590}) {
      const double height = 22.0 + 2.0 * (k * 7 % 9);
      plate.lamp(x, y, k % 4 == 3 ? -height : height, 0.5);
      ++k;
    }
  }
  const FoundDiscs found = discs_in_plate(plate.picture());
  ASSERT_TRUE(found.vignetting.known) << message(found);
  // The rim is told as for lamps far beyond it; these are ten to forty times as far.
  const VignettingRim rim = rim_of(found.vignetting, c, 360);
  EXPECT_NEAR(rim.radius.mm(), 17.0, 0.06 * 17.0);
  EXPECT_NEAR(rim.ahead.mm(), 30.0, 0.12 * 30.0);
  EXPECT_GT(found.vignetting.radius.margin, 0.0);
  EXPECT_GE(found.vignetting.discs, 10);
  int good = 0;
  int sides = 0;
  int told = 0;
  for (const Drawn& d : plate.drawn()) {
    const PlateDisc* f = found_at(found, d.at);
    if (f == nullptr) continue;
    good += std::abs(f->height_px.value - d.height) < 0.01 * d.height + 0.2 ? 1 : 0;
    if (f->cut < 0.15 || f->facing == Facing::unknown) continue;
    ++told;
    sides += (f->facing == Facing::turned) == d.in_front ? 1 : 0;
  }
  EXPECT_GE(good, 31) << message(found);  // of 35
  EXPECT_GE(told, 8);
  EXPECT_GE(sides, told - 1);
}

INSTANTIATE_TEST_SUITE_P(All, CutByTheBarrel, ::testing::Values(0, 7, 8));

TEST(PlateDiscs, SmallOnesAreTurnedAsTheLargeOnesTell) {
  const Iris iris{.blades = 5, .blade_radius = BladeRadius::straight()};
  Plate plate(camera_with(iris), 0.006);
  plate.lamp(80, 80, 50.0, 0.6);
  plate.lamp(220, 90, 44.0, 0.5);
  plate.lamp(360, 90, 60.0, 0.5);
  plate.lamp(500, 90, 15.0, 0.6);
  plate.lamp(580, 180, 17.0, 0.6);
  plate.lamp(140, 180, 16.0, 0.5);  // most are behind the focus
  for (int k = 0; k < 5; ++k) plate.lamp(60 + 110 * k, 260, -14.0 - k, 0.5 + 0.3 * k);
  plate.clip();
  const FoundDiscs found = discs_in_plate(plate.picture());
  expect_all(found, plate);
  for (std::size_t i = 0; i < plate.drawn().size(); ++i) {
    const PlateDisc* f = found_at(found, plate.drawn()[i].at);
    ASSERT_NE(f, nullptr);
    EXPECT_EQ(f->facing, i >= 6 ? Facing::turned : Facing::upright) << i;
  }
}

TEST(PlateDiscs, TheLightOfALampIsItsValueTimesItsArea) {
  Plate plate(camera_with({}), 0.005);
  plate.lamp(100, 100, 40.0, 0.6);
  const FoundDiscs found = discs_in_plate(plate.picture());
  ASSERT_EQ(found.discs.size(), 1U);
  const double area = std::numbers::pi / 4.0 * 40.0 * 40.0;
  EXPECT_NEAR(found.discs[0].light[1], 0.6 * area, 0.02 * 0.6 * area);
}

TEST(PlateDiscs, ADrawnLampGivesItsName) {
  Plate plate(camera_with({}), 0.008);
  plate.lamp(100, 100, 40.0, 0.6);
  plate.lamp(300, 200, 26.0, 0.6);
  DiscHints hints;
  hints.lamps.push_back({{303.0, 198.0}, 25.0, "buoy"});
  const FoundDiscs found = discs_in_plate(plate.picture(), hints);
  ASSERT_EQ(found.discs.size(), 2U);
  EXPECT_EQ(found_at(found, {300.5, 200.5})->name, "buoy");
  EXPECT_EQ(found_at(found, {100.5, 100.5})->name, "");
}

// ---- plates without any ------------------------------------------------------------------------

template <class Value>
Picture painted(const Value& value) {
  Picture p({480, 320}, {0, 0, 0, 1});
  std::mt19937 random(11);
  std::normal_distribution<float> normal(0.0F, 0.01F);
  for (int y = 0; y < 320; ++y) {
    for (int x = 0; x < 480; ++x) {
      const double v = value(x + 0.5, y + 0.5);
      for (std::size_t c = 0; c < 3; ++c)
        p.at(x, y)[c] = std::max(0.0F, static_cast<float>(v) + normal(random));
    }
  }
  return p;
}

double hash(int x, int y) {
  auto h = static_cast<std::uint32_t>(x) * 374761393U + static_cast<std::uint32_t>(y) * 668265263U;
  h = (h ^ (h >> 13U)) * 1274126177U;
  return static_cast<double>(h ^ (h >> 16U)) / 4294967296.0;
}

TEST(NoDiscs, InNoise) {
  EXPECT_TRUE(discs_in_plate(painted([](double, double) { return 0.1; })).discs.empty());
}

TEST(NoDiscs, InBrickwork) {
  const auto bricks = [](double x, double y) {
    const int row = static_cast<int>(y / 16.0);
    const double u = x + (row % 2) * 18.0;
    const bool joint = std::fmod(y, 16.0) < 2.5 || std::fmod(u, 36.0) < 2.5;
    return joint ? 0.05 : 0.2 + 0.15 * hash(static_cast<int>(u / 36.0), row);
  };
  const FoundDiscs found = discs_in_plate(painted(bricks));
  EXPECT_TRUE(found.discs.empty()) << message(found);
}

TEST(NoDiscs, InFoliage) {
  // Many leaves over each other, each a lens of two arcs, at all angles.
  struct Leaf {
    double x, y, c, s, long_half, half_of_width, value;
  };
  std::vector<Leaf> leaves;
  for (int i = 0; i < 900; ++i) {
    const double a = 6.28 * hash(i, 1);
    leaves.push_back({480.0 * hash(i, 2), 320.0 * hash(i, 3), std::cos(a), std::sin(a),
                      8.0 + 14.0 * hash(i, 4), 3.0 + 5.0 * hash(i, 5), 0.05 + 0.4 * hash(i, 6)});
  }
  const auto value = [&](double x, double y) {
    double v = 0.02;
    for (const Leaf& l : leaves) {
      const double u = ((x - l.x) * l.c + (y - l.y) * l.s) / l.long_half;
      const double w = (-(x - l.x) * l.s + (y - l.y) * l.c) / l.half_of_width;
      if (std::abs(u) < 1.0 && std::abs(w) < 1.0 - u * u) v = l.value;
    }
    return v;
  };
  const FoundDiscs found = discs_in_plate(painted(value));
  EXPECT_TRUE(found.discs.empty()) << message(found);
}

TEST(NoDiscs, InText) {
  // Rows of letters like o, l, n and e: rings, bars and arcs, dark on bright and bright on dark.
  const auto value = [](double x, double y) {
    const bool dark_on_bright = y < 160.0;
    const int column = static_cast<int>(x / 24.0);
    const int row = static_cast<int>(y / 34.0);
    const double u = std::fmod(x, 24.0) - 12.0;
    const double v = std::fmod(y, 34.0) - 17.0;
    const double r = std::hypot(u, 0.8 * v);
    bool inked = false;
    switch (static_cast<int>(4.0 * hash(column, row))) {
      case 0:
        inked = r > 6.0 && r < 9.0;
        break;
      case 1:
        inked = std::abs(u) < 1.5 && std::abs(v) < 13.0;
        break;
      case 2:
        inked = (r > 6.0 && r < 9.0 && v < 0.0) ||
                (std::abs(std::abs(u) - 7.5) < 1.5 && v >= 0.0 && v < 11.0);
        break;
      default:
        inked = (r > 6.0 && r < 9.0 && !(u > 0.0 && v > 0.0 && v < 6.0)) ||
                (std::abs(v) < 1.5 && std::abs(u) < 8.0);
    }
    return inked == dark_on_bright ? 0.04 : 0.7;
  };
  const FoundDiscs found = discs_in_plate(painted(value));
  EXPECT_TRUE(found.discs.empty()) << message(found);
}

TEST(NoDiscs, InStarsThatAreInFocus) {
  const auto value = [](double x, double y) {
    double v = 0.01;
    for (int i = 0; i < 60; ++i) {
      const double dx = x - 480.0 * hash(i, 7);
      const double dy = y - 320.0 * hash(i, 8);
      const double bright = std::pow(10.0, 2.0 * hash(i, 9) - 0.5);
      v += bright * std::exp(-(dx * dx + dy * dy) / (2.0 * 1.2 * 1.2));
    }
    return v;
  };
  const FoundDiscs found = discs_in_plate(painted(value));
  EXPECT_TRUE(found.discs.empty()) << message(found);
}

// ---- what cannot be used -----------------------------------------------------------------------

TEST(PlateDiscs, OfPlatesWithNothingInThemAreNone) {
  for (const float v : {0.0F, 0.5F, 1.0F}) {
    const FoundDiscs found = discs_in_plate(Picture({200, 120}, {v, v, v, 1.0F}));
    EXPECT_TRUE(found.discs.empty());
    EXPECT_FALSE(found.iris.known);
  }
}

TEST(PlateDiscs, TellWhatIsWrongWithAPlate) {
  EXPECT_TRUE(holds(message_of<PictureError>([] {
                      discs_in_plate(Picture({16, 200}, {0, 0, 0, 1}));
                    }),
                    "16 x 200"));
  Picture odd({64, 64}, {0.1F, 0.1F, 0.1F, 1.0F});
  odd.at(5, 7)[1] = std::nanf("");
  EXPECT_TRUE(holds(message_of<PictureError>([&] { discs_in_plate(odd); }), "pixel 5, 7"));
  const Picture good({64, 64}, {0.1F, 0.1F, 0.1F, 1.0F});
  DiscSettings small;
  small.min_px = 3.0;
  EXPECT_TRUE(holds(message_of<UsageError>([&] { discs_in_plate(good, {}, small); }), "3 px"));
  DiscHints outside;
  outside.lamps.push_back({{100.0, 10.0}, 20.0, "far"});
  EXPECT_TRUE(holds(message_of<UsageError>([&] { discs_in_plate(good, outside); }), "100, 10"));
}

}  // namespace discs_test
}  // namespace jolly_iris
