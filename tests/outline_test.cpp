// Outlines of openings out of SVG files.
#include <cmath>
#include <numbers>

#include "jolly_iris/files/outline_file.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "support.hpp"

namespace jolly_iris {
namespace outline_test {

using testing::holds;
using testing::message_of;

std::vector<Point2> shape(const std::string& tag) {
  return parse_outline("<svg xmlns=\"http://www.w3.org/2000/svg\">" + tag + "</svg>", "a.svg");
}

// Positive: counter-clockwise with +y up.
double area(const std::vector<Point2>& points) {
  double twice = 0.0;
  for (std::size_t i = 0; i < points.size(); ++i) {
    const Point2& a = points[i];
    const Point2& b = points[(i + 1) % points.size()];
    twice += a.x * b.y - a.y * b.x;
  }
  return 0.5 * twice;
}

TEST(Outline, RoundShapesHaveTheirAreas) {
  using std::numbers::pi;
  EXPECT_NEAR(std::abs(area(shape("<circle cx='3' cy='-2' r='2'/>"))), 4.0 * pi, 0.01);
  EXPECT_NEAR(std::abs(area(shape("<ellipse cx='0' cy='0' rx='3' ry='1'/>"))), 3.0 * pi, 0.01);
  // Two half circles, and one turned ellipse of two arcs whose radii are too small and grow.
  EXPECT_NEAR(std::abs(area(shape("<path d='M-2 0A2 2 0 0 1 2 0A2 2 0 0 1-2 0Z'/>"))), 4.0 * pi,
              0.01);
  EXPECT_NEAR(std::abs(area(shape("<path d='M-4,0a.2.1 0 018 0a.2.1 0 01-8 0z'/>"))), 8.0 * pi,
              0.05);
  // A quarter circle by the usual cubic: its sagitta is right to 0.03 %.
  EXPECT_NEAR(std::abs(area(shape("<path d='M0 0H1C1 .5523.5523 1 0 1z'/>"))), pi / 4.0, 3e-4);
  // Under the parabola y = x² from 0 to 2.
  EXPECT_NEAR(std::abs(area(shape("<path d='M0 0Q1 0 2 4V0z'/>"))), 8.0 / 3.0, 2e-3);
}

TEST(Outline, RelativeAndAbsolutePathsAreTheSame) {
  const auto same = [](const char* a, const char* b) {
    const auto p = shape(std::string("<path d='") + a + "'/>");
    const auto q = shape(std::string("<path d='") + b + "'/>");
    ASSERT_EQ(p.size(), q.size());
    for (std::size_t i = 0; i < p.size(); ++i) {
      EXPECT_NEAR(p[i].x, q[i].x, 1e-12) << i;
      EXPECT_NEAR(p[i].y, q[i].y, 1e-12) << i;
    }
  };
  same("M1 2L4 2 4 5Z", "m1 2 3 0 0 3z");
  same("M1 2H4V5Z", "m1 2h3v3z");
  same("M0 0C1 1 2 1 3 0S5-1 6 0", "m0 0c1 1 2 1 3 0s2-1 3 0");
  same("M0 0C1 1 2 1 3 0C4-1 5-1 6 0", "M0 0C1 1 2 1 3 0S5-1 6 0");
  same("M0 0Q1 1 2 0T4 0", "m0 0q1 1 2 0t2 0");
  same("M0 0Q1 1 2 0Q3-1 4 0", "M0 0Q1 1 2 0T4 0");
  same("M1 1A2 1 30 1 0 4 2L0 9", "m1 1a2 1 30 1 0 3 1l-4 7");
}

TEST(Outline, TheFirstShapeOfTheFileCountsAsItIsSeen) {
  const auto points = parse_outline(
      "<?xml version=\"1.0\"?>\n<!DOCTYPE svg>\n<!-- <rect width='9' height='9'/> -->\n"
      "<svg:svg xmlns:svg='http://www.w3.org/2000/svg'><svg:g><svg:title>a</svg:title>"
      "<svg:rect x='1' y='2' width='3' height='4'/></svg:g><svg:circle r='1'/></svg:svg>",
      "a.svg");
  ASSERT_EQ(points.size(), 4U);
  EXPECT_EQ(points[2].x, 4.0);
  EXPECT_EQ(points[2].y, -6.0);  // an SVG's y runs down
  EXPECT_NEAR(std::abs(area(shape("<polygon points='0,0 2,0 2 2'/>"))), 2.0, 1e-12);
}

struct Odd {
  const char* text;
  const char* says;
};

TEST(Outline, WhatIsNoOutlineIsTold) {
  for (const Odd& odd : {Odd{"<svg></svg>", "holds no shape"},
                         Odd{"<svg><path d='M0 0L1 1'", "cannot be read as an SVG"},
                         Odd{"", "cannot be read as an SVG"},
                         Odd{"<svg><path d='M0 0L1 1'/></svg>", "fewer than three corners"},
                         Odd{"<svg><path d='0 0L1 1'/></svg>", "does not begin with a command"},
                         Odd{"<svg><path d='L1 1'/></svg>", "does not begin with a move"},
                         Odd{"<svg><path d='M0 0B1 1'/></svg>", "no command 'B'"},
                         Odd{"<svg><path d='M0 zero'/></svg>", "needs a number"},
                         Odd{"<svg><path d='M0 1e99'/></svg>", "needs a number"},
                         Odd{"<svg><path d='M0 0A1 1 0 2 0 1 1'/></svg>", "neither 0 nor 1"},
                         Odd{"<svg><circle r='wide'/></svg>", "needs a number"}}) {
    const std::string said = message_of<FileError>([&] { (void)parse_outline(odd.text, "a.svg"); });
    EXPECT_TRUE(holds(said, odd.says));
    EXPECT_TRUE(holds(said, "a.svg: "));
  }
}

}  // namespace outline_test
}  // namespace jolly_iris
