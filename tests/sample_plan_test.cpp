// How many rays a render needs, from a noisy test of it.
#include "jolly_iris/workflow/sample_plan.hpp"

#include <gtest/gtest.h>

#include <algorithm>
#include <cmath>

#include "support.hpp"
#include "traced_set.hpp"

namespace jolly_iris {
namespace sample_plan_test {

using testing::holds;
using testing::message_of;
using testing::TracedSet;

const int test_rays = testing::cases(16, 2);

TEST(SamplePlan, WhatIsMoreBlurredNeedsMore) {
  TracedSet set("960 x 540");
  SamplePlanRequest request;
  request.picture = set.written("test.exr", set.traced(test_rays, 3));
  request.again = set.written("again.exr", set.traced(test_rays, 4));
  request.depth = set.written("pinhole.exr", set.traced(4, 1, true));
  request.seconds = 60.0;
  std::vector<std::string> files;
  const SamplePlan plan = plan_samples(request, set.loaded(), files);
  double share = 0.0;
  for (const SampleBand& b : plan.bands) share += b.share;
  EXPECT_NEAR(share, 1.0, 1e-9);
  ASSERT_GE(plan.bands.size(), 2U);
  EXPECT_GT(plan.bands.back().times_worst, plan.bands.front().times);
  ASSERT_FALSE(plan.worst.empty());
  EXPECT_TRUE(plan.worst.front().axial);
  // The map says for each place what the list says.
  const Picture map = sample_map(plan);
  EXPECT_EQ(map.size(), plan.size);
  for (std::size_t i = 0; i < plan.times.size(); ++i) {
    const Box& b = plan.noise.places[i].box;
    EXPECT_EQ(map.at(b.x + 5, b.y + 5)[0], static_cast<float>(plan.times[i]));
  }
  // Half the noise, four times the rays.
  request.noise = 0.01;
  const SamplePlan finer = plan_samples(request, set.loaded(), files);
  EXPECT_NEAR(finer.everywhere / plan.everywhere, 4.0, 1e-6);
}

TEST(SamplePlan, SaysWhatWouldSettleIt) {
  TracedSet set("256 x 144");
  // Something smoothed the test: neighbours share their noise.
  Frame test = set.traced(4, 3);
  Picture soft = test.colour;
  for (int y = 1; y + 1 < soft.height(); ++y) {
    for (int x = 1; x + 1 < soft.width(); ++x) {
      for (std::size_t c = 0; c < 3; ++c) {
        float sum = 0.0F;
        for (int j = -1; j <= 1; ++j) {
          for (int i = -1; i <= 1; ++i) sum += test.colour.at(x + i, y + j)[c];
        }
        soft.at(x, y)[c] = sum / 9.0F;
      }
    }
  }
  SamplePlanRequest request;
  request.picture = set.written("soft.exr", {soft, {}});
  request.distance = "20 m";
  std::vector<std::string> files;
  std::string said;
  try {
    const SamplePlan plan = plan_samples(request, set.loaded(), files);
    EXPECT_LT(plan.told, 0.3);
    ASSERT_FALSE(plan.warnings.empty());
    said = plan.warnings.front();
  } catch (const OpticsError& e) {
    said = e.what();
  }
  EXPECT_TRUE(holds(said, "other random numbers"));
  request.again = request.picture;
  EXPECT_TRUE(
      holds(message_of<PictureError>([&] { (void)plan_samples(request, set.loaded(), files); }),
            "equal"));
}

}  // namespace sample_plan_test
}  // namespace jolly_iris
