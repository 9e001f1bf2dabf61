// Facts of prescriptions against closed forms, focus that comes back, what is told of mistakes.
#include <fmt/format.h>
#include <gtest/gtest.h>

#include <cmath>
#include <numbers>

#include "jolly_iris/files/glass_file.hpp"
#include "jolly_iris/files/shot_file.hpp"
#include "jolly_iris/glass/aim.hpp"
#include "jolly_iris/glass/coating.hpp"
#include "jolly_iris/glass/field.hpp"
#include "jolly_iris/glass/focus_travel.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "support.hpp"

namespace jolly_iris {
namespace glass_facts_test {

using namespace jolly_iris::literals;

const std::vector<std::string> lenses{"quince-58", "hornbeam-50", "sedge-17", "bulrush-75"};

Prescription lens(const std::string& name) {
  return read_glass(testing::demo("../glass/" + name + ".glass.toml"));
}

Medium plain(double n) { return {.n_d = n, .v_d = 0.0, .partial = {}, .six = {}}; }

// ---- media --------------------------------------------------------------------------------------

TEST(Medium, HasTheDispersionThatItsNumbersSay) {
  const Medium flint{.n_d = 1.62004, .v_d = 36.37, .partial = 0.5828, .six = {}};
  const auto n = [&](double um) { return refractive_index(flint, um); };
  EXPECT_DOUBLE_EQ(n(line_d_um), 1.62004);
  EXPECT_NEAR((n(line_d_um) - 1.0) / (n(line_f_um) - n(line_c_um)), 36.37, 1e-9);
  EXPECT_NEAR((n(line_g_um) - n(line_f_um)) / (n(line_f_um) - n(line_c_um)), 0.5828, 1e-9);
  // On the normal line, where nothing is said of it.
  const Medium normal{.n_d = 1.5168, .v_d = 64.17, .partial = {}, .six = {}};
  const auto m = [&](double um) { return refractive_index(normal, um); };
  EXPECT_NEAR((m(line_g_um) - m(line_f_um)) / (m(line_f_um) - m(line_c_um)),
              0.6438 - 0.001682 * 64.17, 1e-9);
}

// Fused silica by Malitson's three terms (Journal of the Optical Society of America 55, 1965),
// whose table says n_d = 1.45846, n_F = 1.46313, n_C = 1.45637.
TEST(Medium, TakesSixNumbersFromATable) {
  const Medium silica = medium_of({0.6961663, 0.4079426, 0.8974794, 0.0684043 * 0.0684043,
                                   0.1162414 * 0.1162414, 9.896161 * 9.896161});
  EXPECT_NEAR(silica.n_d, 1.45846, 5e-6);
  EXPECT_NEAR(refractive_index(silica, line_f_um), 1.46313, 5e-6);
  EXPECT_NEAR(refractive_index(silica, line_c_um), 1.45637, 5e-6);
  EXPECT_NEAR(silica.v_d, 67.8, 0.1);
  // By n_d and V_d alone it is within what the documentation says of usual glasses.
  const Medium two{.n_d = silica.n_d, .v_d = silica.v_d, .partial = {}, .six = {}};
  for (double um = 0.4; um < 0.7; um += 0.02) {
    EXPECT_NEAR(refractive_index(two, um), refractive_index(silica, um), 2e-4) << um;
  }
  EXPECT_THROW(refractive_index(silica, 0.2), UsageError);
  EXPECT_THROW(refractive_index(silica, std::nan("")), UsageError);
}

// ---- what surfaces reflect
// -----------------------------------------------------------------------

// An index of 1.67: ((1.67 − 1) / (1.67 + 1))² = 6.30 %; with a quarter wave of 1.38 at its own
// wavelength ((1.38² − 1.67) / (1.38² + 1.67))² = 0.43 %.
TEST(Coating, ReflectsAsFresnelAndOneLayerSay) {
  GlassSurface s;
  EXPECT_NEAR(reflectance(s, 1.0, 1.67, 1.0, 0.55), 0.0630, 5e-5);
  EXPECT_NEAR(reflectance(s, 1.67, 1.0, 1.0, 0.55), 0.0630, 5e-5);
  s.coat = Length::from_mm(550e-6);
  EXPECT_NEAR(reflectance(s, 1.0, 1.67, 1.0, 0.55), 0.0043, 5e-5);
  EXPECT_NEAR(reflectance(s, 1.67, 1.0, 1.0, 0.55), 0.0043, 5e-5);
  // Half a wave thick it is as if it were not there.
  EXPECT_NEAR(reflectance(s, 1.0, 1.67, 1.0, 0.275), 0.0630, 5e-5);
  EXPECT_GT(reflectance(s, 1.0, 1.67, 1.0, 0.44), reflectance(s, 1.0, 1.67, 1.0, 0.55));
  // Brewster's angle: half of it, across the plane, alone; at grazing incidence all; beyond the
  // critical angle all.
  GlassSurface bare;
  const double brewster = std::cos(std::atan(1.5));
  const double across = std::pow((1.0 - 1.5 * 1.5) / (1.0 + 1.5 * 1.5), 2.0);
  EXPECT_NEAR(reflectance(bare, 1.0, 1.5, brewster, 0.55), 0.5 * across, 1e-12);
  EXPECT_NEAR(reflectance(bare, 1.0, 1.5, 0.0, 0.55), 1.0, 1e-12);
  EXPECT_NEAR(reflectance(bare, 1.5, 1.0, 0.5, 0.55), 1.0, 1e-12);
  EXPECT_EQ(reflectance(bare, 1.5, 1.5, 0.8, 0.55), 0.0);
}

TEST(Coating, CoatsLetMoreLightThrough) {
  for (const std::string& name : lenses) {
    Prescription p = lens(name);
    const auto coated = axis_transmission(p);
    for (GlassSurface& s : p.surfaces) s.coat.reset();
    const auto bare = axis_transmission(p);
    for (std::size_t k = 0; k < 3; ++k) {
      EXPECT_GT(coated[k], bare[k]) << name;
      // Each surface by itself, one after the other.
      double passes = 1.0;
      double before = 1.0;
      for (const GlassSurface& s : p.surfaces) {
        const double after = refractive_index(s.medium, std::array{0.61, 0.55, 0.465}[k]);
        if (s.stop) continue;
        passes *= 1.0 - std::pow((before - after) / (before + after), 2.0);
        before = after;
      }
      EXPECT_NEAR(bare[k], passes, 1e-12) << name;
      EXPECT_LT(coated[k], 1.0) << name;
    }
  }
}

// ---- near the axis ------------------------------------------------------------------------------

// 1/f = (n − 1) (1/R1 − 1/R2 + (n − 1) t / (n R1 R2)), back focus f (1 − (n − 1) t / (n R1)).
TEST(GlassFacts, AThickLensIsAsItsFormulaSays) {
  const double n = 1.62;
  const double r1 = 34.0;
  const double r2 = -51.0;
  const double t = 7.0;
  Prescription p;
  p.surfaces = {{.gap = 3_mm, .clear = 10_mm, .stop = true},
                {.radius = 34_mm, .gap = 7_mm, .medium = plain(n), .clear = 20_mm},
                {.radius = -51_mm, .gap = 30_mm, .clear = 20_mm}};
  const ParaxialFacts f = paraxial_facts(TracedGlass(p));
  const double power = (n - 1.0) * (1.0 / r1 - 1.0 / r2 + (n - 1.0) * t / (n * r1 * r2));
  EXPECT_NEAR(f.focal.mm(), 1.0 / power, 1e-9);
  EXPECT_NEAR(f.back_focus.mm(), (1.0 - (n - 1.0) * t / (n * r1)) / power, 1e-9);
  // The stop is before the glass: it is its own entrance pupil, 40 mm from the film.
  EXPECT_NEAR(f.entrance_pupil.mm(), -40.0, 1e-9);
  EXPECT_NEAR(f.entrance_diameter.mm(), 10.0, 1e-9);
  EXPECT_NEAR(f.f_number, 0.1 / power, 1e-9);
}

// A ball: f = n R / (2 (n − 1)) from its middle.
TEST(GlassFacts, ABallLensIsAsItsFormulaSays) {
  const double n = 1.5;
  Prescription p;
  p.surfaces = {{.radius = 10_mm, .gap = 20_mm, .medium = plain(n), .clear = 10_mm},
                {.radius = -10_mm, .gap = 1_mm, .clear = 10_mm},
                {.gap = 20_mm, .clear = 10_mm, .stop = true}};
  const ParaxialFacts f = paraxial_facts(TracedGlass(p));
  EXPECT_NEAR(f.focal.mm(), n * 10.0 / (2.0 * (n - 1.0)), 1e-9);
  EXPECT_NEAR(f.front_principal.mm(), -31.0, 1e-9);
  EXPECT_NEAR(f.back_principal.mm(), -31.0, 1e-9);
}

TEST(GlassFacts, ALensThatIsScaledScalesAllItsLengths) {
  for (const std::string& name : lenses) {
    const Prescription p = lens(name);
    const ParaxialFacts one = paraxial_facts(TracedGlass(p));
    const ParaxialFacts two = paraxial_facts(TracedGlass(scaled(p, 2.5)));
    EXPECT_NEAR(two.focal / one.focal, 2.5, 1e-9) << name;
    EXPECT_NEAR(two.entrance_pupil / one.entrance_pupil, 2.5, 1e-9) << name;
    EXPECT_NEAR(two.f_number, one.f_number, 1e-9) << name;
    EXPECT_NEAR(image_circle(TracedGlass(scaled(p, 2.5))) / image_circle(TracedGlass(p)), 2.5, 0.01)
        << name;
  }
}

// Petzval's sum from tangential and sagittal near the axis: 3 S − T = 2 P, P by Σ (n′ − n) / (n n′
// R).
TEST(GlassFacts, FieldCurvatureGoesWithPetzval) {
  for (const char* name : {"quince-58", "hornbeam-50", "sedge-17"}) {
    Prescription p = lens(name);
    p.surfaces.back().gap = paraxial_facts(TracedGlass(p)).back_focus;
    TracedGlass glass(p);
    const std::size_t stop = glass.stop();
    glass.set_opening(Length::from_mm(0.02 * std::sqrt(glass.surfaces()[stop].clear_sq)));
    const double h = 0.02 * paraxial_facts(glass).focal.mm();
    const FieldPoint at = over_field(glass, Length::infinity(), Length::from_mm(h), 2).back();
    double sum = 0.0;
    for (const TracedSurface& s : glass.surfaces()) {
      sum += (s.after - s.before) / (s.after * s.before) * s.curvature;
    }
    const double petzval = -0.5 * h * h * sum;
    const double s = at.sagittal.mm();
    const double t = at.tangential.mm();
    const double largest = std::max({std::abs(s), std::abs(t), std::abs(petzval)});
    EXPECT_NEAR(0.5 * (3.0 * s - t), petzval, 0.005 * largest) << name;
  }
}

// ---- focus --------------------------------------------------------------------------------------

TEST(GlassFocus, TheDistanceComesBack) {
  for (const std::string& name : lenses) {
    Prescription p = lens(name);
    p.focus_by = FocusBy::axis;
    const Length nearest = nearest_focus(p);
    for (const double m : {0.3, 0.45, 0.8, 1.5, 4.0, 30.0, 1000.0}) {
      const Length d = Length::from_m(m);
      if (d < nearest) continue;
      const FocusTravel at = focused(p, d);
      EXPECT_LE(at.evaluations, 30) << name << " at " << m;
      const Length back = focused_distance(TracedGlass(p, at.travel), Meridian::up);
      EXPECT_NEAR(back / d, 1.0, 1e-6) << name << " at " << m;
    }
    const FocusTravel far = focused(p, Length::infinity());
    const ParaxialFacts f = paraxial_facts(TracedGlass(p, far.travel));
    EXPECT_NEAR(f.back_focus.mm(), -TracedGlass(p, far.travel).surfaces().back().z, 1e-8) << name;
    EXPECT_NO_THROW(focused(p, nearest)) << name;
    EXPECT_THROW(focused(p, nearest * 0.9), OpticsError) << name;
  }
}

// A group within, and a floating one: the same holds.
TEST(GlassFocus, HoldsForInnerAndFloatingGroups) {
  Prescription inner = lens("hornbeam-50");
  inner.focus_by = FocusBy::axis;
  inner.surfaces[8].gap = 6_mm;
  inner.groups = {{9, 10, 1.0}};
  Prescription floating = lens("hornbeam-50");
  floating.focus_by = FocusBy::axis;
  floating.groups = {{0, 4, 0.85}, {5, 10, 1.0}};
  for (const Prescription& p : {inner, floating}) {
    for (const double m : {1.2, 2.0, 8.0}) {
      const Length d = Length::from_m(m);
      if (d < nearest_focus(p)) continue;
      const FocusTravel at = focused(p, d);
      EXPECT_LE(at.evaluations, 30);
      EXPECT_NEAR(focused_distance(TracedGlass(p, at.travel), Meridian::up) / d, 1.0, 1e-6);
    }
  }
}

// By light: no travel nearby has a smaller spot, looked for one after the other.
TEST(GlassFocus, ByLightIsWhereTheSpotIsLeast) {
  const Prescription p = lens("hornbeam-50");
  const Length d = 2_m;
  const double found = focused(p, d).travel.mm();
  const double axis = focused(p, d, {}).travel.mm();
  EXPECT_GT(std::abs(found - axis), 0.02);  // it is soft wide open
  double best = 0.0;
  double least = 1e9;
  for (double t = axis - 0.6; t < axis + 0.6; t += 0.0025) {
    const TracedGlass glass(p, Length::from_mm(t));
    double sum = 0.0;
    int n = 0;
    for (int i = 0; i < 40; ++i) {
      const double r = glass.opening().mm() * std::sqrt((i + 0.5) / 40.0);
      const auto ray = aimed(glass, RaySource::point({0.0, 0.0, -d.mm()}), {0.0, r});
      if (!ray) continue;
      const GlassWay way = glass.to_film(*ray);
      if (way.end != RayEnd::passed) continue;
      sum += way.ray.at[1] * way.ray.at[1];
      ++n;
    }
    if (n > 0 && sum / n < least) {
      least = sum / n;
      best = t;
    }
  }
  EXPECT_NEAR(found, best, 0.005);
}

// Both directions of the anamorphic are sharp together to about a metre, and its squeeze is told.
TEST(GlassFocus, AnAnamorphicSqueezesAsItsMatricesSay) {
  const Prescription p = lens("bulrush-75");
  const TracedGlass glass(p);
  const double squeeze =
      paraxial_facts(glass).focal / paraxial_facts(glass, Meridian::across).focal;
  EXPECT_NEAR(squeeze, 2.0, 0.005);
  for (const double m : {2.0, 5.0}) {
    const TracedGlass at(p, focused(p, Length::from_m(m)).travel);
    EXPECT_NEAR(1.0 / focused_distance(at, Meridian::across).m(), 1.0 / m, 0.02);
  }
}

// ---- light --------------------------------------------------------------------------------------

// A small stop alone before the film: cos⁴ of the angle, by the area of a small hole.
TEST(GlassLight, FallsAsTheFourthPowerBehindASmallHole) {
  Prescription p;
  p.surfaces = {{.gap = 1_mm, .clear = 1_mm, .stop = true},
                {.radius = Length::infinity(), .gap = 1_mm, .medium = plain(1.5), .clear = 90_mm},
                {.radius = -1000_mm, .gap = 50_mm, .clear = 90_mm}};
  const TracedGlass glass(p);
  for (const double h : {5.0, 15.0, 30.0}) {
    // From the film the hole is seen through the plate, 1/3 mm nearer than it is.
    const double away = 52.0 - 1.0 / 3.0;
    const double cosine = away / std::hypot(away, h);
    const double light = relative_light(glass, Length::from_mm(h));
    EXPECT_NEAR(light, std::pow(cosine, 4.0), 0.02 * std::pow(cosine, 4.0)) << h;
  }
}

TEST(GlassLight, StoppingDownNeverAddsLight) {
  for (const std::string& name : lenses) {
    TracedGlass glass(lens(name));
    const double wide = glass.opening().mm();
    const Length circle = image_circle(glass);
    double before = 1e9;
    for (const double share : {1.0, 0.7, 0.5, 0.35}) {
      glass.set_opening(Length::from_mm(share * wide));
      double passing = 0.0;
      for (int i = 0; i < 400; ++i) {
        const double x = (i % 20 - 9.5) / 10.0;
        const double y = (i / 20 - 9.5) / 10.0;
        const double half = std::sqrt(glass.surfaces().back().clear_sq);
        const double d = -glass.surfaces().back().z;
        const double h = 0.5 * circle.mm();
        const double length = std::hypot(half * x, half * y - h, d);
        const GlassWay way = glass.to_scene(
            {{0.0, h, 0.0}, {half * x / length, (half * y - h) / length, -d / length}});
        passing += way.end == RayEnd::passed ? 1.0 : 0.0;
      }
      EXPECT_LE(passing, before) << name;
      before = passing;
    }
    // Corners do not darken more, stopped down: what rims cut is less of what is left.
    glass.set_opening(Length::from_mm(wide));
    const double open = relative_light(glass, circle * 0.6);
    glass.set_opening(Length::from_mm(0.35 * wide));
    EXPECT_GE(relative_light(glass, circle * 0.6), open - 0.02) << name;
  }
}

TEST(GlassField, IsRefusedOutOfRange) {
  const TracedGlass glass(lens("quince-58"));
  EXPECT_THROW(over_field(glass, Length::infinity(), 0_mm, 5), UsageError);
  EXPECT_THROW(over_field(glass, Length::infinity(), 10_mm, 1), UsageError);
}

// ---- the file -----------------------------------------------------------------------------------

TEST(GlassFile, IsTheSameReadAgain) {
  for (const std::string& name : lenses) {
    const Prescription p = lens(name);
    const Prescription again = parse_glass(glass_text(p), "again.glass.toml");
    ASSERT_EQ(again.surfaces.size(), p.surfaces.size());
    for (std::size_t i = 0; i < p.surfaces.size(); ++i) {
      EXPECT_EQ(again.surfaces[i].medium, p.surfaces[i].medium);
      EXPECT_EQ(again.surfaces[i].curved, p.surfaces[i].curved);
      EXPECT_EQ(again.surfaces[i].stop, p.surfaces[i].stop);
    }
    EXPECT_NEAR(paraxial_facts(TracedGlass(again)).focal / paraxial_facts(TracedGlass(p)).focal,
                1.0, 1e-8);
    EXPECT_EQ(again.groups.size(), p.groups.size());
    EXPECT_EQ(again.iris.blades, p.iris.blades);
  }
}

TEST(GlassFile, ALastGapThatIsLeftOutIsToInfinity) {
  const Prescription p = parse_glass(
      "name = \"one\"\nsurface = [ { stop = true, gap = 2, clear = 10 },\n"
      "{ radius = 50, gap = \"0.5 cm\", glass = [1.5, 60], clear = 20 },\n"
      "{ radius = \"flat\", clear = 20 } ]\n",
      "one.glass.toml");
  EXPECT_NEAR(p.surfaces.back().gap.mm(), paraxial_facts(TracedGlass(p)).back_focus.mm(), 1e-9);
  EXPECT_NEAR(p.surfaces[1].gap.mm(), 5.0, 1e-12);
  // So there it is focused where it lies, whatever is rounded on the way.
  for (double radius = 41.2; radius < 60.0; radius += 0.37) {
    const Prescription one = parse_glass(
        fmt::format(
            "surface = [ {{ radius = {}, gap = 6.1, glass = [1.6204, 60.3], clear = 34 }},\n"
            "{{ radius = \"flat\", gap = 4, clear = 34 }},\n"
            "{{ stop = true, gap = 5, clear = 20 }},\n"
            "{{ radius = 900, gap = 2, glass = [1.5, 60], clear = 34 }},\n"
            "{{ radius = \"flat\", clear = 34 }} ]\n",
            radius),
        "one.glass.toml");
    EXPECT_NEAR(focused(one, Length::infinity()).travel.mm(), 0.0, 1e-9) << radius;
    EXPECT_NEAR(focused_distance(TracedGlass(one, focused(one, 2_m).travel), Meridian::up).m(), 2.0,
                1e-6);
  }
}

struct Wrong {
  const char* name;
  const char* text;
  const char* says;
};
void PrintTo(const Wrong& w, std::ostream* out) { *out << w.name; }

class WrongGlass : public ::testing::TestWithParam<Wrong> {};

TEST_P(WrongGlass, IsToldWithItsPlace) {
  try {
    parse_glass(GetParam().text, "bad.glass.toml");
    FAIL() << "nothing was told";
  } catch (const Error& e) {
    EXPECT_NE(std::string(e.what()).find(GetParam().says), std::string::npos) << e.what();
    EXPECT_NE(std::string(e.what()).find("bad.glass.toml"), std::string::npos) << e.what();
  }
}

constexpr const char* good_rest =
    "{ stop = true, gap = 2, clear = 10 }, { radius = -60, clear = 20 }";

INSTANTIATE_TEST_SUITE_P(
    Files, WrongGlass,
    ::testing::Values(
        Wrong{"empty", "name = \"x\"\n", "has no surface"},
        Wrong{"no_stop",
              "surface = [{ radius = 50, gap = 3, glass = [1.5, 60], clear = 9 },\n"
              "{ radius = -50, clear = 9 }]",
              "has no stop"},
        Wrong{"zero_radius",
              "surface = [{ radius = 0, gap = 3, clear = 9 },\n"
              "{ stop = true, clear = 9 }]",
              "bad.glass.toml:1:23: surface[0].radius: 0 mm is no radius"},
        Wrong{"negative_gap",
              "surface = [{ radius = 50, gap = -3, clear = 9 },\n"
              "{ stop = true, clear = 9 }]",
              "surface[0].gap: -3 mm is no gap"},
        Wrong{"too_wide",
              "surface = [{ radius = 5, gap = 3, clear = 12 },\n"
              "{ stop = true, clear = 9 }]",
              "is wider than a surface of this radius can be: 10 mm"},
        Wrong{"abbe_of_zero",
              "surface = [{ radius = 50, gap = 3, glass = [1.5, 0.5], clear = 9 },\n"
              "{ radius = 90, gap = 1, clear = 9}, { stop = true, clear = 9 }]",
              "is no Abbe number"},
        Wrong{"index_below_one",
              "surface = [{ radius = 50, gap = 3, glass = [0.5, 60], clear = 9 },\n"
              "{ radius = 90, gap = 1, clear = 9}, { stop = true, clear = 9 }]",
              "is no index from 1 to 4"},
        Wrong{"three_numbers",
              "surface = [{ radius = 50, gap = 3, glass = [1.5, 60, 1], clear = 9 "
              "},\n{ radius = 90, gap = 1, clear = 9}, { stop = true, clear = 9 }]",
              "has 3 numbers"},
        Wrong{"not_a_number",
              "surface = [{ radius = nan, gap = 3, clear = 9 },\n"
              "{ stop = true, clear = 9 }]",
              "surface[0].radius"},
        Wrong{"infinite_gap",
              "surface = [{ radius = 50, gap = inf, clear = 9 },\n"
              "{ stop = true, clear = 9 }]",
              "surface[0].gap"},
        Wrong{"misspelt",
              "surface = [{ radus = 50, gap = 3, clear = 9 },\n"
              "{ stop = true, clear = 9 }]",
              "radius"},
        Wrong{"faults_of_a_plain_lens",
              "surface = [{ radius = 50, gap = 3, clear = 9 },\n"
              "{ stop = true, clear = 9 }]\nlens.faults.coma = \"1 mm\"\n",
              "lens.faults.coma: is not a key of a glass file"},
        Wrong{"blades",
              "surface = [{ radius = 50, gap = 3, clear = 9 },\n"
              "{ stop = true, clear = 9 }]\niris.blades = 2\n",
              "bad.glass.toml:3:15: iris.blades"},
        Wrong{"glass_at_the_end",
              "surface = [{ stop = true, gap = 1, clear = 9 },\n"
              "{ radius = 50, gap = 3, glass = [1.5, 60], clear = 9 }]",
              "behind it is air"},
        Wrong{"groups_overlap",
              "surface = [{ radius = 50, gap = 3, glass = [1.5, 60], clear = 9 },\n"
              "{ radius = -50, gap = 3, clear = 9 }, { stop = true, gap = 9, clear = 9 }]\n"
              "group = [{ surfaces = [1, 2] }, { surfaces = [2, 3] }]",
              "overlap group 1"},
        Wrong{"group_tears_a_glass",
              "surface = [{ radius = 50, gap = 3, glass = [1.5, 60], clear = 9 },\n"
              "{ radius = -50, gap = 3, clear = 9 }, { stop = true, gap = 9, clear = 9 }]\n"
              "group = [{ surfaces = [2, 3] }]",
              "begins within a glass"},
        Wrong{"no_image",
              "surface = [{ stop = true, gap = 1, clear = 9 },\n"
              "{ radius = -50, gap = 3, glass = [1.5, 60], clear = 9 },\n"
              "{ radius = 50, clear = 9 }]",
              "infinity does not meet behind the last surface"},
        Wrong{"no_power",
              "surface = [{ stop = true, gap = 1, clear = 9 },\n"
              "{ radius = \"flat\", gap = 3, glass = [1.5, 60], clear = 9 },\n"
              "{ radius = \"flat\", clear = 9 }]",
              "has no power"}),
    [](const auto& each) { return std::string(each.param.name); });

// All of a file's mistakes in one go.
TEST(GlassFile, TellsAllMistakesAtOnce) {
  try {
    parse_glass(
        "surface = [{ radius = 0, gap = 3, clear = 9 },\n{ radius = 50, gap = -1, clear = 9 },\n"
        "{ radius = 5, gap = 1, clear = 30 }]\n",
        "bad.glass.toml");
    FAIL();
  } catch (const ShotFileError& e) {
    EXPECT_GE(e.mistakes().size(), 4U) << e.what();
  }
}

TEST(GlassFacts, TooManySurfacesAndTravelsThatCollideAreRefused) {
  Prescription p = lens("quince-58");
  EXPECT_THROW(TracedGlass(p, -500_mm), OpticsError);
  while (p.surfaces.size() <= most_surfaces) p.surfaces.push_back(p.surfaces.front());
  EXPECT_FALSE(mistakes_in(p).empty());
  // Two hundred are legal: plane plates in air.
  Prescription many;
  many.surfaces.push_back({.gap = 1_mm, .clear = 10_mm, .stop = true});
  many.surfaces.push_back({.radius = 80_mm, .gap = 2_mm, .medium = plain(1.5), .clear = 20_mm});
  for (std::size_t i = 2; i < most_surfaces; ++i) {
    many.surfaces.push_back(
        {.gap = Length::from_mm(0.1), .medium = plain(i % 2 == 0 ? 1.0 : 1.5), .clear = 30_mm});
  }
  many.surfaces.back().medium = plain(1.0);
  many.surfaces.back().gap = 100_mm;
  EXPECT_NO_THROW(paraxial_facts(TracedGlass(many)));
}

}  // namespace glass_facts_test
}  // namespace jolly_iris
