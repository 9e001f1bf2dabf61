// Plate and CG held against each other; edges; round things.
#include "jolly_iris/measure/image_comparison.hpp"

#include <gtest/gtest.h>

#include <algorithm>
#include <cmath>
#include <numbers>
#include <random>

#include "jolly_iris/measure/edge_blur.hpp"
#include "jolly_iris/measure/ellipse_fit.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/picture/defocus.hpp"
#include "support.hpp"

namespace jolly_iris {
namespace image_comparison_test {

using testing::holds;
using testing::message_of;

Shot shot_at_stop(double stop) {
  Shot shot;
  shot.body = {.gate = {25.9_mm, 14.56875_mm}, .pixels = {640, 360}};
  shot.lens = {
      .focal = 85_mm,
      .iris = {.blades = 7, .rotation = 9_deg, .blade_radius = BladeRadius::multiple(2.0)}};
  shot.take.stop = f_number(stop);
  return shot;
}

CgMade made_at_stop(double stop) { return {shot_at_stop(stop), true}; }

// Lamps at several distances before a wall of soft patches, a sharp edge in focus.
Frame sharp_scene() {
  Frame frame{Picture({640, 360}, {0, 0, 0, 1}), {}};
  for (int y = 0; y < 360; ++y) {
    for (int x = 0; x < 640; ++x) {
      const bool near = y > 250 && x > 150 && x < 480;
      const float v = near ? 0.3F : 0.06F + 0.03F * std::sin(0.02F * static_cast<float>(x + y));
      frame.colour.at(x, y) = {v, 0.9F * v, 0.8F * v, 1.0F};
      frame.depth.push_back(near ? 1.2F : 9.0F);
    }
  }
  int k = 0;
  for (const int y : {60, 150}) {
    for (const int x : {80, 200, 320, 440, 560}) {
      frame.colour.at(x, y) = {280, 250, 180, 1};
      frame.depth[static_cast<std::size_t>(y) * 640 + static_cast<std::size_t>(x)] =
          2.4F + 0.5F * static_cast<float>(k++ % 4);
    }
  }
  return frame;
}

Frame taken(double stop) {
  const Shot shot = shot_at_stop(stop);
  const VirtualCamera c = resolve(shot.body, shot.lens, shot.take, 1.2_m);
  Frame sharp = sharp_scene();
  return {defocus(sharp, c), sharp.depth};
}

Picture with_grain(Picture p, float fraction, std::uint32_t seed) {
  std::mt19937 random(seed);
  std::normal_distribution<float> psf_sigma(0.0F, fraction);
  for (Rgba& v : p.pixels()) {
    for (std::size_t c = 0; c < 3; ++c) v[c] *= 1.0F + psf_sigma(random);
  }
  return p;
}

const Suggestion* move_of(const std::vector<Suggestion>& all, const std::string& key,
                          const std::string& message = "") {
  for (const Suggestion& m : all) {
    if (m.key == key && (message.empty() || holds(m.message, message))) return &m;
  }
  return nullptr;
}

TEST(ImageComparison, OfAPictureWithItselfAsksForNothing) {
  const Frame plate = taken(2.0);
  const ImageComparison like = compare_images(plate.colour, plate);
  EXPECT_TRUE(std::isinf(like.psnr_db));
  EXPECT_GE(like.discs.size(), 8U);
  EXPECT_NEAR(like.larger.value, 0.0, 1e-3);
  EXPECT_TRUE(suggestions(like, made_at_stop(2.0)).empty());
}

TEST(ImageComparison, TellsTheStopThatWouldMakeTheDiscsAlike) {
  const Frame plate = taken(2.0);
  for (const double stop : {1.7, 2.3}) {
    const Frame cg = taken(stop);
    const ImageComparison like = compare_images(with_grain(plate.colour, 0.01F, 3), cg);
    EXPECT_NEAR(like.larger.value, 2.0 / stop - 1.0, 0.02);
    const std::vector<Suggestion> moves = suggestions(like, made_at_stop(stop));
    const Suggestion* m = move_of(moves, "take.stop");
    ASSERT_NE(m, nullptr);
    EXPECT_NEAR(std::stod(m->to.substr(2)), 2.0, 0.04) << m->to;
    EXPECT_TRUE(holds(m->message, stop < 2.0 ? "too large" : "too small"));
  }
}

// Discs that are off this way and that come no nearer by another stop, whatever their mean says.
TEST(ImageComparison, AStopThatBringsNothingIsNoAdvice) {
  ImageComparison like;
  like.size = {960, 540};
  like.larger = {0.012, 0.010};
  for (const double off : {1.6, -1.1, 1.5, -1.2, 1.4, -0.6}) {
    DiscPair pair;
    pair.plate.height_px = {40.0, 0.2};
    pair.cg.height_px = {40.0 + off, 0.2};
    like.discs.push_back(pair);
  }
  EXPECT_EQ(move_of(suggestions(like, made_at_stop(2.0)), "take.stop"), nullptr);
  for (DiscPair& p : like.discs) p.cg.height_px.value = 40.5;
  EXPECT_NE(move_of(suggestions(like, made_at_stop(2.0)), "take.stop"), nullptr);
}

TEST(ImageComparison, TellsExposureWhiteAndGrain) {
  const Frame cg = taken(2.0);
  Picture plate = cg.colour;
  for (Rgba& p : plate.pixels()) {
    p[0] *= 1.5F * 1.2F;
    p[1] *= 1.5F;
    p[2] *= 1.5F * 0.9F;
  }
  const ImageComparison like = compare_images(with_grain(plate, 0.03F, 5), cg);
  EXPECT_NEAR(like.light.stops, std::log2(1.5), 0.02);
  EXPECT_NEAR(like.light.gains[0], 1.2, 0.02);
  EXPECT_NEAR(like.light.gains[2], 0.9, 0.02);
  EXPECT_NEAR(like.plate_grain, 0.03 / std::sqrt(3.0), 0.006);  // three channels, each with its own
  EXPECT_LT(like.cg_grain, 0.004);
  EXPECT_GT(like.psnr_lit_db, like.psnr_db + 3.0);
  const auto moves = suggestions(like, made_at_stop(2.0));
  EXPECT_NE(move_of(moves, "", "brighten CG by 0.58 stops"), nullptr);
  EXPECT_NE(move_of(moves, "", "warmer"), nullptr);
  EXPECT_NE(move_of(moves, "", "add grain"), nullptr);
}

TEST(ImageComparison, HasNoOtherEdgesAgainstItself) {
  const Frame both = taken(1.4);
  const ImageComparison like = compare_images(both.colour, both);
  ASSERT_FALSE(like.edges.empty());
  for (const EdgePair& e : like.edges) EXPECT_NEAR(e.plate_px, e.cg_px, 1e-5 * e.plate_px);
}

// What is missing is the lens, not a sensor's softness.
TEST(ImageComparison, TellsAPictureThatWasNotBlurredAtAll) {
  const Shot shot = shot_at_stop(8.0);
  const VirtualCamera far = resolve(shot.body, shot.lens, shot.take, 9_m);
  const ImageComparison like = compare_images(defocus(sharp_scene(), far), sharp_scene());
  ASSERT_GE(like.edges.size(), 8U);
  const auto moves = suggestions(like, made_at_stop(8.0));
  EXPECT_NE(move_of(moves, "", "it has not been through this lens yet"), nullptr);
  EXPECT_EQ(move_of(moves, "", "soften CG"), nullptr);
}

// As much as is missing, as blurs add up: by their squares; and only where the edges look another
// way.
TEST(ImageComparison, SoftensCgByWhatIsMissing) {
  const auto of_widths = [](double plate_px, double cg_px) {
    ImageComparison like;
    like.view_likeness = 0.99;
    for (int i = 0; i < 12; ++i) like.edges.push_back({{10.0 * i, 5.0}, plate_px, cg_px, {}});
    return suggestions(like, made_at_stop(2.0));
  };
  EXPECT_NE(move_of(of_widths(1.7, 0.8), "", "soften CG by 1.50 px"), nullptr);
  EXPECT_EQ(move_of(of_widths(0.60, 0.34), "", "soften"), nullptr);
}

TEST(ImageComparison, FindsBladesThatAreOthers) {
  const Frame plate = taken(1.4);
  Shot shot = shot_at_stop(1.4);
  shot.lens.iris.blades = 5;
  shot.lens.iris.blade_radius = BladeRadius::straight();
  const Frame cg{defocus(sharp_scene(), resolve(shot.body, shot.lens, shot.take, 1.2_m)), {}};
  const ImageComparison like = compare_images(plate.colour, cg);
  const auto moves = suggestions(like, {shot, true});
  const Suggestion* m = move_of(moves, "lens.iris.blades");
  ASSERT_NE(m, nullptr) << like.plate_discs.iris.why << "; " << like.cg_discs.iris.why;
  EXPECT_EQ(m->now, "5");
  EXPECT_EQ(m->to, "7");
}

TEST(ImageComparison, ComparesSizesOfOneShapeAndRefusesOthers) {
  const Frame plate = taken(2.0);
  const Frame half{crop(plate, {0, 0, 640, 320}).colour, {}};
  EXPECT_TRUE(holds(message_of<UsageError>([&] { (void)compare_images(plate.colour, half); }),
                    "640 x 360 px and CG is 640 x 320"));
  Frame bad = plate;
  bad.colour.at(7, 3)[1] = std::numeric_limits<float>::quiet_NaN();
  EXPECT_TRUE(holds(message_of<PictureError>([&] { (void)compare_images(plate.colour, bad); }),
                    "CG holds a value that is no light at pixel 7, 3"));
  EXPECT_THROW((void)compare_images(plate.colour, Frame{}), PictureError);
}

// An edge at a slant under a bell of known width.
Picture edge_picture(double sigma, double degrees, double noise) {
  Picture p({200, 160}, {0, 0, 0, 1});
  std::mt19937 random(11);
  std::normal_distribution<double> psf_sigma(0.0, 1.0);
  const double c = std::cos(degrees * std::numbers::pi / 180.0);
  const double s = std::sin(degrees * std::numbers::pi / 180.0);
  for (int y = 0; y < 160; ++y) {
    for (int x = 0; x < 200; ++x) {
      const double across = (x + 0.5 - 100.0) * c + (y + 0.5 - 80.0) * s;
      const double root = 0.2 + 0.5 * 0.5 * std::erfc(-across / sigma / std::numbers::sqrt2) +
                          noise * psf_sigma(random);
      const auto v = static_cast<float>(root * root);
      p.at(x, y) = {v, v, v, 1};
    }
  }
  return p;
}

TEST(EdgeBlur, IsMeasuredWithinItsMargin) {
  int measured = 0;
  int within = 0;
  for (const double sigma : {0.7, 1.5, 3.0, 6.0}) {
    for (const double degrees : {0.0, 27.0, 90.0, 200.0}) {
      for (const EdgeBlur& e : edge_blurs(edge_picture(sigma, degrees, 0.004))) {
        EXPECT_NEAR(e.width_px, sigma, 0.08 * sigma + 0.05);
        const double turn = std::remainder(e.across_deg - degrees, 360.0);
        EXPECT_LT(std::abs(turn), 4.0)
            << sigma << " " << degrees << " at " << e.at[0] << ", " << e.at[1];
        ++measured;
        within += std::abs(e.width_px - sigma) <= e.margin_px + 0.03 ? 1 : 0;
      }
    }
  }
  EXPECT_GE(measured, 40);
  EXPECT_GE(within, measured * 85 / 100);
  EXPECT_TRUE(edge_blurs(with_grain(Picture({200, 160}, {0.2F, 0.2F, 0.2F, 1}), 0.05F, 2)).empty());
  EXPECT_THROW((void)edge_blurs(Picture({20, 50})), PictureError);
}

TEST(EdgeBlur, TheSameEdgeIsFoundInAnotherPictureAndTheFloorTakenOff) {
  const auto edges = edge_blurs(edge_picture(2.0, 15.0, 0.0));
  ASSERT_FALSE(edges.empty());
  const auto same = same_edges(edge_picture(4.0, 15.0, 0.0), edges);
  std::size_t found = 0;
  for (const auto& e : same) {
    if (!e) continue;
    ++found;
    EXPECT_NEAR(e->width_px, 4.0, 0.2);
  }
  EXPECT_GE(2 * found, edges.size());
  EXPECT_NEAR(without_floor(5.0, 3.0), 4.0, 1e-12);
  EXPECT_EQ(without_floor(2.0, 3.0), 0.0);
  EXPECT_EQ(disc_of_blur(2.5), 10.0);
}

TEST(EllipseFit, OvalIsFoundWithAnHonestMargin) {
  int within = 0;
  constexpr int cases = 300;
  std::mt19937 random(1);
  std::normal_distribution<double> psf_sigma(0.0, 0.5);
  std::uniform_real_distribution<double> even(0.0, 1.0);
  for (int i = 0; i < cases; ++i) {
    const double width = 60.0 + 100.0 * even(random);
    const double height = width * (0.5 + even(random));
    DrawnCircle circle;
    const int n = 6 + i % 8;
    for (int k = 0; k < n; ++k) {
      const double a = 2.0 * std::numbers::pi * (k + 0.3 * even(random)) / n;
      circle.points.push_back({300.0 + width * std::cos(a) + psf_sigma(random),
                               200.0 + height * std::sin(a) + psf_sigma(random)});
    }
    const EllipseFit fit = fit_ellipse(circle);
    EXPECT_NEAR(fit.height_over_width.value, height / width, 0.06);
    within += std::abs(fit.height_over_width.value - height / width) <= fit.height_over_width.margin
                  ? 1
                  : 0;
  }
  EXPECT_GE(100 * within, 92 * cases);
  DrawnCircle few{{{0, 0}, {10, 0}, {0, 10}, {5, 5}}, ""};
  EXPECT_TRUE(holds(message_of<OpticsError>([&] { (void)fit_ellipse(few); }), "five or more"));
  DrawnCircle line{{{0, 0}, {10, 10}, {20, 20}, {30, 30}, {40, 40}}, ""};
  EXPECT_TRUE(
      holds(message_of<OpticsError>([&] { (void)fit_ellipse(line); }), "no upright ellipse"));
}

}  // namespace image_comparison_test
}  // namespace jolly_iris
