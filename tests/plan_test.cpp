// Plans: what they show, and that they can be read.
#include "jolly_iris/drawing/plan.hpp"

#include <gtest/gtest.h>

#include <cmath>
#include <set>

#include "jolly_iris/files/load.hpp"
#include "support.hpp"

namespace jolly_iris {
namespace plan_test {

using testing::demo;
using testing::holds;

// So many subjects all over the view, from 1.2 m to 45 m, in even steps of their logarithm.
Shot shot_with(int subjects, double view_deg) {
  Shot shot;
  shot.file = "many.shot.toml";
  shot.body = {.gate = {25.9_mm, 14.6_mm}, .pixels = {1920, 1080}};
  const double half = view_deg * M_PI / 360.0;
  shot.lens = {.focal = Length::from_mm(12.95 / std::tan(half))};
  shot.take = {.stop = f_number(2.8), .height = 1.6_m};
  for (int i = 0; i < subjects; ++i) {
    const double z = 2.6 * std::pow(45.0 / 2.6, i / std::max(1.0, subjects - 1.0));
    const double fraction = 0.85 * std::sin(7.3 * i + 1.0);
    SubjectEntry entry;
    entry.name = "thing number " + std::to_string(i);
    entry.place = {z * std::tan(half) * fraction, 1.6 + 0.002 * z * std::cos(3.0 * i), -z};
    shot.subjects.push_back(entry);
  }
  shot.focus.on = "thing number " + std::to_string(subjects / 3);
  return shot;
}

Plan plan_for(const Shot& shot, bool side) {
  return plan_of(shot, shot, nullptr, answer(shot, nullptr), side);
}

bool apart(const PlanBox& a, const PlanBox& b) {
  return a.x + a.width <= b.x || b.x + b.width <= a.x || a.y + a.height <= b.y ||
         b.y + b.height <= a.y;
}

struct Crowd {
  const char* name;
  int subjects;
  double view_deg;
  bool side;
};
void PrintTo(const Crowd& crowd, std::ostream* out) { *out << crowd.name; }

class Crowds : public ::testing::TestWithParam<Crowd> {};

TEST_P(Crowds, EverySubjectIsNamedOnceAndNoLabelCoversAnother) {
  const Plan plan = plan_for(shot_with(GetParam().subjects, GetParam().view_deg), GetParam().side);
  const PlanLayout layout = layout_of(plan);
  std::set<std::string> named;
  std::vector<PlanBox> boxes;
  for (const PlanPanel& panel : layout.panels) {
    EXPECT_EQ(panel.unlabelled, 0);
    EXPECT_GT(panel.px_per_m, 0.0);
    EXPECT_GE(panel.box.x, 0.0);
    EXPECT_LE(panel.box.x + panel.box.width, layout.width);
    EXPECT_LE(panel.box.y + panel.box.height, layout.height);
    for (const PlanLabel& label : panel.labels) {
      EXPECT_TRUE(named.insert(label.name).second) << label.name << " is named twice";
      EXPECT_GE(label.box.x, panel.box.x);
      EXPECT_GE(label.box.y, panel.box.y);
      EXPECT_LE(label.box.x + label.box.width, panel.box.x + panel.box.width);
      EXPECT_LE(label.box.y + label.box.height, panel.box.y + panel.box.height);
      for (const PlanBox& other : boxes) EXPECT_TRUE(apart(label.box, other)) << label.name;
      boxes.push_back(label.box);
      std::string message;
      for (const std::string& line : label.lines) message += line + " ";
      EXPECT_TRUE(holds(message, " m, ")) << "its distance";
      EXPECT_TRUE(message.find("sharp") != std::string::npos ||
                  message.find("px") != std::string::npos)
          << message;
    }
  }
  EXPECT_EQ(named.size(), static_cast<std::size_t>(GetParam().subjects));
  EXPECT_EQ(layout.width, 1280);
  EXPECT_EQ(layout.height, 800);
}

INSTANTIATE_TEST_SUITE_P(All, Crowds,
                         ::testing::Values(Crowd{"three_wide", 3, 60, false},
                                           Crowd{"forty_wide", 40, 60, false},
                                           Crowd{"three_narrow", 3, 4, false},
                                           Crowd{"forty_narrow", 40, 4, false},
                                           Crowd{"forty_wide_side", 40, 60, true},
                                           Crowd{"forty_narrow_side", 40, 4, true}),
                         [](const auto& each) { return std::string(each.param.name); });

TEST(Plan, LabelsStandWhereTheThingsAreToScale) {
  const Plan plan = plan_for(shot_with(3, 60), false);
  const PlanLayout layout = layout_of(plan);
  int checked = 0;
  for (const PlanPanel& panel : layout.panels) {
    for (const PlanLabel& label : panel.labels) {
      for (const SubjectPlace& place : plan.places) {
        if (place.name != label.name) continue;
        const double ahead = (label.anchor_x - panel.box.x) / panel.px_per_m + panel.ahead_m;
        const double right =
            (label.anchor_y - panel.box.y - 0.5 * panel.box.height) / panel.px_per_m +
            panel.aside_m;
        EXPECT_NEAR(ahead, place.axial.m(), 1e-9);
        EXPECT_NEAR(right, place.middle->x, 1e-9);
        ++checked;
      }
    }
  }
  EXPECT_EQ(checked, 3);
}

TEST(Plan, ACameraOnItsSideIsStillSeenFromAbove) {
  // Held upright: what the picture has at its top is to the right of the camera, or to its left.
  LoadedShot loaded = load_shot(demo("quay.shot.toml"));
  Shot shot = loaded.now;
  const auto right_of = [&](double roll) {
    shot.track->rows[0].pan_tilt_roll = {0.0, 0.0, roll};
    const Plan plan = plan_of(shot, shot, &*loaded.scene, answer(shot, &*loaded.scene), false);
    for (const PlanPanel& panel : layout_of(plan).panels) {
      for (const PlanLabel& l : panel.labels) {
        if (l.name != "quay lamps") continue;
        return (l.anchor_y - panel.box.y - 0.5 * panel.box.height) / panel.px_per_m + panel.aside_m;
      }
    }
    return -1e9;
  };
  EXPECT_NEAR(right_of(90.0), right_of(0.0), 1e-6);
  EXPECT_NEAR(right_of(-90.0), right_of(0.0), 1e-6);
}

TEST(Plan, AThinSharpRangeIsShownEnlarged) {
  const PlanLayout layout = layout_of(plan_for(shot_with(3, 4), false));
  ASSERT_EQ(layout.panels.size(), 2U);
  EXPECT_FALSE(layout.panels[0].enlarged);
  EXPECT_TRUE(layout.panels[1].enlarged);
  EXPECT_GT(layout.panels[1].px_per_m, 1.5 * layout.panels[0].px_per_m);
}

TEST(Plan, DrawsBothKindsOfFile) {
  const Plan plan = plan_for(shot_with(3, 60), false);
  const std::string png = plan_png(plan);
  EXPECT_EQ(png.substr(1, 3), "PNG");
  const std::string svg = plan_svg(plan);
  EXPECT_TRUE(holds(svg, "<svg"));
  EXPECT_TRUE(holds(svg, "</svg>"));
  EXPECT_NE(plan_png(plan_for(shot_with(3, 60), true)), png);
}

std::size_t times_in(const std::string& text, const std::string& part) {
  std::size_t count = 0;
  for (auto at = text.find(part); at != std::string::npos; at = text.find(part, at + 1)) ++count;
  return count;
}

// Dots (lines of nothing but round ends) are behind the focus, hatching is cut out by a clip.
TEST(Plan, BlurIsReadWithoutColour) {
  const auto drawn = [](const char* focus) {
    Shot shot = shot_with(5, 60);
    shot.focus.on = focus;
    return plan_svg(plan_for(shot, false));
  };
  const std::string behind = drawn("thing number 0");    // four behind
  const std::string in_front = drawn("thing number 4");  // four in front
  const auto dots = [](const std::string& svg) { return times_in(svg, "stroke-dasharray:0,"); };
  EXPECT_GE(dots(behind), dots(in_front) + 4);
  EXPECT_EQ(dots(in_front), 1U) << "the legend's alone";
  EXPECT_GE(times_in(in_front, "<clipPath"), 4U);
}

TEST(Plan, ThePathOfAPullGoesThroughItsKeys) {
  const LoadedShot loaded = load_shot(demo("drift.shot.toml"));
  Scene scene = *loaded.scene;
  const Plan plan = plan_of(loaded.shot, loaded.now, &scene, loaded.answer, false);
  int keys = 0;
  for (const FocusStep& step : plan.path) {
    keys += step.key ? 1 : 0;
    // By rising frame, in front of the camera of that frame, as far as the focus table says.
    const Answer there = answer_at(loaded.shot, &scene, step.frame);
    EXPECT_NEAR((step.point - step.eye).length(), there.camera.focus.m(), 1e-9);
  }
  EXPECT_EQ(keys, 5);
  EXPECT_TRUE(
      plan_of(shot_with(3, 60), shot_with(3, 60), nullptr, answer(shot_with(3, 60), nullptr), false)
          .path.empty());
}

TEST(Plan, OnlyADistanceIsStillOnTheMap) {
  Shot shot = shot_with(0, 40);
  shot.subjects.push_back({.name = "far bell", .distance = DistanceEntry{.length = 12_m}});
  shot.focus = {};
  shot.take.mark = 3_m;
  const PlanLayout layout = layout_of(plan_for(shot, false));
  std::size_t labels = 0;
  for (const PlanPanel& panel : layout.panels) labels += panel.labels.size();
  EXPECT_EQ(labels, 1U);
  EXPECT_FALSE(plan_png(plan_for(shot, true)).empty());
}

TEST(Plan, FocusAtInfinityAndNoSubjectsStillDraw) {
  Shot shot = shot_with(0, 40);
  shot.focus = {};
  shot.take.mark = Length::infinity();
  EXPECT_FALSE(plan_png(plan_for(shot, false)).empty());
}

}  // namespace plan_test
}  // namespace jolly_iris
