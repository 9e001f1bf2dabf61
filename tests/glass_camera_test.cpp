// A glass as a camera has it: light over the picture, both ways through it, what a shot takes from
// its prescription, and pictures traced through it.
#include <gtest/gtest.h>

#include <cmath>
#include <numbers>

#include "jolly_iris/files/glass_file.hpp"
#include "jolly_iris/files/shot_file.hpp"
#include "jolly_iris/glass/aim.hpp"
#include "jolly_iris/glass/field.hpp"
#include "jolly_iris/glass/glass_camera.hpp"
#include "jolly_iris/glass/glass_facts.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/trace/trace.hpp"
#include "support.hpp"

namespace jolly_iris {
namespace glass_camera_test {

using namespace jolly_iris::literals;

struct Opened {
  const char* name;
  double f_number;
  double half_mm;
};
void PrintTo(const Opened& l, std::ostream* out) { *out << l.name; }

const std::vector<Opened> lenses{{"quince-58", 2.3, 14.5},
                                 {"hornbeam-50", 1.7, 14.5},
                                 {"hornbeam-50", 4.0, 14.5},
                                 {"sedge-17", 3.2, 14.0},
                                 {"bulrush-75", 2.8, 12.0}};

Prescription lens(const std::string& name) {
  return read_glass(testing::demo("../glass/" + name + ".glass.toml"));
}

// Mean over the opening as the picture counts it, and how many rays pass.
struct Mean {
  double weight = 0.0;
  double passed = 0.0;
};
Mean mean_at(const GlassCamera& camera, double right, double up, int n) {
  Mean out;
  for (int j = 0; j < n; ++j) {
    for (int i = 0; i < n; ++i) {
      const GlassCameraRay r = camera.ray(right, up, (i + 0.5) / n, (j + 0.5) / n, 1);
      out.weight += r.weight / (n * n);
      out.passed += r.weight > 0.0 ? 1.0 / (n * n) : 0.0;
    }
  }
  return out;
}

TEST(GlassCamera, LightOverThePictureIsTheProjectedSolidAngle) {
  for (const Opened& l : lenses) {
    const GlassCamera camera(lens(l.name), 3_m, l.f_number, Length::from_mm(l.half_mm));
    EXPECT_NEAR(mean_at(camera, 0.0, 0.0, 200).weight, 1.0, 0.01) << l.name;
    for (const double share : {0.4, 0.8}) {
      const double h = share * l.half_mm;
      // By the whole of the last surface, far beyond any bounds.
      const auto of = [&](double y) {
        const TracedGlass& glass = camera.green();
        const double half = std::sqrt(glass.surfaces().back().clear_sq);
        const double d = -glass.surfaces().back().z;
        const int n = 500;
        double sum = 0.0;
        for (int j = 0; j < n; ++j) {
          for (int i = 0; i < n; ++i) {
            const double dx = half * (2.0 * (i + 0.5) / n - 1.0);
            const double dy = half * (2.0 * (j + 0.5) / n - 1.0) - y;
            const double square = dx * dx + dy * dy + d * d;
            const double length = std::sqrt(square);
            const GlassWay way =
                glass.to_scene({{0.0, y, 0.0}, {dx / length, dy / length, -d / length}});
            if (way.end == RayEnd::passed) sum += d * d / (square * square);
          }
        }
        return sum;
      };
      const double truth = of(-h) / of(0.0);
      EXPECT_NEAR(mean_at(camera, 0.0, 1e-3 * h, 300).weight, truth, 0.01 * truth)
          << l.name << " at " << h;
      if (testing::sanitized) return;
    }
  }
}

TEST(GlassCamera, MostOfItsRaysPass) {
  for (const Opened& l : lenses) {
    const GlassCamera camera(lens(l.name), 3_m, l.f_number, Length::from_mm(l.half_mm));
    EXPECT_GT(mean_at(camera, 0.0, 0.0, 60).passed, 0.65) << l.name;
  }
}

// A ray out of the film, followed to a place in the scene: light of that place lands where it
// began.
TEST(GlassCamera, ARayComesBackWhereItBegan) {
  for (const Opened& l : lenses) {
    const double squeeze = std::string(l.name) == "bulrush-75" ? 2.0 : 1.0;
    const GlassCamera camera(lens(l.name), 3_m, l.f_number, Length::from_mm(l.half_mm), squeeze);
    int compared = 0;
    for (int i = 0; i < 300; ++i) {
      const double right = squeeze * 0.5e-3 * l.half_mm * std::sin(1.3 * i);
      const double up = 0.5e-3 * l.half_mm * std::cos(2.1 * i);
      const auto r = camera.ray(right, up, std::fmod(0.37 * i, 1.0), std::fmod(0.61 * i, 1.0), 2);
      if (!(r.weight > 0.0)) continue;
      std::array<double, 3> point{};
      for (std::size_t k = 0; k < 3; ++k) point[k] = r.origin[k] + 5.0 * r.direction[k];
      const GlassLanding back = camera.land(point, r.origin, 2);
      ASSERT_GT(back.weight, 0.0) << l.name;
      EXPECT_NEAR(back.at[0], right, 1e-9) << l.name;
      EXPECT_NEAR(back.at[1], up, 1e-9) << l.name;
      ++compared;
    }
    EXPECT_GT(compared, 60) << l.name;
  }
}

TEST(GlassCamera, ManyRaysGoAsSingleOnesDo) {
  const GlassCamera camera(lens("hornbeam-50"), 3_m, 2.8, 14_mm);
  constexpr std::size_t n = 600;  // some blocks, and a part of one
  std::vector<double> right(n);
  std::vector<double> up(n);
  std::vector<double> u(n);
  std::vector<double> v(n);
  for (std::size_t i = 0; i < n; ++i) {
    right[i] = 0.009 * std::sin(1.3 * static_cast<double>(i));
    up[i] = 0.009 * std::cos(2.1 * static_cast<double>(i));
    u[i] = std::fmod(0.37 * static_cast<double>(i), 1.0);
    v[i] = std::fmod(0.61 * static_cast<double>(i), 1.0);
  }
  std::vector<GlassCameraRay> out(n);
  camera.rays(right, up, u, v, 0, out);
  int differ = 0;
  for (std::size_t i = 0; i < n; ++i) {
    const GlassCameraRay one = camera.ray(right[i], up[i], u[i], v[i], 0);
    if ((one.weight > 0.0) != (out[i].weight > 0.0)) {
      ++differ;
      continue;
    }
    EXPECT_DOUBLE_EQ(out[i].weight, one.weight);
    if (!(one.weight > 0.0)) continue;
    for (std::size_t k = 0; k < 3; ++k) {
      EXPECT_NEAR(out[i].origin[k], one.origin[k], 1e-6);
      EXPECT_NEAR(out[i].direction[k], one.direction[k], 5e-6);
    }
  }
  EXPECT_LE(differ, 2);  // on a rim
}

// In focus all of a lamp's light of one colour lands together, where the picture has it.
TEST(GlassCamera, IsFocusedWhereItIsAskedFor) {
  const GlassCamera camera(lens("sedge-17"), 0.8_m, 4.0, 14_mm);
  const std::array<double, 3> point{0.0, 0.0, -0.8};
  const auto middle = camera.project(point);
  ASSERT_TRUE(middle.has_value());
  EXPECT_NEAR((*middle)[0], 0.0, 1e-9);
  // Spherical aberration and colour alone, against what is far behind.
  EXPECT_LT(camera.reach(point), 0.4 * camera.reach({0.0, 0.0, -20.0}));
  // What is right of the axis is right in the picture.
  EXPECT_GT((*camera.project({0.3, 0.0, -1.5}))[0], 0.0);
  EXPECT_GT((*camera.project({0.0, 0.3, -1.5}))[1], 0.0);
}

// Small things of the focus plane are as much narrower than high as the marks say, traced exactly.
TEST(GlassCamera, AnAnamorphicSqueezesWhatItIsFocusedOn) {
  const Prescription p = lens("bulrush-75");
  const GlassMark mark = mark_at(p, 3_m);
  const TracedGlass glass(p, mark.travel);
  const auto shown = [&](double right, double up) {
    const auto ray = aimed(glass, RaySource::point({right, up, -3000.0}), {0.0, 0.0});
    return ray ? glass.to_film(*ray, false).ray.at : std::array<double, 3>{};
  };
  const double small = 10.0;  // mm
  const double up = shown(0.0, small)[1];
  const double right = shown(small, 0.0)[0];
  EXPECT_NEAR(up / right, mark.squeeze, 0.001);
  EXPECT_NEAR(mark_at(p, Length::infinity()).squeeze, 2.0, 0.005);
  // The shot's table has it at its marks.
  const testing::TempFolder folder;
  const Shot shot = read_shot(folder.write(
      "s.shot.toml",
      "unit = \"m\"\n[body]\ngate = \"21 x 18 mm\"\npixels = \"1680 x 720\"\n[lens]\nglass = \"" +
          testing::demo("../glass/bulrush-75.glass.toml") +
          "\"\n[take]\nstop = \"f/2.8\"\nmark = \"3 m\"\n"));
  EXPECT_NEAR(shot.lens.squeeze, 2.0, 0.005);
  EXPECT_NEAR(squeeze_at_focus(shot.lens, 3_m), mark.squeeze, 0.005);
}

// ---- a shot -------------------------------------------------------------------------------------

TEST(GlassShot, TakesFromItsPrescriptionWhatNotesLeaveOpen) {
  const Shot shot = read_shot(testing::demo("../glass/evening.shot.toml"));
  const Prescription p = lens("hornbeam-50");
  EXPECT_NEAR(shot.lens.focal.mm(), 50.0, 0.01);
  EXPECT_NEAR(shot.lens.pupil->mm(), 39.03, 0.05);
  EXPECT_EQ(shot.lens.name, "hornbeam 50");
  EXPECT_EQ(shot.lens.iris.blades, p.iris.blades);
  EXPECT_GE(shot.lens.breathing.size(), 8U);
  EXPECT_TRUE(std::is_sorted(
      shot.lens.breathing.begin(), shot.lens.breathing.end(),
      [](const BreathingPoint& a, const BreathingPoint& b) { return a.mark < b.mark; }));
  ASSERT_EQ(
      std::count_if(shot.files.begin(), shot.files.end(),
                    [](const std::string& f) { return f.ends_with("hornbeam-50.glass.toml"); }),
      1);
}

TEST(GlassShot, SaysWhatIsWrongWithItsGlass) {
  const testing::TempFolder folder;
  const auto refused = [&](const std::string& lens_lines, const std::string& says) {
    const std::string file =
        folder.write("s.shot.toml",
                     "unit = \"m\"\n[body]\ngate = \"24 x 14 mm\"\npixels = \"640 x "
                     "360\"\n[lens]\n" +
                         lens_lines + "\n[take]\nstop = \"f/4\"\nmark = \"3 m\"\n");
    try {
      read_shot(file);
      FAIL() << lens_lines;
    } catch (const Error& e) {
      EXPECT_NE(std::string(e.what()).find(says), std::string::npos) << e.what();
    }
  };
  refused("glass = \"nowhere.glass.toml\"", "nowhere.glass.toml");
  folder.write("bad.glass.toml", "surface = [{ radius = 0, gap = 1, clear = 9 }]\n");
  refused("glass = \"bad.glass.toml\"", "bad.glass.toml:1:23: surface[0].radius");
  folder.write("one.glass.toml",
               "surface = [{ stop = true, gap = 2, clear = 10 },\n"
               "{ radius = 50, gap = 5, glass = [1.5, 60], clear = 20 },\n"
               "{ radius = \"flat\", clear = 20 }]\n");
  refused("focal = \"35 mm\"\nglass = \"one.glass.toml\"", "is not what its glass has");
}

// ---- pictures -----------------------------------------------------------------------------------

// Under an even sky a picture is as bright as the glass lets through at each place.
TEST(GlassTrace, AnEvenSkyShowsTheGlasssOwnLight) {
  const Opened l{"quince-58", 2.3, 20.0};
  auto glass = std::make_shared<const GlassCamera>(lens(l.name), Length::from_m(1000.0), l.f_number,
                                                   Length::from_mm(l.half_mm));
  Scene scene;
  scene.sky = scene.ground = Vec3f::all(1.0F);
  const Body body{.gate = {32_mm, 24_mm}, .pixels = {32, 24}};
  const VirtualCamera camera =
      resolve(body, {.focal = 58_mm}, {.stop = f_number(2.3)}, Length::from_m(1000.0));
  TraceSettings settings;
  settings.samples = testing::cases(1024, 64);
  settings.glass = glass;
  const Frame frame = trace(scene, camera, Pose{}, settings);
  const double pitch = 1.0;  // mm a pixel
  for (const auto& [x, y] : {std::array{15, 11}, std::array{24, 11}, std::array{30, 20}}) {
    const double right = (x + 0.5 - 16.0) * pitch;
    const double up = (12.0 - y - 0.5) * pitch;
    const double h = std::hypot(right, up);
    const double truth = relative_light(glass->green(), Length::from_mm(h));
    EXPECT_NEAR(frame.colour.at(x, y)[1], truth, 0.03 * truth) << h;
  }
}

}  // namespace glass_camera_test
}  // namespace jolly_iris
