// Discs followed over frames, of ways that are known: crossings, gaps, pulls of focus, a changing
// light.
#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>

#include <algorithm>
#include <cmath>
#include <map>
#include <random>

#include "jolly_iris/measure/disc_tracks.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "support.hpp"

namespace jolly_iris {
namespace disc_tracks_test {

// A lamp's way, and who it is: kept in `common_px`, which following does not look at.
struct Way {
  double x = 0.0;
  double y = 0.0;
  double vx = 0.0;
  double vy = 0.0;
  double size = 40.0;
  double growth = 0.0;  // px a frame
  double light = 1000.0;
};

PlateDisc disc_of(const Way& w, int who, double t, std::mt19937& random, double noise_px) {
  std::normal_distribution<double> off(0.0, 1.0);
  PlateDisc d;
  d.at = {w.x + w.vx * t + noise_px * off(random), w.y + w.vy * t + noise_px * off(random)};
  d.height_px = {std::max(8.0, w.size + w.growth * t + noise_px * off(random)), 2.0 * noise_px};
  const double light = w.light * std::exp(0.05 * off(random));
  d.light = {light, light, light};
  d.common_px = who;
  return d;
}

std::vector<FrameDiscs> sequence_of(const std::vector<Way>& ways, int frames, std::mt19937& random,
                                    double missing, double noise_px = 0.3) {
  std::vector<FrameDiscs> out;
  for (int t = 0; t < frames; ++t) {
    FrameDiscs now{1001.0 + t, {}};
    for (std::size_t i = 0; i < ways.size(); ++i) {
      if (std::uniform_real_distribution<double>(0.0, 1.0)(random) < missing) continue;
      now.discs.push_back(disc_of(ways[i], static_cast<int>(i), t, random, noise_px));
    }
    std::shuffle(now.discs.begin(), now.discs.end(), random);
    out.push_back(std::move(now));
  }
  return out;
}

// How many of the tracks have discs of more than one lamp.
std::size_t swapped(const std::vector<FrameDiscs>& frames, const std::vector<DiscTrack>& tracks) {
  std::size_t n = 0;
  for (const DiscTrack& t : tracks) {
    const double who = frames[t.seen.front().frame].discs[t.seen.front().disc].common_px;
    n += std::any_of(
             t.seen.begin(), t.seen.end(),
             [&](const TrackPoint& p) { return frames[p.frame].discs[p.disc].common_px != who; })
             ? 1U
             : 0U;
  }
  return n;
}

TEST(DiscTracks, TwoThatCrossKeepTheirWays) {
  std::mt19937 random(1);
  const std::vector<Way> ways{{100, 300, 4, 0, 40, 0, 1000}, {500, 310, -4, 0, 44, 0, 900}};
  const auto frames = sequence_of(ways, 96, random, 0.0);
  const auto tracks = follow_discs(frames);
  ASSERT_EQ(tracks.size(), 2U);
  EXPECT_EQ(swapped(frames, tracks), 0U);
  EXPECT_EQ(tracks[0].seen.size(), 96U);
}

TEST(DiscTracks, OneThatIsHiddenForAWhileComesBackAsItself) {
  std::mt19937 random(2);
  const std::vector<Way> ways{{100, 300, 3, 1, 40, 0.3, 1000}, {800, 200, -2, 0, 60, 0, 500}};
  auto frames = sequence_of(ways, 60, random, 0.0);
  for (int t = 20; t < 30; ++t) {
    auto& discs = frames[static_cast<std::size_t>(t)].discs;
    std::erase_if(discs, [](const PlateDisc& d) { return d.common_px == 0.0; });
  }
  const auto tracks = follow_discs(frames);
  ASSERT_EQ(tracks.size(), 2U);
  EXPECT_EQ(tracks[0].seen.size() + tracks[1].seen.size(), 110U);
  // Away for longer than it may be, it is another one.
  EXPECT_EQ(follow_discs(frames, {.max_gap = 5.0}).size(), 3U);
}

TEST(DiscTracks, FramesWithoutDiscsAreBridged) {
  std::mt19937 random(3);
  const std::vector<Way> ways{{100, 300, 3, 1, 40, 0.3, 1000}, {800, 200, -2, 0, 60, 0, 500}};
  auto frames = sequence_of(ways, 60, random, 0.0);
  for (int t = 20; t < 28; ++t) frames[static_cast<std::size_t>(t)].discs.clear();
  EXPECT_EQ(follow_discs(frames).size(), 2U);
}

TEST(DiscTracks, AJumpOfAllAtOnceIsThatOfTheCamera) {
  std::mt19937 random(4);
  std::vector<Way> ways;
  for (int i = 0; i < 8; ++i)
    ways.push_back({100.0 + 200.0 * i, 300.0 + 20.0 * i, 0, 0, 40, 0, 800});
  auto frames = sequence_of(ways, 40, random, 0.0);
  for (std::size_t t = 20; t < 40; ++t) {
    for (PlateDisc& d : frames[t].discs) {
      d.at[0] += 12.0;                     // a jolt
      for (double& l : d.light) l *= 4.0;  // and the stop was opened
    }
  }
  const auto tracks = follow_discs(frames);
  EXPECT_EQ(tracks.size(), 8U);
  EXPECT_EQ(swapped(frames, tracks), 0U);
}

// Lamps of a set during pulls and pans, with gaps: tracks that mix lamps are under one in a
// hundred.
TEST(DiscTracks, HardlyEverMixLampsUp) {
  std::mt19937 random(20261201);
  std::size_t all = 0;
  std::size_t mixed = 0;
  for (int k = 0; k < 120; ++k) {
    const auto real = [&](double a, double b) {
      return std::uniform_real_distribution<double>(a, b)(random);
    };
    const double pan = real(-6.0, 6.0);
    std::vector<Way> ways;
    const int lamps = std::uniform_int_distribution<int>(4, 20)(random);
    for (int i = 0; i < lamps; ++i) {
      const double depth = real(0.3, 1.0);
      ways.push_back({real(0, 1920), real(200, 700), pan * depth + real(-1, 1), real(-0.5, 0.5),
                      real(15, 90), real(-0.3, 0.3), std::exp(real(5.0, 8.0))});
    }
    const auto frames = sequence_of(ways, 96, random, real(0.0, 0.1));
    const auto tracks = follow_discs(frames);
    all += tracks.size();
    mixed += swapped(frames, tracks);
  }
  std::printf("tracks that mix lamps: %zu of %zu\n", mixed, all);
  EXPECT_GT(all, 900U);
  EXPECT_LT(static_cast<double>(mixed), 0.01 * static_cast<double>(all));
}

RC_GTEST_PROP(DiscTracks, NoDiscIsInTwoTracks, ()) {
  std::mt19937 random(*rc::gen::arbitrary<unsigned>());
  std::vector<Way> ways;
  const int lamps = *rc::gen::inRange(0, 12);
  std::uniform_real_distribution<double> real(0.0, 300.0);
  for (int i = 0; i < lamps; ++i)
    ways.push_back({real(random), real(random), real(random) / 60 - 2.5, 0});
  const auto frames = sequence_of(ways, *rc::gen::inRange(0, 30), random, 0.3, 2.0);
  std::map<std::pair<std::size_t, std::size_t>, int> seen;
  for (const DiscTrack& t : follow_discs(frames, {.min_points = 1})) {
    for (std::size_t i = 0; i < t.seen.size(); ++i) {
      const int times = ++seen[{t.seen[i].frame, t.seen[i].disc}];
      RC_ASSERT(times == 1);
      const bool rises = i == 0 || t.seen[i].frame > t.seen[i - 1].frame;
      RC_ASSERT(rises);
    }
  }
  std::size_t discs = 0;
  for (const FrameDiscs& f : frames) discs += f.discs.size();
  RC_ASSERT(seen.size() == discs);
}

TEST(DiscTracks, FramesThatDoNotRiseAreRefused) {
  EXPECT_THROW((void)follow_discs({{2.0, {}}, {1.0, {}}}), UsageError);
  EXPECT_THROW((void)follow_discs({}, {.max_gap = 0.0}), UsageError);
  EXPECT_TRUE(follow_discs({}).empty());
}

}  // namespace disc_tracks_test
}  // namespace jolly_iris
