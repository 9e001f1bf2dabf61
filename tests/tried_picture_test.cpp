// Variants beside each other: each in its own light, with its own finish.
#include "jolly_iris/workflow/tried_picture.hpp"

#include <gtest/gtest.h>

#include <cmath>

#include "jolly_iris/jolly_iris.hpp"
#include "support.hpp"

namespace jolly_iris {
namespace tried_picture_test {

using testing::demo;
using testing::TempFolder;

// A still camera, its tries over it.
class Variants : public ::testing::Test {
 protected:
  Variants() {
    shot_ = folder_.write("one.shot.toml", R"(
[lens]
focal = "50 mm"
[body]
gate = "24 x 13.5 mm"
pixels = "960 x 540"
[take]
stop = "f/2"
iso = 400
shutter = "1/48 s"
white = "5600 K"
[focus]
at = "4 m"
[variant.night.take]
iso = 1600
white = "3200 K"
[variant.dim.finish]
corners = "1 stop"
)");
  }

  LensTries tries(const std::vector<std::string>& names) {
    std::vector<std::string> files;
    return try_values({.file = shot_}, {"variant", names, "tried"}, files);
  }

  TempFolder folder_;
  std::string shot_;
};

TEST_F(Variants, StandBesideTheShotAndStack) {
  const LensTries all = tries({"night", "night+dim"});
  ASSERT_EQ(all.tries.size(), 3U);
  EXPECT_EQ(all.tries[0].name, "as in the shot");
  EXPECT_FALSE(all.tries[1].loaded.now.finish.any());
  EXPECT_TRUE(all.tries[2].loaded.now.finish.corners.has_value());
  EXPECT_DOUBLE_EQ(*all.tries[2].loaded.now.take.iso, 1600.0);
  EXPECT_THROW(tries({"nigth"}), UsageError);
}

// Four times the ISO are two stops; white gains are as closed forms have them (optics/white.hpp).
TEST_F(Variants, AreAsBrightAndAsWhiteAsTheyExpose) {
  const LensTries all = tries({"night"});
  const TryLight light = light_beside(all.tries[0].loaded, all.tries[1].loaded);
  ASSERT_TRUE(light.stops);
  EXPECT_NEAR(*light.stops, 2.0, 1e-9);
  ASSERT_TRUE(light.white);
  const Rgb white = *light.white;
  EXPECT_LT(white[0], 0.8);
  EXPECT_DOUBLE_EQ(white[1], 1.0);
  EXPECT_GT(white[2], 1.4);
  EXPECT_EQ(light_words(light, all.tries[1].loaded), "+2.0 stops, 3200 K");
  // Far behind the focus, even: blur leaves its light as it is.
  Frame sharp{Picture({96, 54}, {0.1F, 0.1F, 0.1F, 1.0F}), {}};
  sharp.depth.assign(sharp.colour.pixels().size(), 4.0F);
  const Picture seen = tried_picture(sharp, all.tries[1].loaded, light, {});
  for (std::size_t c = 0; c < 3; ++c) {
    EXPECT_NEAR(seen.at(48, 27)[c], 0.4 * white[c], 1e-4);
  }
  const Picture same = tried_picture(sharp, all.tries[1].loaded, {}, {});
  EXPECT_NEAR(same.at(48, 27)[0], 0.1, 1e-5);
}

TEST_F(Variants, HaveTheirFinish) {
  const LensTries all = tries({"dim"});
  Frame sharp{Picture({96, 54}, {0.1F, 0.1F, 0.1F, 1.0F}), {}};
  sharp.depth.assign(sharp.colour.pixels().size(), 4.0F);
  const Picture seen = tried_picture(sharp, all.tries[1].loaded,
                                     light_beside(all.tries[0].loaded, all.tries[1].loaded), {});
  EXPECT_LT(seen.at(0, 0)[0], 0.6F * seen.at(48, 27)[0]);
}

TEST_F(Variants, AnExposureThatIsNotKnownIsSaid) {
  std::vector<std::string> files;
  const LoadedShot first = open_shot({.file = shot_}, files);
  LoadedShot unknown = first;
  unknown.now.take.iso.reset();
  EXPECT_FALSE(light_beside(first, unknown).stops);
  EXPECT_EQ(light_words(light_beside(first, unknown), unknown), "exposure not known, 5600 K");
}

// A white that one of them was not told changes nothing, so it is not named.
TEST_F(Variants, AWhiteThatCannotBeComparedIsNotNamed) {
  std::vector<std::string> files;
  LoadedShot first = open_shot({.file = shot_}, files);
  first.now.take.white.reset();
  const LensTries all = tries({"night"});
  const TryLight light = light_beside(first, all.tries[1].loaded);
  EXPECT_FALSE(light.white);
  EXPECT_EQ(light_words(light, all.tries[1].loaded), "+2.0 stops");
}

}  // namespace tried_picture_test
}  // namespace jolly_iris
