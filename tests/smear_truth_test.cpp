// Smear and blur together against the traced truth: a boat that passes while the shutter is open.
#include <gtest/gtest.h>

#include <cmath>

#include "jolly_iris/jolly_iris.hpp"
#include "support.hpp"

namespace jolly_iris {
namespace smear_truth_test {

using testing::demo;

LoadedShot passing() {
  LoadSettings settings;
  settings.frame = 1013.0;
  return load_shot(demo("passing.shot.toml"), settings);
}

// The part of the picture that the boat goes through.
Box way_of_the_boat(PixelSize size) {
  return {size.width * 28 / 100, size.height * 70 / 100, size.width * 34 / 100,
          size.height * 30 / 100};
}

double psnr_on_the_way(const Picture& a, const Picture& b) {
  const Box box = way_of_the_boat(a.size());
  return psnr(crop({a, {}, {}}, box).colour, crop({b, {}, {}}, box).colour);
}

TEST(SmearTruth, BothBlursTogetherComeNearTheTracedBoat) {
  const LoadedShot loaded = passing();
  TraceSettings settings{.samples = testing::cases(128, 32), .size = PixelSize{320, 180}};
  const MomentAt moment = moments_of(loaded);
  const ShutterSpan span = shutter_of(loaded);
  const Frame truth = trace_shutter(moment, 1013.0, span, 32, settings);
  settings.pinhole = true;
  const Scene& scene = loaded.scene.value();
  const Frame sharp = trace(scene, loaded.answer.camera, loaded.answer.place, settings);
  const MotionVectors motion = trace_motion(moment, 1013.0, span, settings);
  const VirtualCamera& camera = loaded.answer.camera;
  const SmearedPicture both = smeared_defocus(sharp, motion, span, camera);
  EXPECT_NEAR(both.longest_px, 6.55, 0.2);  // 1.5 m/s, 1/50 s, at 2.2 m and more
  const double together = psnr_on_the_way(both.picture, truth.colour);
  EXPECT_GE(together, 34.0);
  EXPECT_GE(psnr(both.picture, truth.colour), 34.0);
  EXPECT_GT(together, psnr_on_the_way(defocus(sharp, camera), truth.colour) + 3.0);
  EXPECT_GT(psnr(both.picture, truth.colour),
            psnr(smeared(sharp, motion, span).picture, truth.colour) + 3.0);
}

TEST(SmearTruth, APointsSmearIsAsLongAsExposeTells) {
  const LoadedShot loaded = passing();
  const ShutterSpan span = shutter_of(loaded);
  const double speed = speed_in_picture(loaded.shot, &loaded.scene.value(), "boat", 1013.0);
  const double told = speed * shutter_time(loaded.now.take)->seconds();
  // What the boat's middle shows.
  const PixelSize size = loaded.answer.camera.pixels;
  const MotionVectors motion =
      trace_motion(moments_of(loaded), 1013.0, span, TraceSettings{.samples = 1});
  Vec3 middle{};
  for (const SubjectPlace& s :
       subjects_of(loaded.now, &loaded.scene.value(), loaded.answer.place)) {
    if (s.name == "boat") middle = s.middle.value();
  }
  const auto at = pixel_of_direction(loaded.answer.camera, {middle.x, middle.y, middle.z});
  const auto& v =
      motion.px_a_frame[static_cast<std::size_t>(at[1]) * static_cast<std::size_t>(size.width) +
                        static_cast<std::size_t>(at[0])];
  // The boat is 30 cm long: what is nearer than its middle goes a little farther.
  EXPECT_NEAR(std::hypot(v[0], v[1]) * (span.closes - span.opens), told, 0.02 * told);
  EXPECT_GT(told, 30.0);
}

TEST(SmearTruth, RaysOfAllMomentsTogetherAreThoseOfOnePicture) {
  // Where nothing moves, moments change nothing but the noise, and do not make more of that.
  const LoadedShot loaded = load_shot(demo("hero.shot.toml"));
  const auto still = [&](double) {
    return SceneMoment{loaded.scene.value(), {loaded.answer.camera, loaded.answer.place}};
  };
  TraceSettings settings{.samples = 64, .size = PixelSize{160, 90}};
  const Frame many = trace_shutter(still, 0.0, {0.0, 1.0}, 16, settings);
  const Frame one =
      trace(loaded.scene.value(), loaded.answer.camera, loaded.answer.place, settings);
  settings.seed = 7;
  const Frame other =
      trace(loaded.scene.value(), loaded.answer.camera, loaded.answer.place, settings);
  EXPECT_GT(psnr(many.colour, one.colour), psnr(other.colour, one.colour) - 0.5);
}

}  // namespace smear_truth_test
}  // namespace jolly_iris
