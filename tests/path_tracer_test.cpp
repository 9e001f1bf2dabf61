// The path tracer of the examples, which has the sampling headers and nothing else of ours, against
// `trace`: through a thin lens with a barrel and through a glass; and against a closed form.
#include <gtest/gtest.h>

#include <cmath>
#include <fstream>
#include <numbers>
#include <sstream>

#include "cli_support.hpp"
#include "jolly_iris/jolly_iris.hpp"
#include "made_scene.hpp"

namespace jolly_iris {
namespace path_tracer_test {

using testing::add_node;
using testing::demo;
using testing::run;
using testing::slurp;
using testing::TempFolder;

constexpr PixelSize size{160, 90};

struct Ball {
  Vec3f centre;
  float radius;
  Vec3f sends;
};

// In front of the focus, in it and behind it, towards a corner, and one before another.
const std::vector<Ball> balls{{{-0.25F, -0.1F, -1.6F}, 0.12F, {0.8F, 0.3F, 0.1F}},
                              {{0.1F, 0.05F, -2.4F}, 0.2F, {0.2F, 0.6F, 0.3F}},
                              {{0.9F, 0.45F, -6.0F}, 0.3F, {0.9F, 0.8F, 0.6F}},
                              {{-1.6F, 0.8F, -9.0F}, 0.5F, {0.3F, 0.4F, 0.9F}},
                              {{0.5F, -0.9F, -5.0F}, 0.4F, {0.5F, 0.5F, 0.5F}}};

Primitive ball(const Ball& b) {
  constexpr int rows = 96;
  constexpr int columns = 192;
  Primitive p;
  for (int j = 0; j <= rows; ++j) {
    const double down = std::numbers::pi * j / rows;
    for (int i = 0; i < columns; ++i) {
      const double turn = 2.0 * std::numbers::pi * i / columns;
      p.positions.push_back(
          {b.centre.x + b.radius * static_cast<float>(std::sin(down) * std::cos(turn)),
           b.centre.y + b.radius * static_cast<float>(std::cos(down)),
           b.centre.z + b.radius * static_cast<float>(std::sin(down) * std::sin(turn))});
    }
  }
  for (std::uint32_t j = 0; j < rows; ++j) {
    for (std::uint32_t i = 0; i < columns; ++i) {
      const std::uint32_t next = (i + 1) % columns;
      const std::uint32_t a = j * columns;
      const std::uint32_t b2 = a + columns;
      p.triangles.push_back({a + i, b2 + i, b2 + next});
      p.triangles.push_back({a + i, b2 + next, a + next});
    }
  }
  return p;
}

// Under a sky that is the same everywhere, a surface's light is its own colour.
Scene scene_of_balls() {
  Scene scene;
  scene.sky = scene.ground = Vec3f::all(1.0F);
  for (const Ball& b : balls) {
    const std::size_t node = add_node(scene, ball(b), {.base = b.sends});
    scene.nodes[node].name = "ball";
  }
  return scene;
}

std::string balls_file(const TempFolder& folder) {
  const std::string name = folder / "balls.txt";
  std::ofstream out(name);
  for (const Ball& b : balls) {
    out << b.centre.x << ' ' << b.centre.y << ' ' << b.centre.z << ' ' << b.radius << " 0 0 0 "
        << b.sends.x << ' ' << b.sends.y << ' ' << b.sends.z << '\n';
  }
  return name;
}

Picture read_float_map(const std::string& name) {
  std::istringstream in(slurp(name));
  std::string kind;
  PixelSize s{};
  double scale = 0.0;
  in >> kind >> s.width >> s.height >> scale;
  in.get();
  Picture out(s, {0, 0, 0, 1});
  for (int y = s.height - 1; y >= 0; --y) {
    for (int x = 0; x < s.width; ++x) {
      in.read(reinterpret_cast<char*>(out.at(x, y).data()), 12);
    }
  }
  EXPECT_TRUE(in) << name << " is cut off";
  return out;
}

Picture traced_by_example(const std::string& table, const std::string& spheres, double gate_mm,
                          PixelSize s, int rays, int bounces, const TempFolder& folder) {
  const std::string out = folder / "out.pfm";
  std::ostringstream line;
  line.precision(17);
  line << JOLLY_IRIS_PATH_TRACER << ' ' << table << ' ' << spheres << ' ' << gate_mm << ' '
       << s.width << ' ' << s.height << ' ' << rays << ' ' << bounces << ' ' << out;
  EXPECT_EQ(std::system(line.str().c_str()), 0) << line.str();
  return read_float_map(out);
}

double psnr_between(const Picture& a, const Picture& b) {
  double sum = 0.0;
  for (std::size_t i = 0; i < a.pixels().size(); ++i) {
    for (std::size_t c = 0; c < 3; ++c) {
      const double d =
          static_cast<double>(a.pixels()[i][c]) - static_cast<double>(b.pixels()[i][c]);
      sum += d * d;
    }
  }
  return -10.0 * std::log10(sum / (3.0 * static_cast<double>(a.pixels().size())));
}

LoadedShot opened(const TempFolder& folder, const std::string& lens) {
  const std::string name = folder / "balls.shot.toml";
  std::ofstream(name) << "[body]\ngate = \"25.9 x 14.57 mm\"\npixels = \"1920 x 1080\"\n[lens]\n"
                      << lens << "[take]\nstop = \"f/2\"\n[focus]\nmark = \"2.4 m\"\n";
  std::vector<std::string> files;
  return open_shot({.file = name}, files);
}

double light_of(const Picture& p) {
  double sum = 0.0;
  for (const Rgba& v : p.pixels()) sum += static_cast<double>(v[0] + v[1] + v[2]);
  return sum;
}

// As near as the noise of their rays: 40 dB is what edges of such contrast have with 256 of them;
// and as bright on the whole.
void expect_alike(const LoadedShot& loaded, const std::string& table, const TempFolder& folder) {
  TraceSettings settings;
  settings.size = size;
  settings.samples = 256;
  settings.just = {"ball"};  // not the sky itself
  settings.glass = glass_camera_of(loaded);
  const Picture ours = trace(scene_of_balls(), loaded.answer.camera, Pose{}, settings).colour;
  const Picture example = traced_by_example(
      table, balls_file(folder), loaded.answer.camera.picture.width.mm(), size, 256, 0, folder);
  EXPECT_GT(psnr_between(ours, example), 40.0);
  EXPECT_NEAR(light_of(example) / light_of(ours), 1.0, 0.003);
}

TEST(PathTracer, SeesThroughAThinLensWhatTraceSees) {
  const TempFolder folder;
  const LoadedShot loaded =
      opened(folder,
             "focal = \"50 mm\"\n[lens.iris]\nblades = 7\nrotation = \"10 deg\"\n[[lens.barrel]]\n"
             "radius = \"15.5 mm\"\nahead = \"24 mm\"\n");
  const std::string table = folder / "lens.json";
  const auto made =
      run({"bokeh", folder / "balls.shot.toml", "--table", table, "-o", folder / "b.png"});
  ASSERT_EQ(made.code, 0) << made.err;
  expect_alike(loaded, table, folder);
}

TEST(PathTracer, SeesThroughAGlassWhatTraceSees) {
  const TempFolder folder;
  const std::string glass = demo("../glass/hornbeam-50.glass.toml");
  const LoadedShot loaded = opened(folder, "glass = \"" + glass + "\"\n");
  const std::string table = folder / "glass.json";
  const auto made = run({"glass", glass, "--at", "2.4 m", "--stop", "f/2", "--fit", table});
  ASSERT_EQ(made.code, 0) << made.err;
  expect_alike(loaded, table, folder);
}

// A small lamp straight above a diffuse plane (a very large sphere) at a distance d: the plane
// sends back albedo × radiance × (r / d)², r ≪ d. A ball that hides the lamp from it leaves
// nothing.
TEST(PathTracer, ALampLightsAPlaneAsTheClosedFormSays) {
  const TempFolder folder;
  ASSERT_EQ(
      run({"bokeh", demo("hero.shot.toml"), "--table", folder / "t.json", "-o", folder / "b.png"})
          .code,
      0);
  const auto middle = [&](const std::string& more) {
    std::ofstream(folder / "plane.txt")
        << "0 0 -10003 10000  0.5 0.4 0.3  0 0 0\n0 0 1 0.05  0 0 0  100 100 100\n"
        << more;
    const Picture p =
        traced_by_example(folder / "t.json", folder / "plane.txt", 0.1, {8, 8}, 256, 1, folder);
    std::array<double, 3> mean{};
    for (const Rgba& v : p.pixels()) {
      for (std::size_t c = 0; c < 3; ++c) mean[c] += static_cast<double>(v[c]) / 64.0;
    }
    return mean;
  };
  const std::array<double, 3> lit = middle("");
  const double each = 100.0 * 0.05 * 0.05 / 16.0;
  EXPECT_NEAR(lit[0], 0.5 * each, 0.01 * each);
  EXPECT_NEAR(lit[1], 0.4 * each, 0.01 * each);
  EXPECT_NEAR(lit[2], 0.3 * each, 0.01 * each);
  EXPECT_LT(middle("0 0 0.5 0.1  0 0 0  0 0 0\n")[0], 1e-9);
}

TEST(PathTracer, WhatIsNoLensIsTold) {
  const TempFolder folder;
  std::ofstream(folder / "no.json") << "{\"focal\": 0}";
  const std::string line = std::string(JOLLY_IRIS_PATH_TRACER) + " " + (folder / "no.json") + " " +
                           balls_file(folder) + " 25 8 8 1 0 " + (folder / "x.pfm") + " 2> " +
                           (folder / "said");
  EXPECT_NE(std::system(line.c_str()), 0);
  EXPECT_TRUE(testing::holds(slurp(folder / "said"), "is no lens's table"));
}

}  // namespace path_tracer_test
}  // namespace jolly_iris
