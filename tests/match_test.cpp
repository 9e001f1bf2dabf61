#include "jolly_iris/match/match.hpp"

#include <gtest/gtest.h>

#include <cmath>
#include <functional>
#include <numbers>
#include <random>
#include <stdexcept>

#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/optics/sharpness.hpp"
#include "support.hpp"

namespace jolly_iris {
namespace match_test {

using testing::holds;
using testing::message_of;

CameraEstimate usual_notes() {
  CameraEstimate n;
  n.body = {.gate = {25.9_mm, 14.56875_mm}, .pixels = {1920, 1080}};
  n.lens = {.focal = 53_mm};
  n.take = {.stop = f_number(2.0)};
  n.focus = 2.4_m;
  return n;
}

class Dice {
 public:
  explicit Dice(std::uint32_t seed) : random_(seed) {}
  double uniform(double low, double high) {
    return std::uniform_real_distribution<double>(low, high)(random_);
  }
  double normal() { return std::normal_distribution<double>(0.0, 1.0)(random_); }

 private:
  std::mt19937 random_;
};

// What a camera with these true values shows of twelve lamps, of how far places lie from the middle
// and of the discs' shape; all with 0.7 % of noise.
std::vector<Observation> seen_by(const CameraEstimate& truth, Dice& dice) {
  std::vector<Observation> out;
  const auto add = [&](Observation o, double fraction) {
    o.value = predicted(o, truth);
    o.sigma = fraction * o.value + (o.kind == Observation::Kind::disc ? 0.1 : 0.0);
    o.value += o.sigma * dice.normal();
    if (o.value > 0.0) out.push_back(o);
  };
  for (int i = 0; i < 12; ++i) {
    // From a third of the focus to far behind it, in dioptres; the scene has them as it counts.
    const double inverse =
        (1.0 / truth.focus.m()) * (i < 3 ? dice.uniform(1.3, 2.5) : dice.uniform(0.0, 0.8));
    Observation o;
    o.name = "lamp " + std::to_string(i + 1);
    o.at = inverse < 1e-3 ? Length::infinity() : Length::from_m(1.0 / inverse / truth.scene_scale);
    add(o, 0.007);
  }
  Observation view;
  view.kind = Observation::Kind::view;
  view.name = "places";
  add(view, 0.002);
  Observation oval;
  oval.kind = Observation::Kind::oval;
  oval.name = "shape";
  oval.in_scene = false;
  add(oval, 0.004);
  return out;
}

TEST(Match, AgreesWithNotesThatAreRight) {
  int agreed = 0;
  const int all = testing::cases(30, 4);
  for (int seed = 1; seed <= all; ++seed) {
    Dice dice(static_cast<std::uint32_t>(seed));
    const CameraEstimate n = usual_notes();
    agreed += rank_hypotheses(n, seen_by(n, dice)).notes_agree ? 1 : 0;
  }
  EXPECT_GE(agreed, all - 2);
}

TEST(Match, FindsTheStopWhereTheNotesAreATenthOff) {
  Dice dice(4);
  CameraEstimate truth = usual_notes();
  truth.take.stop.value *= 1.1;
  const MatchResult m =
      match(usual_notes(), seen_by(truth, dice), {.doubts = {{Parameter::stop, {}}}});
  for (const FittedParameter& u : m.parameters) {
    if (u.parameter != Parameter::stop) continue;
    EXPECT_NEAR(u.value, 2.2, 0.05);
    EXPECT_NEAR(u.noted, 2.0, 1e-12);
    EXPECT_TRUE(u.determined);
  }
}

// Everything true is drawn as notes usually miss it; nothing but the margins is asked.
TEST(Match, MarginsAreHonestOverManyCases) {
  int cases = 0;
  int covered = 0;
  for (std::uint32_t seed = 1; seed <= 400; ++seed) {
    Dice dice(1000 + seed);
    CameraEstimate notes = usual_notes();
    notes.lens.focal = Length::from_mm(dice.uniform(24.0, 120.0));
    notes.take.stop.value = dice.uniform(1.4, 4.0);
    notes.focus = Length::from_m(dice.uniform(1.0, 5.0));
    CameraEstimate truth = notes;
    const auto off = [&](Parameter u) { return std::exp(usual_deviation(u) * dice.normal()); };
    truth.lens.focal = truth.lens.focal * off(Parameter::focal);
    const double gate = off(Parameter::gate);
    truth.body.gate = {truth.body.gate.width * gate, truth.body.gate.height * gate};
    truth.take.stop.value *= off(Parameter::stop);
    truth.focus = truth.focus * off(Parameter::focus);
    truth.scene_scale *= off(Parameter::scale);
    const MatchResult m = match(notes, seen_by(truth, dice));
    for (const FittedParameter& u : m.parameters) {
      double is = 0.0;
      if (u.parameter == Parameter::focal) is = truth.lens.focal.mm();
      if (u.parameter == Parameter::stop) is = truth.take.stop.value;
      if (u.parameter == Parameter::focus) is = truth.focus.m();
      if (u.parameter == Parameter::scale) is = truth.scene_scale;
      if (is == 0.0) continue;
      ++cases;
      covered += std::abs(u.value - is) <= 0.98 * u.margin ? 1 : 0;  // 1.96 deviations: 95 %
    }
  }
  const double fraction = 100.0 * covered / cases;
  EXPECT_GE(fraction, 92.0);
  EXPECT_LE(fraction, 98.0);
}

struct Planted {
  const char* name;
  const char* message;  // what must be among the first explanation's words
  std::function<void(CameraEstimate& truth, CameraEstimate& notes)> make;
};

class PlantedMistake : public ::testing::TestWithParam<Planted> {};

TEST_P(PlantedMistake, IsRankedFirst) {
  int first = 0;
  std::string others;
  const int seeds = testing::cases(10, 2);
  for (int seed = 1; seed <= seeds; ++seed) {
    Dice dice(77U + static_cast<std::uint32_t>(seed));
    CameraEstimate truth = usual_notes();
    truth.take.stop.value = dice.uniform(1.4, 4.0);
    truth.focus = Length::from_m(dice.uniform(1.2, 4.0));
    CameraEstimate notes = truth;
    GetParam().make(truth, notes);
    const HypothesisRanking e = rank_hypotheses(notes, seen_by(truth, dice));
    bool found = false;
    if (!e.ranked.empty()) {
      for (const std::string& m : e.ranked.front().mistakes) {
        found = found || m.find(GetParam().message) != std::string::npos;
      }
    }
    first += found ? 1 : 0;
    if (found) continue;
    others += e.ranked.empty() ? "\nnothing" : "\n" + e.ranked.front().mistakes.front();
  }
  EXPECT_GE(first, seeds - 1) << "of " << seeds << "; else" << others;
}

INSTANTIATE_TEST_SUITE_P(
    All, PlantedMistake,
    ::testing::
        Values(Planted{"adapter_stop", "adapter 0.71 left out of the stop",
                       [](CameraEstimate& truth, CameraEstimate& notes) {
                         truth.lens.adapter = 0.71;
                         notes.lens.focal = notes.lens.focal * 0.71;
                       }},
               Planted{"adapter_focal", "adapter 0.71 left out of the focal length",
                       [](CameraEstimate& truth, CameraEstimate& notes) {
                         truth.lens.adapter = 0.71;
                         notes.take.stop.value *= 0.71;
                       }},
               // At equal ratio of focal length and gate a plate cannot tell
               // these two: one group.
               Planted{"window", "record window forgotten: only 75 %",
                       [](CameraEstimate& truth, CameraEstimate&) {
                         truth.body.gate = {truth.body.gate.width * 0.75,
                                            truth.body.gate.height * 0.75};
                       }},
               Planted{"feet", "in feet, not in metres",
                       [](CameraEstimate& truth, CameraEstimate& notes) {
                         notes.focus = truth.focus / 0.3048;
                       }},
               Planted{"mark", "mark was read as the distance from the camera",
                       [](CameraEstimate& truth, CameraEstimate& notes) {
                         truth.lens.focal = notes.lens.focal = 135_mm;
                         truth.focus = 1.1_m;
                         notes.focus = mark_from_focus(truth.lens, truth.focus);
                       }},
               Planted{"inches", "in inches, not in centimetres",
                       [](CameraEstimate& truth, CameraEstimate& notes) {
                         notes.focus = truth.focus / 2.54;
                       }},
               Planted{"floor", "measured along the floor",
                       [](CameraEstimate& truth, CameraEstimate& notes) {
                         truth.focus = 2.5_m;
                         truth.take.height = notes.take.height = 1.5_m;
                         notes.focus = 2_m;
                       }},
               Planted{"radius", "computed from the opening's radius",
                       [](CameraEstimate& truth, CameraEstimate& notes) {
                         notes.take.stop.value = 2.0 * truth.take.stop.value;
                       }},
               Planted{"equivalent", "equivalent on a 36 x 24 mm gate was typed in",
                       [](CameraEstimate& truth, CameraEstimate& notes) {
                         const Extent gate = recorded_gate(truth.body);
                         notes.lens.focal =
                             truth.lens.focal * (std::hypot(36.0, 24.0) /
                                                 std::hypot(gate.width.mm(), gate.height.mm()));
                       }},
               Planted{"squeeze_twice", "the squeeze 1.5 was used twice",
                       [](CameraEstimate& truth, CameraEstimate& notes) {
                         truth.lens.squeeze = notes.lens.squeeze = 1.5;
                         notes.body.gate.width = truth.body.gate.width * 1.5;
                       }},
               Planted{"stretch", "a stretch of 1.1 to the side",
                       [](CameraEstimate& truth, CameraEstimate&) {
                         truth.body.pixel_aspect = 1.0 / 1.1;
                       }},
               Planted{"near_side", "focus was on the near side",
                       [](CameraEstimate& truth, CameraEstimate& notes) {
                         truth.focus = 1.5_m;
                         notes.focus = 2.1_m;
                         notes.half_deep = 0.6_m;
                       }},
               Planted{"hundred", "100 times too large",
                       [](CameraEstimate& truth, CameraEstimate&) { truth.scene_scale = 0.01; }},
               Planted{"ten", "10 times too small",
                       [](CameraEstimate& truth, CameraEstimate&) { truth.scene_scale = 10.0; }},
               Planted{"inch_scale", "inches taken for centimetres",
                       [](CameraEstimate& truth, CameraEstimate&) { truth.scene_scale = 2.54; }},
               Planted{"centimetres", "in centimetres, not in inches",
                       [](CameraEstimate& truth, CameraEstimate& notes) {
                         notes.focus = truth.focus * 2.54;
                       }},
               Planted{"radial", "measured along the ray",
                       [](CameraEstimate& truth, CameraEstimate& notes) {
                         truth.off_axis = notes.off_axis = 0.6;
                         notes.focus = truth.focus / std::cos(0.6);
                       }},
               Planted{"adapter_both", "adapter 0.71 left out of both",
                       [](CameraEstimate& truth, CameraEstimate&) { truth.lens.adapter = 0.71; }},
               Planted{"adapter_twice", "had the adapter 0.71 in it already",
                       [](CameraEstimate& truth, CameraEstimate& notes) {
                         truth.lens.adapter = notes.lens.adapter = 0.71;
                         notes.lens.focal = truth.lens.focal * 0.71;
                       }},
               Planted{"whole_gate", "the whole gate was recorded",
                       [](CameraEstimate& truth, CameraEstimate& notes) {
                         truth.body.photosites = notes.body.photosites = PixelSize{4000, 2250};
                         notes.body.window = PixelSize{3000, 1688};
                       }},
               Planted{"diameter", "the opening's diameter was typed as its radius",
                       [](CameraEstimate& truth, CameraEstimate& notes) {
                         notes.take.stop.value = 0.5 * truth.take.stop.value;
                       }},
               Planted{"elsewhere", "focus was not where noted",
                       // no ratio that a unit has
                       [](CameraEstimate& truth, CameraEstimate& notes) {
                         truth.focus = notes.focus * 0.7;
                       }},
               // One edit of a true file each: a key left out, a number from another column.
               Planted{"squeeze_key", "squeeze 1.33 forgotten",
                       [](CameraEstimate& truth, CameraEstimate& notes) {
                         truth.body.gate = notes.body.gate = {22.0_mm, 18.6_mm};
                         truth.lens.squeeze = 1.33;
                       }},
               Planted{"squeeze_key_2", "squeeze 2 forgotten",
                       [](CameraEstimate& truth, CameraEstimate& notes) {
                         truth.body.gate = notes.body.gate = {22.0_mm, 18.6_mm};
                         truth.lens.squeeze = 2.0;
                       }},
               Planted{"not_mounted", "the adapter 0.76 was not mounted",
                       [](CameraEstimate&, CameraEstimate& notes) { notes.lens.adapter = 0.76; }},
               Planted{"stop_had_it", "the noted stop had the adapter 0.71 in it already",
                       [](CameraEstimate& truth, CameraEstimate& notes) {
                         truth.lens.adapter = notes.lens.adapter = 0.71;
                         notes.take.stop.value = truth.take.stop.value * 0.71;
                       }},
               Planted{"no_squeeze", "the squeeze 1.5 was noted, but the lens has none",
                       [](CameraEstimate&, CameraEstimate& notes) { notes.lens.squeeze = 1.5; }},
               Planted{"other_stop", "the stop is another",
                       [](CameraEstimate& truth, CameraEstimate& notes) {
                         truth.take.stop.value = 2.0;
                         notes.take.stop.value = 3.3;
                       }},
               Planted{"other_focal", "the focal length is another",
                       [](CameraEstimate&, CameraEstimate& notes) { notes.lens.focal = 40_mm; }},
               Planted{"other_focus", "focus was not where noted",
                       [](CameraEstimate& truth, CameraEstimate& notes) {
                         notes.focus = truth.focus * 1.7;
                       }},
               Planted{"squeeze", "squeeze 2 forgotten",
                       [](CameraEstimate& truth, CameraEstimate&) {
                         truth.lens.squeeze = 2.0;
                         truth.body.gate.width = truth.body.gate.width / 2.0;
                       }}),
    [](const ::testing::TestParamInfo<Planted>& planted) {
      return std::string(planted.param.name);
    });

TEST(Match, SaysWhatWouldTellAGroupApart) {
  Dice dice(3);
  CameraEstimate truth = usual_notes();
  truth.lens.adapter = 2.0;
  CameraEstimate notes = usual_notes();  // without it, in both
  const HypothesisRanking e = rank_hypotheses(notes, seen_by(truth, dice));
  ASSERT_FALSE(e.ranked.empty());
  const RankedHypothesis& first = e.ranked.front();
  ASSERT_GE(first.mistakes.size(), 2U);  // a smaller window looks the same
  EXPECT_TRUE(holds(first.tell_apart, "record mode")) << first.tell_apart;
}

TEST(Match, SaysThatNothingExplainsNonsense) {
  Dice dice(9);
  const CameraEstimate n = usual_notes();
  std::vector<Observation> seen = seen_by(n, dice);
  for (std::size_t i = 0; i < 12; ++i) seen[i].value *= dice.uniform(0.3, 3.0);
  const HypothesisRanking e = rank_hypotheses(n, seen);
  EXPECT_TRUE(e.none);
  EXPECT_FALSE(e.notes_agree);
}

TEST(Match, TellsWhatItCannotWorkWith) {
  const CameraEstimate n = usual_notes();
  EXPECT_TRUE(holds(message_of<UsageError>([&] { match(n, {}); }), "nothing to match"));
  Observation o;
  o.name = "lamp";
  o.at = 10_m;
  o.value = 12.0;
  EXPECT_TRUE(holds(message_of<UsageError>([&] { match(n, {o}); }), "'lamp'"));
  o.sigma = 0.1;
  o.at = -1_m;
  EXPECT_TRUE(holds(message_of<OpticsError>([&] { match(n, {o}); }), "no distance"));
  o.at = 10_m;
  EXPECT_TRUE(holds(message_of<UsageError>([&] {
                      match(n, {o}, {.doubts = {{Parameter::stop, -0.1}}});
                    }),
                    "the stop is doubted by -0.1"));
  o.kind = Observation::Kind::grey;
  EXPECT_TRUE(holds(message_of<OpticsError>([&] { match(n, {o}); }), "its luminance"));
  o.luminance = 80.0;
  EXPECT_TRUE(holds(message_of<OpticsError>([&] { match(n, {o}); }), "take.iso"));
  o.kind = Observation::Kind::tinge;
  EXPECT_TRUE(holds(message_of<OpticsError>([&] { match(n, {o}); }), "take.white"));
  EXPECT_TRUE(holds(message_of<UsageError>([] { match(std::vector<NotedPlate>{}); }), "no plate"));
}

const FittedParameter& found(const MatchResult& m, Parameter which) {
  for (const FittedParameter& u : m.parameters) {
    if (u.parameter == which) return u;
  }
  throw std::runtime_error(std::string(to_string(which)) + " is not among the unknowns");
}

// H = q L t / N², and a metered grey of 12.5 · 2^EV / 100 cd/m² is 0.18: ISO 2720.
TEST(Match, ACardTellsTheLightThatTheNotesDoNotAccountFor) {
  CameraEstimate n = usual_notes();
  n.take.iso = 800.0;
  n.take.shutter = Shutter{Duration::from_seconds(1.0 / 48.0), {}};
  Observation card;
  card.kind = Observation::Kind::grey;
  card.name = "card";
  // f/2, 1/48 s, ISO 800: EV 4.585 at ISO 100 but for the longer image distance at 2.4 m.
  card.luminance = 3.0;
  const double ev = std::log2(4.0 * 48.0 / 8.0) + 2.0 * std::log2(1.0 / (1.0 - 0.058 / 2.4));
  EXPECT_NEAR(predicted(card, n), 0.18 * 3.0 / (0.125 * std::exp2(ev)), 0.003);
  card.value = 2.0 * predicted(card, n);  // a stop brighter
  card.sigma = 0.01 * card.value;
  const MatchResult m = match(n, {card}, {.doubts = {{Parameter::exposure, {}}}});
  EXPECT_NEAR(found(m, Parameter::exposure).value, 1.0, 0.05);
  EXPECT_TRUE(found(m, Parameter::exposure).determined);
  EXPECT_FALSE(found(m, Parameter::stop).determined);
  // Where light is noted well, it is the stop that moves: by half as many stops of diameter.
  const MatchResult by_stop =
      match(n, {card}, {.doubts = {{Parameter::exposure, 0.02}, {Parameter::stop, {}}}});
  EXPECT_NEAR(found(by_stop, Parameter::stop).value, 2.0 / std::sqrt(2.0), 0.05);
}

TEST(Match, ACardInAKnownLightTellsWhatTheCameraWasTold) {
  CameraEstimate n = usual_notes();
  n.take.white = White{Temperature::from_kelvin(5600.0), 0.0};
  CameraEstimate truth = n;
  truth.take.white->temperature = Temperature::from_kelvin(4300.0);
  Observation card;
  card.kind = Observation::Kind::tinge;
  card.name = "card";
  card.light = {Temperature::from_kelvin(5200.0), 0.0};
  card.value = predicted(card, truth);
  EXPECT_LT(card.value, 1.0);  // told warmer than the light: it looks blue
  card.sigma = 0.01;
  const MatchResult m = match(n, {card}, {.doubts = {{Parameter::white, {}}}});
  const FittedParameter& white = found(m, Parameter::white);
  EXPECT_NEAR(white.value, 4300.0, 40.0);
  EXPECT_GT(white.margin, 40.0);
  EXPECT_EQ(white.noted, 5600.0);
}

// Farther back everything is more blurred behind the focus, and shows nearer together.
TEST(Match, FindsACameraThatStoodFartherBack) {
  Dice dice(5);
  CameraEstimate truth = usual_notes();
  truth.farther = 25_cm;
  std::vector<Observation> seen = seen_by(truth, dice);
  const MatchSettings settings{.doubts = {{Parameter::distance, {}},
                                          {Parameter::scale, 0.001},
                                          {Parameter::focus, 0.002},
                                          {Parameter::stop, 0.005}}};
  const MatchResult m = match(usual_notes(), seen, settings);
  const FittedParameter& back = found(m, Parameter::distance);
  EXPECT_NEAR(back.value, 0.25, back.margin);
  EXPECT_LT(back.margin, 0.1);
  EXPECT_NEAR(m.estimate.farther.m(), back.value, 1e-12);
  EXPECT_THROW(found(match(usual_notes(), seen), Parameter::distance), std::runtime_error);
}

TEST(Match, SoftEdgesTellTheStop) {
  CameraEstimate truth = usual_notes();
  truth.take.stop.value = 2.8;
  std::vector<Observation> seen;
  for (const double z : {4.0, 6.0, 12.0, 30.0}) {
    Observation o;
    o.kind = Observation::Kind::edge;
    o.name = "edges";
    o.at = Length::from_m(z);
    o.value = predicted(o, truth);
    EXPECT_NEAR(4.0 * o.value,
                std::abs(to_pixels(circle_of_confusion(camera_of(truth), *o.at), camera_of(truth))),
                1e-9);
    o.sigma = 0.03 * o.value;
    seen.push_back(o);
  }
  const MatchResult m = match(usual_notes(), seen, {.doubts = {{Parameter::stop, {}}}});
  EXPECT_NEAR(found(m, Parameter::stop).value, 2.8, found(m, Parameter::stop).margin);
  EXPECT_LT(found(m, Parameter::stop).margin, 0.25);
}

TEST(Match, ALampOfUnknownDistanceIsNoFartherThanInfinity) {
  const CameraEstimate n = usual_notes();
  Observation lamp;
  lamp.name = "lamp";
  const double max =
      std::abs(to_pixels(circle_of_confusion(camera_of(n), Length::infinity()), camera_of(n)));
  lamp.value = 0.7 * max;
  lamp.sigma = 0.01 * lamp.value;
  EXPECT_NEAR(found(match(n, {lamp}), Parameter::stop).value, 2.0, 1e-6);  // it may be nearer
  lamp.value = 1.4 * max;
  const MatchResult m = match(n, {lamp}, {.doubts = {{Parameter::stop, {}}}});
  EXPECT_LE(found(m, Parameter::stop).value, 2.0 / 1.3);  // so large only where the stop is wider
}

// One plate has its lamps so far apart that it tells the focal length; the other only discs.
TEST(Match, PlatesOfOneCameraHelpEachOther) {
  int covered = 0;
  int cases = 0;
  for (std::uint32_t seed = 1; seed <= 60; ++seed) {
    Dice dice(500 + seed);
    const CameraEstimate notes = usual_notes();
    CameraEstimate truth = notes;
    truth.lens.focal = truth.lens.focal * std::exp(0.01 * dice.normal());
    CameraEstimate other = notes;
    other.take.stop.value = 4.0;
    other.focus = 3_m;
    CameraEstimate other_truth = other;
    other_truth.lens = truth.lens;
    other_truth.take.stop.value *= std::exp(0.04 * dice.normal());
    std::vector<Observation> first = seen_by(truth, dice);
    std::vector<Observation> second = seen_by(other_truth, dice);
    std::erase_if(second, [](const Observation& o) { return o.kind == Observation::Kind::view; });
    const MatchResult alone = match(other, second);
    const auto both = match(std::vector<NotedPlate>{{notes, first}, {other, second}});
    ASSERT_EQ(both.size(), 2U);
    EXPECT_EQ(found(both[0], Parameter::focal).value, found(both[1], Parameter::focal).value);
    EXPECT_NE(found(both[0], Parameter::stop).value, found(both[1], Parameter::stop).value);
    EXPECT_LT(found(both[1], Parameter::focal).margin, 0.9 * found(alone, Parameter::focal).margin);
    for (const auto& [result, is] : {std::pair{&both[0], &truth}, {&both[1], &other_truth}}) {
      const FittedParameter& stop = found(*result, Parameter::stop);
      const FittedParameter& focal = found(*result, Parameter::focal);
      covered += std::abs(stop.value - is->take.stop.value) <= stop.margin ? 1 : 0;
      covered += std::abs(focal.value - is->lens.focal.mm()) <= focal.margin ? 1 : 0;
      cases += 2;
    }
  }
  EXPECT_GE(100.0 * covered / cases, 92.0);
}

TEST(Match, AMistakeInTheNotesOfSeveralPlatesIsFoundOnce) {
  Dice dice(8);
  std::vector<NotedPlate> plates;
  for (const double stop : {2.0, 2.8}) {
    CameraEstimate notes = usual_notes();
    notes.take.stop.value = stop;
    CameraEstimate truth = notes;
    truth.lens.adapter = 0.71;
    notes.lens.focal = notes.lens.focal * 0.71;
    plates.push_back({notes, seen_by(truth, dice)});
  }
  const HypothesisRanking e = rank_hypotheses(plates);
  ASSERT_FALSE(e.ranked.empty());
  EXPECT_TRUE(holds(e.ranked.front().mistakes.front(), "adapter 0.71 left out of the stop"));
  ASSERT_EQ(e.ranked.front().others.size(), 1U);
  EXPECT_NEAR(found(e.ranked.front().others.front(), Parameter::stop).value, 2.8, 0.2);
}

// Its factor stands in no list: the lens's own focal length, from the picture's header, tells it.
TEST(Match, AnAdapterOfAnUnusualFactorIsToldByTheLensItself) {
  int first = 0;
  for (std::uint32_t seed = 1; seed <= 10; ++seed) {
    Dice dice(seed);
    CameraEstimate truth = usual_notes();
    truth.lens.adapter = 0.76;
    CameraEstimate notes = usual_notes();
    notes.lens.focal = notes.lens.focal * 0.76;
    std::vector<Observation> seen = seen_by(truth, dice);
    seen.push_back({.kind = Observation::Kind::engraved_focal,
                    .name = "the file's focal length",
                    .value = 53.0,
                    .sigma = 0.3,
                    .in_scene = false});
    const HypothesisRanking e = rank_hypotheses(notes, seen);
    ASSERT_FALSE(e.ranked.empty()) << seed;
    first += holds(e.ranked.front().mistakes.front(), "adapter 0.76 left out of the stop") ? 1 : 0;
    // Without it nobody guesses hundredths.
    for (const RankedHypothesis& r : rank_hypotheses(notes, seen_by(truth, dice)).ranked) {
      for (const std::string& m : r.mistakes) EXPECT_EQ(m.find("0.76"), std::string::npos) << m;
    }
  }
  EXPECT_GE(first, 9);
}

// Lamps here and there, and the discs that a plate shows of them.
struct LampsSeen {
  std::vector<ExpectedLamp> lamps{};
  std::vector<DetectedDisc> discs{};
};
LampsSeen lamps_seen(Dice& dice, int count, std::array<double, 2> reach,
                     std::array<double, 2> times) {
  LampsSeen out;
  for (int i = 0; i < count; ++i) {
    const double x = dice.uniform(-reach[0], reach[0]);
    const double y = dice.uniform(-reach[1], reach[1]);
    out.lamps.push_back({"lamp " + std::to_string(i), {x, y}, 10_m, {}});
    const double off = dice.normal();
    out.discs.push_back({{times[0] * x + off, times[1] * y + dice.normal()}, 30.0, 0.3});
  }
  return out;
}

TEST(PairLamps, FindsThemAtAnotherFocalLengthAndSaysWhich) {
  Dice dice(2);
  auto [lamps, discs] = lamps_seen(dice, 14, {800, 400}, {1.4, 1.4});
  discs.push_back({{3.0, 900.0}, 30.0, 0.3});  // nobody's
  const LampPairs pairs = pair_lamps(discs, lamps, 3000.0, 1920.0);
  EXPECT_EQ(pairs.left, std::vector<std::size_t>{14});
  ASSERT_TRUE(pairs.view.has_value());
  EXPECT_NEAR(pairs.view->value, 4200.0, 3.0 * pairs.view->sigma);
}

TEST(PairLamps, FindsThemInAPlateThatIsStretchedAndSaysByHowMuch) {
  Dice dice(3);
  auto [lamps, discs] = lamps_seen(dice, 16, {400, 240}, {1.2 * 1.8, 1.8});
  const LampPairs pairs = pair_lamps(discs, lamps, 3000.0, 1920.0);
  EXPECT_TRUE(pairs.left.empty());
  ASSERT_TRUE(pairs.view.has_value());
  EXPECT_NEAR(pairs.view->value, 1.8 * 3000.0, 3.0 * pairs.view->sigma);
  ASSERT_TRUE(pairs.stretch.has_value());
  EXPECT_NEAR(pairs.stretch->value, 1.0 / 1.2, 3.0 * pairs.stretch->sigma);
}

// Discs that have nothing to do with the lamps are none of them, at whatever scale.
TEST(PairLamps, PairsNoneByChance) {
  int plates_with_pairs = 0;
  for (unsigned seed = 1; seed <= 200; ++seed) {
    Dice dice(seed);
    std::vector<ExpectedLamp> lamps;
    std::vector<DetectedDisc> discs;
    for (int i = 0; i < 16; ++i) {
      lamps.push_back({"lamp " + std::to_string(i),
                       {dice.uniform(-900, 900), dice.uniform(-500, 500)},
                       10_m,
                       {}});
      discs.push_back({{dice.uniform(-900, 900), dice.uniform(-500, 500)}, 30.0, 0.3});
    }
    const LampPairs pairs = pair_lamps(discs, lamps, 3000.0, 1920.0);
    plates_with_pairs += pairs.discs.empty() ? 0 : 1;
  }
  // One in a hundred at each of three looks.
  EXPECT_LE(plates_with_pairs, 10);
}

}  // namespace match_test
}  // namespace jolly_iris
