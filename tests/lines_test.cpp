// What drawn edges tell: against cameras and lenses that are known.
#include "jolly_iris/measure/lines.hpp"

#include <gtest/gtest.h>

#include <cmath>
#include <random>

#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/optics/undistort.hpp"
#include "support.hpp"

namespace jolly_iris {
namespace lines_test {

using testing::holds;
using testing::message_of;
using Place = std::array<double, 2>;

VirtualCamera camera(const Distortion& distortion = {}, double focal_mm = 24.0) {
  const Body body{.gate = {25.9_mm, 14.56875_mm}, .pixels = {3840, 2160}};
  const Lens lens{.focal = Length::from_mm(focal_mm), .distortion = distortion};
  return resolve(body, lens, {.stop = f_number(4.0)}, 5_m);
}

class Hand {
 public:
  explicit Hand(unsigned seed, double px) : random_(seed), noise_(0.0, px) {}
  Place draws(const Place& p) { return {p[0] + noise_(random_), p[1] + noise_(random_)}; }

 private:
  std::mt19937 random_;
  std::normal_distribution<double> noise_;
};

// A grid of six upright and six level straight edges, as the lens bends it.
std::vector<DrawnLine> grid(const VirtualCamera& c, int points, Hand& hand) {
  const DistortionMap map(c);
  const double w = c.pixels.width;
  const double h = c.pixels.height;
  std::vector<DrawnLine> lines;
  for (int i = 0; i < 6; ++i) {
    for (const bool upright : {false, true}) {
      DrawnLine line;
      for (int j = 0; j < points; ++j) {
        const double across = 0.04 + 0.92 * i / 5.0;
        const double along = 0.02 + 0.96 * j / (points - 1.0);
        const Place straight =
            upright ? Place{w * across, h * along} : Place{w * along, h * across};
        line.points.push_back(hand.draws(*map.distorted(straight)));
      }
      lines.push_back(line);
    }
  }
  return lines;
}

// How far apart two lenses put the same place of the plate, at worst over the frame. Edges stay as
// straight when the whole picture is magnified, which the focal length takes up: `magnified` leaves
// the best common magnification out of the comparison.
double worst_px(const VirtualCamera& a, const VirtualCamera& b, bool magnified) {
  const DistortionMap truth(a);
  const DistortionMap found(b);
  const auto worst_at = [&](double scale) {
    double worst = 0.0;
    for (int x = 0; x <= 3840; x += 120) {
      for (int y = 0; y <= 2160; y += 120) {
        const Place p{static_cast<double>(x), static_cast<double>(y)};
        const auto u = truth.undistorted(p);
        const auto v = found.undistorted(p);
        worst = std::max(worst, std::hypot(u[0] - 1920 - scale * (v[0] - 1920),
                                           u[1] - 1080 - scale * (v[1] - 1080)));
      }
    }
    return worst;
  };
  double min = worst_at(1.0);
  for (int i = -60; magnified && i <= 60; ++i) min = std::min(min, worst_at(1.0 + i * 1e-5));
  return min;
}

TEST(DistortionFromLines, ExactEdgesGiveTheCoefficients) {
  const VirtualCamera truth = camera({.k = {0.031, -0.006}});
  Hand steady(1, 0.0);
  const FoundDistortion found = distortion_from_lines(camera(), grid(truth, 12, steady));
  EXPECT_EQ(found.terms, "k1, k2");
  EXPECT_NEAR(found.distortion.k[0], 0.031, 1e-6);
  EXPECT_NEAR(found.distortion.k[1], -0.006, 1e-6);
  EXPECT_LT(found.residual_px, 1e-4);
  EXPECT_GT(found.residual_before_px, 2.0);
}

struct KnownLens {
  const char* name;
  Distortion distortion;
};
void PrintTo(const KnownLens& lens, std::ostream* out) { *out << lens.name; }

class KnownLenses : public ::testing::TestWithParam<KnownLens> {};

struct Recovered {
  double worst = 0.0;
  int beyond = 0;  // how often the corner was farther off than its margin
};

Recovered recover(const Distortion& distortion, int points, unsigned drawings, bool magnified) {
  const VirtualCamera truth = camera(distortion);
  Recovered result;
  for (unsigned seed = 1; seed <= drawings; ++seed) {
    Hand hand(seed, 0.3);
    const FoundDistortion found = distortion_from_lines(camera(), grid(truth, points, hand));
    EXPECT_EQ(found.lines.size(), 12U);
    EXPECT_NEAR(found.residual_px, 0.3, 0.05) << "the hand's own noise";
    VirtualCamera c = camera();
    c.distortion = found.distortion;
    result.worst = std::max(result.worst, worst_px(truth, c, magnified));
    const double corner = std::abs(found.corner_px.value - figures_of_distortion(truth).corner_px);
    result.beyond += corner > found.corner_px.margin ? 1 : 0;
  }
  return result;
}

TEST_P(KnownLenses, AreRecoveredFromTwelveEdgesWithinAFifthOfAPixel) {
  // Forty points an edge: the grid comes out straight and in its place, but for a magnification.
  const Recovered drawn =
      recover(GetParam().distortion, 40, static_cast<unsigned>(testing::cases(20, 3)), true);
  EXPECT_LT(drawn.worst, 0.2);
  EXPECT_LE(drawn.beyond, 4) << "the margin is two standard deviations";
  // Edges that were followed pixel by pixel tell the magnification too.
  EXPECT_LT(recover(GetParam().distortion, 1000, static_cast<unsigned>(testing::cases(3, 1)), false)
                .worst,
            0.2);
}

INSTANTIATE_TEST_SUITE_P(All, KnownLenses,
                         ::testing::Values(KnownLens{"barrel", {.k = {0.03}}},
                                           KnownLens{"pincushion", {.k = {-0.012}}},
                                           KnownLens{"none", {}}),
                         [](const auto& each) { return std::string(each.param.name); });

TEST(DistortionFromLines, ASqueezedLensHasASetForEachWay) {
  const Body body{.gate = {25.9_mm, 14.56875_mm}, .pixels = {3840, 1080}};
  const auto squeezed = [&](const Distortion& d) {
    const Lens lens{.focal = 50_mm, .squeeze = 2.0, .distortion = d};
    return resolve(body, lens, {.stop = f_number(4.0)}, 5_m);
  };
  const VirtualCamera truth = squeezed({.k = {0.02}, .width = std::array{0.06, 0.0, 0.0}});
  Hand steady(1, 0.0);
  const FoundDistortion found = distortion_from_lines(squeezed({}), grid(truth, 12, steady));
  EXPECT_EQ(found.terms, "k1, wide k1");
  EXPECT_NEAR(found.distortion.k[0], 0.02, 1e-6);
  ASSERT_TRUE(found.distortion.width);
  EXPECT_NEAR((*found.distortion.width)[0], 0.06, 1e-6);
}

TEST(DistortionFromLines, PicturesThatAreStillSqueezedAreRefused) {
  const Body body{.gate = {25.9_mm, 14.56875_mm}, .pixels = {1920, 1080}, .pixel_aspect = 2.0};
  const VirtualCamera c =
      resolve(body, {.focal = 50_mm, .squeeze = 2.0}, {.stop = f_number(4.0)}, 5_m);
  Hand steady(1, 0.0);
  EXPECT_TRUE(
      holds(message_of<OpticsError>([&] { (void)distortion_from_lines(c, grid(c, 5, steady)); }),
            "desqueeze the plate first"));
}

TEST(DistortionFromLines, EdgesThroughTheMiddleTellNothing) {
  std::vector<DrawnLine> lines(4);
  for (std::size_t i = 0; i < lines.size(); ++i) {
    const double angle = 0.7 * static_cast<double>(i);
    for (double r = -1000; r <= 1000; r += 250) {
      lines[i].points.push_back({1920 + r * std::cos(angle), 1080 + r * std::sin(angle)});
    }
  }
  const std::string message =
      message_of<OpticsError>([&] { (void)distortion_from_lines(camera(), lines); });
  EXPECT_TRUE(holds(message, "cannot tell the distortion")) << message;
}

TEST(DistortionFromLines, ShortEdgesAndPairsOfPointsAreRefused) {
  std::vector<DrawnLine> shorts(3);
  for (std::size_t i = 0; i < shorts.size(); ++i) {
    for (int j = 0; j < 4; ++j) {
      shorts[i].points.push_back({200.0 + 30 * j, 200.0 + 500.0 * static_cast<double>(i)});
    }
  }
  EXPECT_TRUE(holds(message_of<OpticsError>([&] { (void)distortion_from_lines(camera(), shorts); }),
                    "could be off by"));
  const std::vector<DrawnLine> pairs(5, DrawnLine{.points = {{100, 100}, {900, 120}}});
  EXPECT_TRUE(holds(message_of<OpticsError>([&] { (void)distortion_from_lines(camera(), pairs); }),
                    "three or more points"));
}

// ---- perspective
// ---------------------------------------------------------------------------------

struct Room {
  Lean lean;
  double heading_deg = 30.0;
};

// Where a camera in a room sees a point whose x runs level, y up, z across.
Place seen(const VirtualCamera& c, const Room& room, const std::array<double, 3>& p) {
  const double h = room.heading_deg * M_PI / 180.0;
  // level runs along (sin h, 0, −cos h) of the level camera, across along (cos h, 0, sin h)
  const std::array<double, 3> d{std::sin(h) * p[0] + std::cos(h) * p[2], p[1],
                                -std::cos(h) * p[0] + std::sin(h) * p[2]};
  const auto straight = pixel_of_direction(c, leaning(room.lean, d));
  return *DistortionMap(c).distorted(straight);
}

DrawnLine edge(const VirtualCamera& c, const Room& room, Runs runs, const std::array<double, 3>& a,
               const std::array<double, 3>& b, Hand& hand, int points = 2) {
  DrawnLine line{{}, runs, {}};
  for (int i = 0; i < points; ++i) {
    const double t = i / (points - 1.0);
    line.points.push_back(hand.draws(seen(
        c, room, {a[0] + t * (b[0] - a[0]), a[1] + t * (b[1] - a[1]), a[2] + t * (b[2] - a[2])})));
  }
  return line;
}

// Upright edges at two places of the frame, from a lower to an upper height.
std::vector<DrawnLine> two_poles(const VirtualCamera& c, const Room& room, Hand& hand) {
  return {edge(c, room, Runs::vertical, {3.5, -0.6, 3.2}, {3.5, 2.6, 3.2}, hand),
          edge(c, room, Runs::vertical, {4.4, -0.6, 0.6}, {4.4, 2.6, 0.6}, hand)};
}

TEST(PerspectiveFromLines, TwoLinesGiveThePitch) {
  const VirtualCamera c = camera();
  const Room room{{12_deg, 0_deg}};
  double sum2 = 0.0;
  int beyond = 0;
  constexpr int drawings = 60;
  for (unsigned seed = 1; seed <= drawings; ++seed) {
    Hand hand(seed, 0.5);
    const FoundPerspective found = perspective_from_lines(c, two_poles(c, room, hand));
    const double off = found.tilt_deg.value - 12.0;
    EXPECT_LT(std::abs(off), 0.1) << seed;
    EXPECT_LT(found.tilt_deg.margin, 0.1);
    sum2 += off * off;
    beyond += std::abs(off) > found.tilt_deg.margin ? 1 : 0;
    EXPECT_NEAR(found.roll_deg.value, 0.0, 0.1);
  }
  EXPECT_LE(beyond, 8) << "one in twenty is expected beyond two standard deviations";
  EXPECT_GT(beyond + std::sqrt(sum2 / drawings), 0.0);
}

TEST(PerspectiveFromLines, ALevelCamerasVerticalsMeetNowhere) {
  const std::vector<DrawnLine> lines{{{{500, 200}, {500, 2000}}, Runs::vertical, ""},
                                     {{{3300, 200}, {3300, 2000}}, Runs::vertical, ""}};
  const FoundPerspective found = perspective_from_lines(camera(), lines);
  EXPECT_NEAR(found.tilt_deg.value, 0.0, 1e-6);
  ASSERT_EQ(found.vanishing.size(), 1U);
  EXPECT_GT(found.vanishing[0].widths, 1e3);
  for (const double px : found.vanishing[0].px) EXPECT_FALSE(std::isnan(px));
}

TEST(PerspectiveFromLines, TakesTheBendingOutFirst) {
  const Distortion vignetting{.k = {0.05}};
  const VirtualCamera c = camera(vignetting);
  const Room room{{12_deg, -3_deg}};
  Hand steady(1, 0.0);
  const auto lines = two_poles(c, room, steady);
  const FoundPerspective found = perspective_from_lines(c, lines);
  EXPECT_NEAR(found.tilt_deg.value, 12.0, 1e-6);
  EXPECT_NEAR(found.roll_deg.value, -3.0, 1e-6);
  VirtualCamera believed_straight = c;
  believed_straight.distortion = {};
  const double wrong = perspective_from_lines(believed_straight, lines).tilt_deg.value;
  EXPECT_GT(std::abs(wrong - 12.0), 0.3) << "who does not straighten first measures wrong";
}

std::vector<DrawnLine> walls(const VirtualCamera& c, const Room& room, Runs first, Runs second,
                             Hand& hand) {
  std::vector<DrawnLine> lines;
  for (const Runs runs : {first, second}) {
    for (int i = 0; i < 4; ++i) {
      const double y = -0.8 + 0.7 * i;
      const double s = 0.4 * i;
      if (runs == Runs::level) {
        lines.push_back(edge(c, room, runs, {3.0, y, 2.8}, {6.5, y, 2.8}, hand, 3));
      } else if (runs == Runs::across) {
        lines.push_back(edge(c, room, runs, {6.5, y, -0.5}, {6.5, y, 2.8}, hand, 3));
      } else {
        lines.push_back(
            edge(c, room, runs, {3.2 + s, -0.8, 2.8 - s}, {3.2 + s, 1.6, 2.8 - s}, hand, 3));
      }
    }
  }
  return lines;
}

TEST(PerspectiveFromLines, TwoSetsGiveTheFocalLengthWithinOnePercent) {
  const VirtualCamera truth = camera({}, 18.0);
  const Room room{{14_deg, 2_deg}, 40.0};
  for (unsigned seed = 1; seed <= 10; ++seed) {
    Hand hand(seed, 0.5);
    const auto lines = walls(truth, room, Runs::level, Runs::across, hand);
    // Asked with a camera that has a wrong focal length.
    const FoundPerspective found = perspective_from_lines(camera({}, 28.0), lines, {.focal = true});
    ASSERT_TRUE(found.focal_mm.has_value());
    EXPECT_NEAR(found.focal_mm->value / truth.focal.mm(), 1.0, 0.01) << seed;
    EXPECT_LT(found.focal_mm->margin / truth.focal.mm(), 0.02);
    EXPECT_NEAR(found.tilt_deg.value, 14.0, 0.3);
    for (const VanishingPoint& v : found.vanishing) EXPECT_LT(v.widths, 3.0);
    // With a focal length that is known, the same edges tell the lean more closely.
    const FoundPerspective known = perspective_from_lines(truth, lines);
    EXPECT_FALSE(known.focal_mm);
    EXPECT_NEAR(known.tilt_deg.value, 14.0, 0.1);
    EXPECT_LT(known.tilt_deg.margin, found.tilt_deg.margin);
  }
}

TEST(PerspectiveFromLines, VerticalAndLevelEdgesDoAsWell) {
  const VirtualCamera truth = camera({}, 18.0);
  const Room room{{25_deg, -1_deg}, 40.0};
  Hand hand(3, 0.3);
  const auto lines = walls(truth, room, Runs::vertical, Runs::level, hand);
  const FoundPerspective found = perspective_from_lines(camera({}, 35.0), lines, {.focal = true});
  EXPECT_NEAR(found.focal_mm->value / truth.focal.mm(), 1.0, 0.01);
}

TEST(PerspectiveFromLines, NearlyParallelSetsGiveNoFocalLength) {
  const VirtualCamera truth = camera({}, 24.0);
  const Room room{{4_deg, 0_deg}, 40.0};  // verticals meet 13 widths away
  Hand hand(1, 0.5);
  const auto lines = walls(truth, room, Runs::vertical, Runs::level, hand);
  const std::string message =
      message_of<OpticsError>([&] { (void)perspective_from_lines(truth, lines, {.focal = true}); });
  EXPECT_TRUE(holds(message, "vertical edges meet")) << message;
  EXPECT_TRUE(holds(message, "picture widths away"));
}

TEST(PerspectiveFromLines, TooFewEdgesAreRefusedWithWhatWouldDo) {
  const VirtualCamera c = camera();
  Hand hand(1, 0.0);
  auto lines = two_poles(c, {{12_deg, 0_deg}}, hand);
  EXPECT_TRUE(holds(
      message_of<OpticsError>([&] { (void)perspective_from_lines(c, lines, {.focal = true}); }),
      "two sets"));
  lines.pop_back();
  EXPECT_TRUE(holds(message_of<OpticsError>([&] { (void)perspective_from_lines(c, lines); }),
                    "drawn are 1 vertical"));
}

TEST(PerspectiveFromLines, EdgesThatAreNotWhatTheyAreSaidToBeFitNoCamera) {
  const VirtualCamera c = camera();
  std::vector<DrawnLine> lines{{{{500, 200}, {520, 2000}}, Runs::vertical, "left"},
                               {{{3300, 200}, {3350, 2000}}, Runs::vertical, "right"},
                               {{{1500, 300}, {2600, 1200}}, Runs::vertical, "ladder"}};
  const std::string message =
      message_of<OpticsError>([&] { (void)perspective_from_lines(c, lines); });
  EXPECT_TRUE(holds(message, "fit no camera")) << message;
  EXPECT_TRUE(holds(message, "ladder")) << message;
}

}  // namespace lines_test
}  // namespace jolly_iris
