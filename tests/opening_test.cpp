#include "jolly_iris/optics/opening.hpp"

#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>

#include <algorithm>
#include <cmath>
#include <numbers>
#include <optional>
#include <random>

#include "jolly_iris/optics/errors.hpp"
#include "support.hpp"

namespace jolly_iris {
namespace opening_test {

using std::numbers::pi;

double polygon_area(const std::vector<Point2>& p) {
  double twice = 0.0;
  for (std::size_t i = 0; i < p.size(); ++i) {
    const Point2 a = p[i];
    const Point2 b = p[(i + 1) % p.size()];
    twice += a.x * b.y - a.y * b.x;
  }
  return 0.5 * twice;
}

bool inside(const std::vector<Point2>& polygon, Point2 q) {
  bool in = false;
  for (std::size_t i = 0, j = polygon.size() - 1; i < polygon.size(); j = i++) {
    const Point2 a = polygon[i];
    const Point2 b = polygon[j];
    if ((a.y > q.y) != (b.y > q.y) && q.x < (b.x - a.x) * (q.y - a.y) / (b.y - a.y) + a.x) in = !in;
  }
  return in;
}

Opening opening(int blades, double times) {
  Iris iris{.blades = blades};
  if (times != 0.0) iris.blade_radius = BladeRadius::multiple(times);
  return Opening(iris, 10_mm);
}

// The opening, or nothing where its outline would cross itself.
std::optional<Opening> legal(int blades, double times) {
  try {
    return opening(blades, times);
  } catch (const OpticsError&) {
    return std::nullopt;
  }
}

TEST(Opening, HasTheAreaOfItsCircle) {
  int bent_inward = 0;
  for (int blades = 3; blades <= 12; ++blades) {
    for (const double times : {1.0, 1.05, 1.5, 3.0, 0.0, -3.0, -8.0}) {
      const auto o = legal(blades, times);
      if (!o) continue;
      bent_inward += times < 0 ? 1 : 0;
      EXPECT_NEAR(o->area(), pi, 1e-9) << blades << " blades, " << times;
      EXPECT_NEAR(polygon_area(o->outline(1e-6)), pi, 1e-4) << blades << " blades, " << times;
    }
  }
  EXPECT_GT(bent_inward, 10);
}

// Closed form: the area of a regular n-gon of corner radius R is n/2 R² sin(2π/n).
TEST(Opening, StraightBladesAreARegularPolygon) {
  for (int n = 3; n <= 12; ++n) {
    EXPECT_NEAR(opening(n, 0.0).corner_radius(), std::sqrt(2 * pi / (n * std::sin(2 * pi / n))),
                1e-12);
  }
}

TEST(Opening, SizedByCornersTouchesTheCircle) {
  const Opening o({.blades = 6, .size_by = SizeBy::corners}, 10_mm);
  EXPECT_DOUBLE_EQ(o.corner_radius(), 1.0);
  EXPECT_NEAR(o.area(), 6.0 * std::sqrt(3.0) / 4.0, 1e-12);
}

TEST(Opening, BladeRadiusAtTheOpeningsOwnIsRound) {
  EXPECT_TRUE(opening(8, 1.0).is_round());
  EXPECT_TRUE(opening(8, 0.7).is_round());
  EXPECT_FALSE(opening(8, 1.01).is_round());
  EXPECT_TRUE(Opening().is_round());
}

// A blade radius that is a length: round wide open, polygonal stopped down.
TEST(Opening, StoppingDownShowsTheBlades) {
  const Iris iris{.blades = 7, .blade_radius = BladeRadius::of_length(15_mm)};
  EXPECT_TRUE(Opening(iris, 15_mm).is_round());
  const double at_8 = Opening(iris, 8_mm).corner_radius();
  const double at_4 = Opening(iris, 4_mm).corner_radius();
  EXPECT_GT(at_8, 1.0);
  EXPECT_GT(at_4, at_8);
  EXPECT_LT(at_4, opening(7, 0.0).corner_radius());
}

TEST(Opening, CornerIsAtTheTopAndTurnsCounterClockwise) {
  const auto corner = [](double degrees) {
    const Opening o({.blades = 3, .rotation = Angle::from_degrees(degrees)}, 10_mm);
    return o.outline().front();
  };
  EXPECT_NEAR(corner(0).x, 0.0, 1e-12);
  EXPECT_GT(corner(0).y, 1.0);
  EXPECT_LT(corner(20).x, -0.4);  // counter-clockwise: the top goes left
  EXPECT_GT(corner(-20).x, 0.4);
}

TEST(Opening, RefusesWhatCannotBe) {
  EXPECT_THROW((void)opening(1, 0.0), OpticsError);
  EXPECT_THROW((void)opening(2, 0.0), OpticsError);
  EXPECT_THROW((void)opening(33, 0.0), OpticsError);
  EXPECT_THROW((void)opening(-5, 0.0), OpticsError);
  EXPECT_THROW((void)opening(3, -1.0), OpticsError);  // three deep inward arcs cross
  EXPECT_THROW((void)Opening({.blades = 5, .blade_radius = BladeRadius::of_length(0_mm)}, 10_mm),
               OpticsError);
  EXPECT_THROW((void)Opening({.blades = 5}, 0_mm), OpticsError);
}

// Chi-square over equal-area cells of the outline's own polar map would be circular; instead cells
// of a grid, whose areas are counted independently by point-in-polygon on a fine lattice.
TEST(Opening, SamplesAreUniformOverTheArea) {
  for (const double times : {1.0, 1.5, 0.0, -4.0}) {
    const Opening o = opening(7, times);
    const auto outline = o.outline(1e-5);
    constexpr int cells = 8;
    constexpr int fine = 60;
    const double reach = o.corner_radius();
    std::vector<double> fraction(cells * cells, 0.0);
    double total = 0.0;
    for (int y = 0; y < cells * fine; ++y) {
      for (int x = 0; x < cells * fine; ++x) {
        const Point2 p{reach * ((x + 0.5) / (0.5 * cells * fine) - 1.0),
                       reach * ((y + 0.5) / (0.5 * cells * fine) - 1.0)};
        if (!inside(outline, p)) continue;
        fraction[static_cast<std::size_t>(y / fine * cells + x / fine)] += 1.0;
        total += 1.0;
      }
    }
    std::mt19937 random(11);
    std::uniform_real_distribution<double> uniform(0.0, 1.0);
    constexpr int n = 200000;
    std::vector<double> count(cells * cells, 0.0);
    for (int i = 0; i < n; ++i) {
      const Point2 p = o.sample(uniform(random), uniform(random));
      const auto cell = [&](double v) {
        return std::clamp(static_cast<int>((v / reach + 1.0) * 0.5 * cells), 0, cells - 1);
      };
      count[static_cast<std::size_t>(cell(p.y) * cells + cell(p.x))] += 1.0;
    }
    double chi_square = 0.0;
    int used = 0;
    for (std::size_t i = 0; i < fraction.size(); ++i) {
      const double expected = n * fraction[i] / total;
      if (expected < 50.0) continue;
      chi_square += (count[i] - expected) * (count[i] - expected) / expected;
      ++used;
    }
    // mean `used`, deviation √(2 used); five deviations, plus what the lattice itself is off
    EXPECT_LT(chi_square, used + 5.0 * std::sqrt(2.0 * used) + 15.0) << times;
  }
}

TEST(Opening, ABatchOfPointsIsTheSamePointsOneByOne) {
  Iris round;
  Iris ring;
  ring.obstruction = 0.4;
  Iris bladed{.blades = 7, .blade_radius = BladeRadius::multiple(1.5)};
  Iris free;
  free.outline = {{0, 0}, {4, 0}, {4, 4}, {2, 1}, {0, 4}};
  std::mt19937 random(3);
  std::uniform_real_distribution<double> uniform(0.0, 1.0);
  std::vector<double> u(1000);
  std::vector<double> v(1000);
  for (double& a : u) a = uniform(random);
  for (double& a : v) a = uniform(random);
  u[0] = v[0] = 0.5;  // the middle, where the round map divides by nothing
  for (const Iris& iris : {round, ring, bladed, free}) {
    const Opening o(iris, 10_mm);
    std::vector<double> x(u.size());
    std::vector<double> y(u.size());
    o.table().sample(u.data(), v.data(), x.data(), y.data(), u.size());
    for (std::size_t i = 0; i < u.size(); ++i) {
      const Point2 p = o.sample(u[i], v[i]);
      ASSERT_NEAR(x[i], p.x, 1e-14);
      ASSERT_NEAR(y[i], p.y, 1e-14);
      ASSERT_TRUE(std::isfinite(p.x) && std::isfinite(p.y));
    }
  }
}

RC_GTEST_PROP(OpeningProperty, SamplesLieInside, ()) {
  const int blades = *rc::gen::inRange(3, 33);
  const double times = 0.1 * *rc::gen::inRange(-120, 121);
  const auto o = legal(blades, times);
  RC_PRE(o.has_value());
  const double u = *rc::gen::inRange(0, 1 << 20) * 0x1p-20;
  const double v = *rc::gen::inRange(0, 1 << 20) * 0x1p-20;
  const Point2 p = o->sample(u, v);
  RC_ASSERT(std::isfinite(p.x) && std::isfinite(p.y));
  RC_ASSERT(std::hypot(p.x, p.y) <= o->corner_radius() * (1.0 + 1e-9));
  RC_ASSERT(inside(o->outline(1e-6), {0.999 * p.x, 0.999 * p.y}) || std::hypot(p.x, p.y) < 1e-6);
}

}  // namespace opening_test
}  // namespace jolly_iris
