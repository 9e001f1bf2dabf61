// Rays through prescriptions against closed forms and against a second trace written here, which
// shares no line with the library: surfaces are met by bisection, directions turned by angles.
#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>

#include <cmath>
#include <numbers>
#include <random>

#include "jolly_iris/files/glass_file.hpp"
#include "jolly_iris/glass/aim.hpp"
#include "jolly_iris/glass/paraxial.hpp"
#include "jolly_iris/glass/ray_block.hpp"
#include "jolly_iris/glass/traced.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "support.hpp"

namespace jolly_iris {
namespace glass_trace_test {

using namespace jolly_iris::literals;
using Vec = std::array<double, 3>;

const std::vector<std::string> lenses{"quince-58", "hornbeam-50", "sedge-17", "bulrush-75"};

Prescription lens(const std::string& name) {
  return read_glass(testing::demo("../glass/" + name + ".glass.toml"));
}

Prescription singlet(double r1, double r2, double thick, double n) {
  Prescription p;
  p.name = "singlet";
  p.surfaces = {{.radius = Length::from_mm(r1),
                 .gap = Length::from_mm(thick),
                 .medium = {.n_d = n, .v_d = 0.0, .partial = {}, .six = {}},
                 .clear = 20_mm},
                {.radius = Length::from_mm(r2), .gap = 1_mm, .clear = 20_mm},
                {.gap = 100_mm, .clear = 20_mm, .stop = true}};
  return p;
}

// ---- the second trace ---------------------------------------------------------------------------

struct Naive {
  const Prescription& p;
  double um = line_d_um;

  static double sag(const GlassSurface& s, double x, double y) {
    const double c = s.radius.is_finite() ? 1.0 / s.radius.mm() : 0.0;
    double u = x * x + y * y;
    if (s.curved == Curved::across) u = x * x;
    if (s.curved == Curved::up) u = y * y;
    double z = c * u / (1.0 + std::sqrt(1.0 - (1.0 + s.conic) * c * c * u));
    for (std::size_t i = 0; i < s.terms.size(); ++i) {
      z += s.terms[i] * std::pow(u, static_cast<double>(i) + 2.0);
    }
    return z;
  }

  // At the film plane.
  Vec to_film(Vec at, Vec along) const {
    double vertex = 0.0;
    for (const GlassSurface& s : p.surfaces) vertex -= s.gap.mm();
    double n = 1.0;
    for (const GlassSurface& s : p.surfaces) {
      // Where the ray's height over the surface changes its sign.
      const auto above = [&](double t) {
        return at[2] + t * along[2] - vertex - sag(s, at[0] + t * along[0], at[1] + t * along[1]);
      };
      const double middle = (vertex - at[2]) / along[2];
      double low = middle - 30.0;
      double high = middle + 30.0;
      while (std::isnan(above(low))) low = 0.5 * (low + middle);
      while (std::isnan(above(high))) high = 0.5 * (high + middle);
      for (int i = 0; i < 200; ++i) {
        const double t = 0.5 * (low + high);
        (above(t) < 0.0 ? low : high) = t;
      }
      const double t = 0.5 * (low + high);
      for (std::size_t i = 0; i < 3; ++i) at[i] += t * along[i];
      const double after = s.stop ? 1.0 : refractive_index(s.medium, um);
      if (after != n) {
        // The slopes by small differences, of fourth order.
        const double e = 1e-3;
        const auto slope = [&](double dx, double dy) {
          const auto z = [&](double k) { return sag(s, at[0] + k * dx, at[1] + k * dy); };
          return (8.0 * (z(1.0) - z(-1.0)) - (z(2.0) - z(-2.0))) / (12.0 * e);
        };
        const Vec normal{-slope(e, 0.0), -slope(0.0, e), 1.0};
        along = turned(along, normal, n / after);
      }
      n = after;
      vertex += s.gap.mm();
    }
    const double t = -at[2] / along[2];
    return {at[0] + t * along[0], at[1] + t * along[1], 0.0};
  }

