// How many rays a render needs, said from a noisy test of it and held to the tracer: what it traces
// with that many is as quiet as was wanted.
#include "jolly_iris/workflow/sample_plan.hpp"

#include <gtest/gtest.h>

#include <algorithm>
#include <cmath>

#include "support.hpp"
#include "traced_set.hpp"

namespace jolly_iris {
namespace sample_truth_test {

using testing::TracedSet;

constexpr int test_rays = 16;

double luminance(const Rgba& p) {
  return 0.2126 * static_cast<double>(p[0]) + 0.7152 * static_cast<double>(p[1]) +
         0.0722 * static_cast<double>(p[2]);
}

// A place's noise against the truth, as a share of its level.
double noise_at(const Picture& picture, const Picture& truth, const NoisePlace& place,
                double darkest) {
  double squares = 0.0;
  double level = 0.0;
  const Box& b = place.box;
  for (int y = b.y; y < b.y + b.height; ++y) {
    for (int x = b.x; x < b.x + b.width; ++x) {
      const double d = luminance(picture.at(x, y)) - luminance(truth.at(x, y));
      squares += d * d;
      level += luminance(truth.at(x, y));
    }
  }
  const double n = static_cast<double>(b.width) * b.height;
  return std::sqrt(squares / n) / std::max(level / n, darkest);
}

double at_share(std::vector<double> v, double share) {
  std::sort(v.begin(), v.end());
  return v[static_cast<std::size_t>(share * static_cast<double>(v.size() - 1))];
}

TEST(SamplePlan, WhatIsTracedWithSoManyRaysIsAsQuietAsWanted) {
  TracedSet set("384 x 216");
  SamplePlanRequest request;
  request.picture = set.written("test.exr", set.traced(test_rays, 3));
  request.depth = set.written("pinhole.exr", set.traced(4, 1, true));
  request.rays = test_rays;
  request.noise = 0.06;
  std::vector<std::string> files;
  const SamplePlan one = plan_samples(request, set.loaded(), files);
  request.again = set.written("again.exr", set.traced(test_rays, 4));
  const SamplePlan two = plan_samples(request, set.loaded(), files);
  EXPECT_EQ(two.told, 1.0);

  // The truth is noisy as well: variances add.
  constexpr int truth_rays = 512;
  const Picture truth = set.traced(truth_rays, 99).colour;
  const Picture test = set.traced(test_rays, 3).colour;
  // The noise that there is, told from two renders, and from one where that can be told.
  for (const SamplePlan* plan : {&one, &two}) {
    std::vector<double> ratios;
    for (const NoisePlace& p : plan->noise.places) {
      if (!p.told || p.coc_px < 2.0) continue;
      const double is = noise_at(test, truth, p, request.darkest);
      if (is > 1e-3) ratios.push_back(p.noise / std::max(p.level, request.darkest) / is);
    }
    ASSERT_GT(ratios.size(), 8U);
    EXPECT_NEAR(at_share(ratios, 0.5), 1.0, 0.1);
    EXPECT_GT(at_share(ratios, 0.05), 0.6);
    EXPECT_LT(at_share(ratios, 0.95), 1.6);
  }
  // And with the rays that were said, nineteen of twenty places are quiet enough.
  const int rays = static_cast<int>(std::ceil(two.everywhere * test_rays));
  const Picture enough = set.traced(rays, 7).colour;
  const double with_truth = std::sqrt(1.0 + static_cast<double>(rays) / truth_rays);
  int quiet = 0;
  for (const NoisePlace& p : two.noise.places) {
    if (noise_at(enough, truth, p, request.darkest) <= 1.1 * with_truth * request.noise) {
      ++quiet;
    }
  }
  EXPECT_GE(quiet, static_cast<int>(0.92 * static_cast<double>(two.noise.places.size())))
      << " with " << rays;
  EXPECT_GT(two.everywhere, two.where_needed);
}

}  // namespace sample_truth_test
}  // namespace jolly_iris
