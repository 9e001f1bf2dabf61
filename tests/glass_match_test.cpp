// A plate through a lens whose surfaces are known, matched with its notes. The plate is made of
// rays that are followed one by one, and shares no line with the discs that match draws.
#include <gtest/gtest.h>

#include <cmath>
#include <numbers>

#include "jolly_iris/jolly_iris.hpp"
#include "optics/seeded.hpp"
#include "support.hpp"

namespace jolly_iris {
namespace glass_match_test {

using testing::demo;
using testing::TempFolder;

std::string shot_text(const std::string& plate) {
  return "unit = \"cm\"\n[body]\nfile = \"" + demo("tansy.body.toml") + "\"\n[lens]\nglass = \"" +
         demo("../glass/hornbeam-50.glass.toml") +
         "\"\n[take]\nstop = \"f/1.7\"\niso = 800\nshutter = \"172.8 deg\"\nfps = 24\n[scene]\n"
         "file = \"" +
         demo("regatta.gltf") +
         "\"\ncamera = \"taking camera\"\n[focus]\non = \"boat\"\n[plate]\nfile = \"" + plate +
         "\"\n";
}

// All lamps of the scene, nothing else: light from even places of each through even places of the
// pupil, where it lands.
Picture plate_of(const LoadedShot& loaded, PixelSize size, std::uint64_t seed) {
  const std::shared_ptr<const GlassCamera> glass = glass_camera_of(loaded);
  const VirtualCamera& c = loaded.answer.camera;
  const double px_of_m = size.height / c.picture.height.m();
  constexpr int rays = 60000;
  Seeded random(seed);
  Picture out(size, {0.02F, 0.02F, 0.03F, 1.0F});
  for (const SceneLamp& lamp : lamps_of(*loaded.scene, loaded.answer.place)) {
    if (lamp.at.z > -1.0) continue;
    const double disc_px =
        std::abs(to_pixels(circle_of_confusion(c, Length::from_m(-lamp.at.z)), c)) * size.height /
        c.pixels.height;
    // As bright on average as one in every colour.
    const double each = 0.25 * std::numbers::pi * disc_px * disc_px / rays;
    for (int i = 0; i < rays; ++i) {
      const double far = 0.5 * lamp.diameter_m * std::sqrt(random.next());
      const double turned = 2.0 * std::numbers::pi * random.next();
      const std::array<double, 3> from{lamp.at.x + far * std::cos(turned),
                                       lamp.at.y + far * std::sin(turned), lamp.at.z};
      const double u = random.next();
      const double v = random.next();
      for (std::size_t colour = 0; colour < 3; ++colour) {
        const GlassLanding l = glass->land(from, glass->pupil_point(u, v), colour);
        if (!(l.weight > 0.0)) continue;
        const int x = static_cast<int>(std::floor(0.5 * size.width + l.at[0] * px_of_m));
        const int y = static_cast<int>(std::floor(0.5 * size.height - l.at[1] * px_of_m));
        if (x < 0 || y < 0 || x >= size.width || y >= size.height) continue;
        out.at(x, y)[colour] += static_cast<float>(each);
      }
    }
  }
  return out;
}

const FittedParameter& found(const CameraMatch& match, Parameter what) {
  for (const FittedParameter& p : match.plates.front().best.parameters) {
    if (p.parameter == what) return p;
  }
  throw std::logic_error("it is no unknown");
}

CameraMatch matched(const std::string& shot, const std::vector<Override>& tried) {
  std::vector<std::string> files;
  CameraMatchRequest request;
  request.shots = {{.file = shot, .overrides = tried}};
  return match_camera(request, files);
}

TEST(GlassMatch, NotesAreHeldAgainstDiscsThroughTheGlass) {
  const TempFolder out("glass_match");
  const std::string plate = out / "plate.exr";
  const std::string shot = out.write("m.shot.toml", shot_text(plate));
  std::vector<std::string> files;
  const LoadedShot loaded = open_shot({.file = shot}, files);
  write_picture(plate, {plate_of(loaded, {960, 540}, 260011), {}});

  const CameraMatch right = matched(shot, {});
  EXPECT_TRUE(right.plates.front().traced);
  EXPECT_TRUE(right.ranking.notes_agree) << right.ranking.noted_residual_px;

  const CameraMatch stop = matched(shot, {{"take.stop", "f/2.8"}});
  EXPECT_FALSE(stop.ranking.notes_agree);
  ASSERT_FALSE(stop.ranking.ranked.empty());
  EXPECT_EQ(stop.ranking.ranked.front().mistakes.front().substr(0, 19), "the stop is another");
  const FittedParameter& f = found(stop, Parameter::stop);
  EXPECT_NEAR(f.value, 1.7, f.margin);
  EXPECT_LT(f.margin, 0.25);

  // Against a thin lens of the same focal length and stop the same discs would not do.
  std::vector<Observation> thin = right.plates.front().seen.all;
  for (Observation& o : thin) {
    o.as_traced = 1.0;
    o.traced_px = 0.0;
  }
  EXPECT_GT(match(estimate_of(loaded), thin).cost, 2.0 * right.plates.front().plain.cost);
}

}  // namespace glass_match_test
}  // namespace jolly_iris