  // In the plane of ray and normal, by angles.
  static Vec turned(const Vec& ray, Vec normal, double ratio) {
    const double length = std::hypot(normal[0], normal[1], normal[2]);
    for (double& v : normal) v /= length;
    double cosine = 0.0;
    for (std::size_t i = 0; i < 3; ++i) cosine += ray[i] * normal[i];
    Vec side{};
    for (std::size_t i = 0; i < 3; ++i) side[i] = ray[i] - cosine * normal[i];
    const double sine = std::hypot(side[0], side[1], side[2]);
    if (sine < 1e-15) return ray;
    const double angle = std::asin(ratio * sine);
    Vec out{};
    for (std::size_t i = 0; i < 3; ++i) {
      out[i] = std::cos(angle) * normal[i] + std::sin(angle) * side[i] / sine;
    }
    return out;
  }
};

TEST(GlassTrace, GoesWhereASecondTraceGoes) {
  std::mt19937 random(11);
  std::uniform_real_distribution<double> even(-1.0, 1.0);
  int compared = 0;
  for (const std::string& name : lenses) {
    Prescription p = lens(name);
    for (int bent = 0; bent < 2; ++bent) {
      if (bent == 1) {  // aspheres and conics among them
        p.surfaces[1].conic = -0.7;
        if (p.surfaces[0].curved == Curved::round) p.surfaces[0].terms = {3e-7, -2e-10};
      }
      for (const double um : {line_f_um, line_d_um, line_c_um}) {
        const TracedGlass glass(p, {}, um);
        const double front = glass.surfaces().front().z;
        for (int i = 0; i < 60; ++i) {
          const double half = 0.4 * p.surfaces[0].clear.mm();
          Vec along{0.2 * even(random), 0.2 * even(random), 1.0};
          const double length = std::hypot(along[0], along[1], along[2]);
          for (double& v : along) v /= length;
          const GlassRay ray{{half * even(random), half * even(random), front - 20.0}, along};
          const GlassWay way = glass.to_film(ray);
          if (way.end != RayEnd::passed) continue;
          const Vec other = Naive{p, um}.to_film(ray.at, ray.along);
          EXPECT_NEAR(way.ray.at[0], other[0], 1e-9) << name;
          EXPECT_NEAR(way.ray.at[1], other[1], 1e-9) << name;
          ++compared;
        }
      }
    }
  }
  EXPECT_GT(compared, 300);
}

// ---- closed forms -------------------------------------------------------------------------------

// Light that leaves glass through a hyperboloid k = −n² meets in one point, at R / (n − 1).
TEST(GlassTrace, AHyperboloidFocusesAParallelBeamAtEveryHeight) {
  const double n = 1.6;
  Prescription p = singlet(0.0, -50.0, 5.0, n);
  p.surfaces[0].radius = Length::infinity();
  p.surfaces[1].conic = -n * n;
  const TracedGlass glass(p);
  const double focus = glass.surfaces()[1].z + 50.0 / (n - 1.0);
  for (double h = 0.5; h < 9.9; h += 0.7) {
    const GlassWay way =
        glass.to_film({{0.6 * h, 0.8 * h, glass.surfaces()[0].z - 10.0}, {0.0, 0.0, 1.0}});
    ASSERT_EQ(way.end, RayEnd::passed);
    const double t = focus / way.ray.along[2];
    EXPECT_NEAR(way.ray.at[0] + t * way.ray.along[0], 0.0, 1e-9);
    EXPECT_NEAR(way.ray.at[1] + t * way.ray.along[1], 0.0, 1e-9);
  }
}

// A sphere of radius R images the point R (1 + 1/n) from its vertex, in glass, at R (1 + n) without
// spherical aberration (Born and Wolf, section 4.2.3).
TEST(GlassTrace, AplanaticPointsOfASphereAreSharp) {
  const double n = 1.5;
  const double r = 20.0;
  Prescription p = singlet(0.0, -r, 40.0, n);
  p.surfaces[0].radius = Length::infinity();
  p.surfaces[0].clear = 80_mm;
  p.surfaces[1].clear = 39_mm;
  p.surfaces[2].clear = 200_mm;
  const TracedGlass glass(p);
  const double vertex = glass.surfaces()[1].z;
  const double object = vertex - r * (1.0 + 1.0 / n);
  const double image = vertex - r * (1.0 + n);
  for (double angle = 0.05; angle < 0.8; angle += 0.1) {
    // Within the glass: begun at the front surface with the slope that leads through the point.
    const double back = object - glass.surfaces()[0].z;
    const double sine_in_air = n * std::sin(angle);
    if (sine_in_air >= 1.0) break;
    const double h = -std::tan(angle) * back;
    const double before = std::asin(sine_in_air);
    const GlassWay way = glass.to_film(
        {{0.0, h, glass.surfaces()[0].z}, {0.0, std::sin(before), std::cos(before)}}, false);
    ASSERT_EQ(way.end, RayEnd::passed);
    const double t = (image - way.ray.at[2]) / way.ray.along[2];
    EXPECT_NEAR(way.ray.at[1] + t * way.ray.along[1], 0.0, 1e-9) << angle;
  }
}

TEST(GlassTrace, LightTakesTheSameWayBack) {
  std::mt19937 random(12);
  std::uniform_real_distribution<double> even(-1.0, 1.0);
  for (const std::string& name : lenses) {
    const TracedGlass glass(lens(name));
    int passed = 0;
    for (int i = 0; i < 200; ++i) {
      const double half = 0.4 * std::sqrt(glass.surfaces()[0].clear_sq);
      Vec along{0.2 * even(random), 0.2 * even(random), 1.0};
      const double length = std::hypot(along[0], along[1], along[2]);
      for (double& v : along) v /= length;
      const GlassRay in{{half * even(random), half * even(random), glass.surfaces()[0].z}, along};
      const GlassWay out = glass.to_film(in);
      if (out.end != RayEnd::passed) continue;
      ++passed;
      const GlassWay back =
          glass.to_scene({out.ray.at, {-out.ray.along[0], -out.ray.along[1], -out.ray.along[2]}});
      ASSERT_EQ(back.end, RayEnd::passed) << name;
      for (std::size_t k = 0; k < 3; ++k) {
        EXPECT_NEAR(back.ray.at[k], in.at[k], 1e-9) << name;
        EXPECT_NEAR(back.ray.along[k], -in.along[k], 1e-11) << name;
      }
    }
    EXPECT_GT(passed, 20) << name;
  }
}

// Liouville: the volume of rays in (x, y, n L, n M) is kept.
TEST(GlassTrace, KeepsTheVolumeOfRays) {
  for (const std::string& name : lenses) {
    const TracedGlass glass(lens(name));
    const double front = glass.surfaces().front().z;
    const std::array<double, 4> middle{0.7, -0.4, 0.02, -0.03};
    const auto landed = [&](const std::array<double, 4>& q) {
      const Vec along{q[2], q[3], std::sqrt(1.0 - q[2] * q[2] - q[3] * q[3])};
      const GlassWay way = glass.to_film({{q[0], q[1], front}, along}, false);
      EXPECT_EQ(way.end, RayEnd::passed);
      return std::array<double, 4>{way.ray.at[0], way.ray.at[1], way.ray.along[0],
                                   way.ray.along[1]};
    };
    std::array<std::array<double, 4>, 4> j{};
    for (std::size_t k = 0; k < 4; ++k) {
      const double e = k < 2 ? 2e-2 : 2e-4;
      const auto moved = [&](double by) {
        std::array<double, 4> q = middle;
        q[k] += by * e;
        return landed(q);
      };
      const auto a = moved(1.0);
      const auto b = moved(-1.0);
      const auto c = moved(2.0);
      const auto d = moved(-2.0);
      for (std::size_t i = 0; i < 4; ++i) {
        j[i][k] = (8.0 * (a[i] - b[i]) - (c[i] - d[i])) / (12.0 * e);
      }
    }
    double det = 1.0;
    for (std::size_t c = 0; c < 4; ++c) {
      std::size_t pivot = c;
      for (std::size_t r = c + 1; r < 4; ++r) {
        if (std::abs(j[r][c]) > std::abs(j[pivot][c])) pivot = r;
      }
      if (pivot != c) {
        std::swap(j[pivot], j[c]);
        det = -det;
      }
      det *= j[c][c];
      for (std::size_t r = c + 1; r < 4; ++r) {
        const double f = j[r][c] / j[c][c];
        for (std::size_t k = c; k < 4; ++k) j[r][k] -= f * j[c][k];
      }
    }
    EXPECT_NEAR(std::abs(det), 1.0, 1e-7) << name;
  }
}

// ---- many at once -------------------------------------------------------------------------------

TEST(GlassBlocks, GoWhereSingleRaysGo) {
  std::mt19937 random(14);
  std::uniform_real_distribution<double> even(-1.0, 1.0);
  for (const std::string& name : lenses) {
    Prescription p = lens(name);
    for (int way = 0; way < 3; ++way) {
      if (way == 2 && p.surfaces[0].curved == Curved::round) p.surfaces[0].terms = {3e-7, -2e-10};
      TracedGlass glass(p);
      glass.set_opening(glass.opening() * 0.6, p.iris);
      const BlockTracer tracer(glass);
      const bool back = way == 1;
      RayBlock block;
      block.count = 250;
      const double plane = back ? 0.0 : glass.surfaces().front().z - 3.0;
      for (std::size_t i = 0; i < block.count; ++i) {
        const double sign = back ? -1.0 : 1.0;
        const double lx = 0.15 * even(random);
        const double ly = 0.15 * even(random);
        block.x[i] = static_cast<float>(6.0 * even(random));
        block.y[i] = static_cast<float>(6.0 * even(random));
        block.z[i] = static_cast<float>(plane);
        block.along_x[i] = static_cast<float>(lx);
        block.along_y[i] = static_cast<float>(ly);
        block.along_z[i] = static_cast<float>(sign * std::sqrt(1.0 - lx * lx - ly * ly));
        block.open[i] = 1;
      }
      block.along_x[7] = std::nanf("");
      block.open[8] = 0;
      const RayBlock before = block;
      if (back) {
        tracer.to_scene(block);
      } else {
        tracer.to_film(block);
      }
      EXPECT_EQ(block.open[7], 0);
      EXPECT_EQ(block.open[8], 0);
      int passed = 0;
      int differ = 0;
      for (std::size_t i = 0; i < block.count; ++i) {
        if (i == 7 || i == 8) continue;
        const auto d = [](float v) { return static_cast<double>(v); };
        Vec along{d(before.along_x[i]), d(before.along_y[i]), d(before.along_z[i])};
        const double length = std::hypot(along[0], along[1], along[2]);
        for (double& v : along) v /= length;
        const GlassRay ray{{d(before.x[i]), d(before.y[i]), d(before.z[i])}, along};
        const GlassWay one = back ? glass.to_scene(ray) : glass.to_film(ray);
        const bool open = one.end == RayEnd::passed;
        differ += open != (block.open[i] != 0) ? 1 : 0;
        if (!open || block.open[i] == 0) continue;
        ++passed;
        // 0.05 µm at the film; in front of the lens, where nothing is small, a little more.
        const double near = back ? 4e-4 : 5e-5;
        EXPECT_NEAR(d(block.x[i]), one.ray.at[0], near) << name << ' ' << way;
        EXPECT_NEAR(d(block.y[i]), one.ray.at[1], near) << name << ' ' << way;
        EXPECT_NEAR(d(block.along_x[i]), one.ray.along[0], 2e-6) << name << ' ' << way;
      }
      EXPECT_LE(differ, 1) << name;  // one may lie on a rim
      EXPECT_GT(passed, 10) << name << ' ' << way;
    }
  }
}

// ---- what does not pass -------------------------------------------------------------------------

TEST(GlassTrace, SaysWhereAndWhyARayEnds) {
  // Total reflection: from glass into air beyond the critical angle.
  Prescription steep = singlet(0.0, 0.0, 5.0, 1.9);
  steep.surfaces[0].radius = Length::infinity();
  steep.surfaces[1].radius = 12_mm;
  steep.surfaces[1].clear = 23.9_mm;
  const TracedGlass glass(steep);
  const GlassWay reflected =
      glass.to_film({{9.0, 0.0, glass.surfaces()[0].z - 1.0}, {0.0, 0.0, 1.0}});
  EXPECT_EQ(reflected.end, RayEnd::reflected);
  EXPECT_EQ(reflected.surface, 1U);
  EXPECT_EQ(to_string(reflected.end), "reflected");
  const GlassWay clipped =
      glass.to_film({{30.0, 0.0, glass.surfaces()[0].z - 1.0}, {0.0, 0.0, 1.0}});
  EXPECT_EQ(clipped.end, RayEnd::clipped);
  EXPECT_EQ(clipped.surface, 0U);
  const GlassWay missed =
      glass.to_film({{11.0, 30.0, glass.surfaces()[0].z - 1.0}, {0.0, 0.0, 1.0}}, false);
  EXPECT_EQ(missed.end, RayEnd::missed);
  EXPECT_EQ(missed.surface, 1U);
  // The stop counts as wide as it is set.
  TracedGlass set(lens("quince-58"));
  set.set_opening(2_mm);
  const auto ray = aimed(set, RaySource::far({0.0, 0.0, 1.0}), {0.0, 3.0});
  ASSERT_TRUE(ray.has_value());
  EXPECT_EQ(set.to_film(*ray).end, RayEnd::clipped);
  EXPECT_EQ(set.to_film(*ray).surface, set.stop());
  EXPECT_THROW(set.set_opening(0_mm), OpticsError);
  EXPECT_THROW(set.set_opening(500_mm), OpticsError);
}

RC_GTEST_PROP(GlassTraceProperty, NumbersThatAreNoneNeverPass, ()) {
  static const TracedGlass glass(lens("hornbeam-50"));
  const double bad = *rc::gen::element(std::nan(""), HUGE_VAL, -HUGE_VAL);
  const int place = *rc::gen::inRange(0, 6);
  GlassRay ray{{0.0, 0.0, glass.surfaces()[0].z - 5.0}, {0.0, 0.0, 1.0}};
  (place < 3 ? ray.at[static_cast<std::size_t>(place)]
             : ray.along[static_cast<std::size_t>(place - 3)]) = bad;
  RC_ASSERT(glass.to_film(ray).end != RayEnd::passed);
}

// ---- aiming -------------------------------------------------------------------------------------

TEST(GlassAim, FindsThePointsOfTheOpeningOverTheWholePicture) {
  std::mt19937 random(13);
  std::uniform_real_distribution<double> even(-1.0, 1.0);
  int asked = 0;
  int found = 0;
  for (const std::string& name : lenses) {
    const TracedGlass glass(lens(name));
    const double focal = paraxial_facts(glass).focal.mm();
    const double reach =
        name == "sedge-17" ? std::tan(50.0 * std::numbers::pi / 180.0) : 0.25 * 50.0 / focal;
    for (int i = 0; i < testing::cases(400, 60); ++i) {
      const RaySource from =
          RaySource::far({0.7 * reach * even(random), 0.7 * reach * even(random), 1.0});
      const double r = glass.opening().mm() * std::sqrt(std::abs(even(random)));
      const double angle = std::numbers::pi * even(random);
      const std::array<double, 2> at{r * std::cos(angle), r * std::sin(angle)};
      const auto ray = aimed(glass, from, at);
      ++asked;
      if (!ray) continue;
      const GlassWay there = glass.scene_to_stop(*ray, false);
      found += std::hypot(there.ray.at[0] - at[0], there.ray.at[1] - at[1]) < 1e-6 ? 1 : 0;
    }
  }
  EXPECT_GE(found, asked * 999 / 1000) << found << " of " << asked;
}

}  // namespace glass_trace_test
}  // namespace jolly_iris
