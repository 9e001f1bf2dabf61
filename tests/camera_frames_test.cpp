// The camera of each frame out of what the frames show, of sequences in closed form (thin-lens
// formulas of their own, plates/sequenced.hpp): how far off, within which margins, and what it
// does.
#include <gtest/gtest.h>

#include <algorithm>
#include <cmath>
#include <random>

#include "jolly_iris/match/camera_frames.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "plates/sequenced.hpp"
#include "support.hpp"

namespace jolly_iris {
namespace camera_frames_test {

using plates::FocusWay;
using plates::MadeSequence;
using plates::MadeShot;

CameraEstimate noted(const MadeShot& m) {
  CameraEstimate out;
  out.body.gate = {Length::from_mm(m.gate_w_mm), Length::from_mm(m.gate_h_mm)};
  out.body.pixels = m.pixels;
  out.lens.focal = Length::from_mm(m.focal_mm);
  out.take.stop = f_number(m.stop);
  out.focus = Length::from_m(m.focus_m);
  return out;
}

// What each frame would show, read as exactly as discs are read, with notes held at the first
// frame.
std::vector<NotedFrame> seen_in(const MadeSequence& s, std::uint32_t seed, double noise_px = 0.1,
                                std::size_t most_lamps = 100) {
  std::mt19937 random(seed);
  std::normal_distribution<double> off;
  std::vector<NotedFrame> out;
  for (int f = 0; f < s.count; ++f) {
    const MadeShot m = s.at(f);
    NotedFrame frame;
    frame.frame = s.first + f;
    frame.estimate = noted(s.at(0));
    const double exposure = std::exp2(s.stops_brighter(f));
    for (std::size_t i = 0; i < std::min(m.lamps.size(), most_lamps); ++i) {
      if (s.dark[static_cast<std::size_t>(f)]) break;
      const double px = std::abs(m.disc_px(m.lamps[i].z_m));
      if (px < 12.0) continue;
      Observation o;
      o.name = fmt::format("lamp {}", i);
      o.value = px + noise_px * off(random);
      o.sigma = noise_px;
      o.at = Length::from_m(m.lamps[i].z_m);
      frame.seen.push_back(o);
      const double light = exposure * std::pow(m.opening_mm(), 2.0) /
                           (m.lamps[i].z_m * m.lamps[i].z_m) * (1.0 + 0.02 * off(random));
      frame.lights.push_back({o.name, {light, 0.8 * light, 0.6 * light}, *o.at});
    }
    if (frame.seen.size() >= 4) {
      Observation view;
      view.kind = Observation::Kind::view;
      view.name = "places of lamps";
      view.value = m.image_mm() / m.pitch_mm() * (1.0 + 0.0005 * off(random));
      view.sigma = 0.0007 * view.value;
      frame.seen.push_back(view);
    }
    out.push_back(std::move(frame));
  }
  return out;
}

double share_held(const MadeSequence& s, const CameraFrames& c, double* worst = nullptr) {
  const FollowedValue& focus = *c.value(Parameter::focus);
  double held = 0.0;
  for (const FrameValue& v : focus.at) {
    const double off = std::abs(v.curve - s.dioptres(v.frame - s.first));
    held += off <= v.margin ? 1.0 : 0.0;
    if (worst != nullptr) *worst = std::max(*worst, off / v.margin);
  }
  return held / static_cast<double>(focus.at.size());
}

TEST(CameraFrames, TellTheFocusWithinItsMargins) {
  int good = 0;
  constexpr int sequences = 12;
  for (std::uint32_t seed = 600; seed < 600 + sequences; ++seed) {
    const MadeSequence s = plates::made_sequence(seed);
    const CameraFrames c = follow_camera(seen_in(s, seed));
    good += share_held(s, c) >= 0.9 ? 1 : 0;
  }
  EXPECT_GE(good, sequences - 1);
}

TEST(CameraFrames, TellAPullThatTheNotesKnowNothingOf) {
  MadeSequence s = plates::made_sequence(610);
  s.way = FocusWay::pull;
  s.zoom = 1.0;
  s.brighter = 0.0;
  s.begins = 30.0;
  s.lasts = 20.0;
  s.ease = 0;
  const CameraFrames c = follow_camera(seen_in(s, 1));
  const auto& moves = c.value(Parameter::focus)->moves.moves;
  ASSERT_EQ(moves.size(), 1U);
  EXPECT_EQ(moves[0].kind, MoveKind::pull);
  EXPECT_NEAR(moves[0].begins, s.first + 30.0, 2.0);
  EXPECT_NEAR(moves[0].ends, s.first + 50.0, 2.0);
  EXPECT_TRUE(c.value(Parameter::stop)->moves.moves.empty());
  EXPECT_TRUE(c.value(Parameter::focal)->moves.moves.empty());
  EXPECT_TRUE(c.value(Parameter::exposure)->moves.moves.empty());
  EXPECT_FALSE(c.notes_disagree);
}

TEST(CameraFrames, TellAZoomAndAnExposureApart) {
  MadeSequence s = plates::made_sequence(611);
  s.way = FocusWay::hold;
  s.zoom = 1.3;
  s.zoom_begins = 20.0;
  s.zoom_lasts = 24.0;
  s.brighter = 0.8;
  s.brighter_at = 60.0;
  s.brighter_lasts = 8.0;
  const CameraFrames c = follow_camera(seen_in(s, 2));
  const auto& zoom = c.value(Parameter::focal)->moves.moves;
  ASSERT_EQ(zoom.size(), 1U);
  EXPECT_NEAR(std::exp(zoom[0].to - zoom[0].from), 1.3, 0.01);
  EXPECT_NEAR(zoom[0].begins, s.first + 20.0, 3.0);
  const auto& light = c.value(Parameter::exposure)->moves.moves;
  ASSERT_EQ(light.size(), 1U);
  EXPECT_NEAR(light[0].to - light[0].from, 0.8, 0.05);
  EXPECT_NEAR(light[0].begins, s.first + 60.0, 3.0);
  EXPECT_TRUE(c.value(Parameter::stop)->moves.moves.empty());
  EXPECT_TRUE(c.value(Parameter::focus)->moves.moves.empty());
  EXPECT_TRUE(c.value(Parameter::white)->moves.moves.empty());
}

// The iris closes: discs shrink alike, light goes with them, the focus stays.
TEST(CameraFrames, TellAStopThatIsPulled) {
  MadeSequence s = plates::made_sequence(612);
  s.way = FocusWay::hold;
  s.zoom = 1.0;
  s.brighter = 0.0;
  std::vector<NotedFrame> frames = seen_in(s, 3);
  for (std::size_t i = 0; i < frames.size(); ++i) {
    const double stops =
        0.8 * plates::MadeSequence::eased(0, (static_cast<double>(i) - 40.0) / 20.0);
    for (Observation& o : frames[i].seen) {
      if (o.kind == Observation::Kind::disc) o.value *= std::exp2(-0.5 * stops);
    }
    for (LampLight& l : frames[i].lights) {
      for (double& v : l.light) v *= std::exp2(-stops);
    }
  }
  const CameraFrames c = follow_camera(frames);
  const auto& stop = c.value(Parameter::stop)->moves.moves;
  ASSERT_EQ(stop.size(), 1U);
  EXPECT_NEAR(stop[0].to - stop[0].from, 0.8, 0.08);
  EXPECT_TRUE(c.value(Parameter::focus)->moves.moves.empty());
  const auto& light = c.value(Parameter::exposure)->moves.moves;
  ASSERT_EQ(light.size(), 1U);
  EXPECT_NEAR(light[0].to - light[0].from, -0.8, 0.05);
}

// One lamp a frame does not say on which side of it the focus is; all frames together do.
TEST(CameraFrames, KnowWhichSideOfALampTheFocusIs) {
  MadeSequence s = plates::made_sequence(618);
  s.way = FocusWay::pull;
  s.zoom = 1.0;
  s.first = 1;
  std::vector<NotedFrame> frames = seen_in(s, 4);
  for (std::size_t i = 0; i < frames.size(); ++i) {
    if (i % 8 != 0) {
      frames[i].seen.resize(std::min<std::size_t>(frames[i].seen.size(), 1));
    }
  }
  const CameraFrames c = follow_camera(frames);
  double worst = 0.0;
  EXPECT_GT(share_held(s, c, &worst), 0.9);
  EXPECT_LT(worst, 2.0);
  EXPECT_FALSE(c.two_sides);
}

// One lamp in all of them does not: then the notes have the say, and it is told.
TEST(CameraFrames, SayThatOneLampHasTwoSides) {
  MadeSequence s = plates::made_sequence(618);
  s.way = FocusWay::hold;
  s.zoom = 1.0;
  const CameraFrames c = follow_camera(seen_in(s, 4, 0.1, 1));
  EXPECT_TRUE(c.two_sides);
  EXPECT_GT(share_held(s, c), 0.9);
}

TEST(CameraFrames, BridgeFramesThatShowNothing) {
  int held = 0;
  constexpr std::uint32_t sequences = 12;
  for (std::uint32_t seed = 640; seed < 640 + sequences; ++seed) {
    const MadeSequence s = plates::made_sequence(seed);
    std::vector<NotedFrame> frames = seen_in(s, seed);
    for (std::size_t i = 60; i < 70; ++i) frames[i].seen.clear();
    const CameraFrames c = follow_camera(frames);
    const FrameValue& bridged = c.value(Parameter::focus)->at[65];
    EXPECT_FALSE(bridged.value.has_value());
    held += std::abs(bridged.curve - s.dioptres(65)) <= bridged.margin ? 1 : 0;
  }
  EXPECT_GE(held, 11);
}

TEST(CameraFrames, AreNotLedAstrayByDiscsOfOtherLamps) {
  const MadeSequence s = plates::made_sequence(615);
  std::vector<NotedFrame> frames = seen_in(s, 6);
  std::mt19937 random(6);
  for (NotedFrame& f : frames) {
    for (Observation& o : f.seen) {
      if (random() % 20U == 0 && o.kind == Observation::Kind::disc) o.value *= 1.4;
    }
  }
  const CameraFrames c = follow_camera(frames);
  EXPECT_GT(share_held(s, c), 0.9);
}

// ---- lamps whose distances nobody knows ---------------------------------------------------------

// The same discs, by their tracks: a lamp that goes through the focus is another track beyond it.
std::vector<NotedFrame> unplaced(const MadeSequence& s, std::vector<NotedFrame> frames) {
  for (NotedFrame& f : frames) {
    const MadeShot m = s.at(static_cast<int>(f.frame) - s.first);
    for (Observation& o : f.seen) {
      if (o.kind != Observation::Kind::disc) continue;
      o.name += m.disc_px(o.at->m()) > 0.0 ? " behind" : " in front";
      o.at.reset();
      f.unplaced.push_back(o);
    }
    f.seen.clear();
  }
  return frames;
}

// A note that has the right move, though too late and from somewhere else.
void note_late(const MadeSequence& s, std::vector<NotedFrame>& frames) {
  for (NotedFrame& f : frames) {
    const double late = s.dioptres(f.frame - s.first - 8.0);
    f.estimate.focus = Length::from_m(1.0 / (late + 0.02));
  }
}

double change_held(const MadeSequence& s, const CameraFrames& c, double way = 1.0) {
  const FollowedValue& change = *c.value(Parameter::focus_change);
  const auto told = std::find_if(change.at.begin(), change.at.end(),
                                 [](const FrameValue& v) { return v.value.has_value(); });
  double held = 0.0;
  for (const FrameValue& v : change.at) {
    const double truth = s.dioptres(v.frame - s.first) - s.dioptres(told->frame - s.first);
    held += std::abs(way * v.curve - truth) <= v.margin ? 1.0 : 0.0;
  }
  return held / static_cast<double>(change.at.size());
}

TEST(CameraFrames, TellHowTheFocusChangesByLampsThatNobodyKnows) {
  int good = 0;
  constexpr int sequences = 12;
  for (std::uint32_t seed = 700; seed < 700 + sequences; ++seed) {
    MadeSequence s = plates::made_sequence(seed);
    s.zoom = 1.0;
    std::vector<NotedFrame> frames = unplaced(s, seen_in(s, seed));
    note_late(s, frames);
    const CameraFrames c = follow_camera(frames);
    EXPECT_TRUE(c.relative);
    EXPECT_EQ(c.value(Parameter::focus), nullptr);
    ASSERT_NE(c.value(Parameter::focus_change), nullptr) << seed << ": " << c.untold;
    good += change_held(s, c) >= 0.9 ? 1 : 0;
    const auto& moves = c.value(Parameter::focus_change)->moves.moves;
    EXPECT_EQ(moves.empty(), s.way == FocusWay::hold) << seed;
    EXPECT_EQ(c.value(Parameter::exposure)->moves.moves.empty(), s.brighter == 0.0) << seed;
  }
  EXPECT_GE(good, sequences - 1);
}

// Notes that stand still say nothing of the way: then all of it may be mirrored.
TEST(CameraFrames, LeaveTheWayOpenWhereNotesDo) {
  MadeSequence s = plates::made_sequence(710);
  s.way = FocusWay::pull;
  s.zoom = 1.0;
  const CameraFrames c = follow_camera(unplaced(s, seen_in(s, 9)));
  ASSERT_NE(c.value(Parameter::focus_change), nullptr) << c.untold;
  EXPECT_TRUE(c.way_open);
  EXPECT_GT(std::max(change_held(s, c, 1.0), change_held(s, c, -1.0)), 0.9);
  // And where the note has it the other way round, it is told the other way round.
  std::vector<NotedFrame> frames = unplaced(s, seen_in(s, 9));
  note_late(s, frames);
  const CameraFrames known = follow_camera(frames);
  EXPECT_FALSE(known.way_open);
  EXPECT_GT(change_held(s, known), 0.9);
}

TEST(CameraFrames, SayWhereAChangeOfFocusCannotBeTold) {
  MadeSequence s = plates::made_sequence(711);
  s.way = FocusWay::pull;
  s.zoom = 1.4;
  s.zoom_begins = 20.0;
  s.zoom_lasts = 40.0;
  const CameraFrames zoomed = follow_camera(unplaced(s, seen_in(s, 10)));
  EXPECT_EQ(zoomed.value(Parameter::focus_change), nullptr);
  EXPECT_NE(zoomed.untold.find("larger and smaller alike"), std::string::npos) << zoomed.untold;
  s.zoom = 1.0;
  const CameraFrames two = follow_camera(unplaced(s, seen_in(s, 10, 0.1, 2)));
  EXPECT_EQ(two.value(Parameter::focus_change), nullptr);
  EXPECT_NE(two.untold.find("fewer than 3 lamps"), std::string::npos) << two.untold;
  // What light does is told all the same.
  EXPECT_NE(two.value(Parameter::exposure), nullptr);
}

TEST(CameraFrames, SayWhatTheyNeed) {
  EXPECT_THROW(follow_camera({}), OpticsError);
  const MadeSequence s = plates::made_sequence(616);
  std::vector<NotedFrame> frames = seen_in(s, 7);
  std::swap(frames[3], frames[4]);
  EXPECT_THROW(follow_camera(frames), UsageError);
  std::swap(frames[3], frames[4]);
  for (NotedFrame& f : frames) f.seen.clear();
  EXPECT_THROW(follow_camera(frames), OpticsError);
}

TEST(CameraFrames, CanBeStopped) {
  const MadeSequence s = plates::made_sequence(617);
  std::stop_source stop;
  stop.request_stop();
  EXPECT_THROW(follow_camera(seen_in(s, 8), {{}, {.stop = stop.get_token()}}), Cancelled);
}

}  // namespace camera_frames_test
}  // namespace jolly_iris
