// What swaps sides across the focus, and what does not: in the tracer and in defocus alike.
#include <gtest/gtest.h>

#include <cmath>

#include "jolly_iris/optics/sharpness.hpp"
#include "jolly_iris/picture/defocus.hpp"
#include "jolly_iris/trace/trace.hpp"

namespace jolly_iris {
namespace flip_test {

constexpr int width = 160;

VirtualCamera camera_of(Lens lens) {
  lens.focal = 80_mm;
  lens.widest = f_number(1.0);
  const Body body{.gate = {24_mm, 24_mm}, .pixels = {width, width}};
  return resolve(body, lens, {.stop = f_number(1.0)}, 2_m);
}

// A lamp at (x, y) px, z m away, by either way.
Picture lamp(bool traced, const VirtualCamera& c, double z, double x = 80.5, double y = 80.5) {
  if (!traced) {
    Frame f{Picture({width, width}, {0, 0, 0, 1}), {}};
    f.depth.assign(f.colour.pixels().size(), static_cast<float>(z));
    f.colour.at(static_cast<int>(x), static_cast<int>(y)) = {1000, 1000, 1000, 1};
    return defocus(f, c);
  }
  const auto d = direction_of_pixel(c, x, y);
  Scene scene;
  Mesh mesh;
  Primitive p{.kind = Primitive::Kind::points,
              .positions = {{static_cast<float>(d[0] * z), static_cast<float>(d[1] * z),
                             static_cast<float>(-z)}}};
  p.material = 0;
  scene.materials.push_back({.emission = Vec3f::all(1000.0F), .point_diameter_m = 0.001});
  mesh.primitives.push_back(p);
  scene.meshes.push_back(mesh);
  Node node;
  node.mesh = 0;
  scene.nodes.push_back(node);
  return trace(scene, c, Pose{}, {.samples = 64}).colour;
}

struct Light {
  double above = 0.0;      // share of it
  double rim = 0.0;        // mean far out against mean in the middle
  double red_out = 0.0;    // root mean square distance of red's light against blue's
  double red_right = 0.0;  // how much further right red's light lies than blue's, px
};

Light seen(const Picture& p, double radius, double x0 = 80.5, double y0 = 80.5) {
  Light l;
  double all = 0.0;
  double edge = 0.0;
  double middle = 0.0;
  double edge_px = 0.0;
  double middle_px = 0.0;
  std::array<double, 3> total{};
  std::array<double, 3> out{};
  std::array<double, 3> right{};
  for (int y = 0; y < p.height(); ++y) {
    for (int x = 0; x < p.width(); ++x) {
      const Rgba& v = p.at(x, y);
      const double r = std::hypot(x + 0.5 - x0, y + 0.5 - y0);
      const auto g = static_cast<double>(v[1]);
      all += g;
      if (y + 0.5 < y0) l.above += g;
      if (y + 0.5 == y0) l.above += 0.5 * g;
      if (r > 0.75 * radius && r < 0.95 * radius) {
        edge += g;
        edge_px += 1.0;
      }
      if (r < 0.35 * radius) {
        middle += g;
        middle_px += 1.0;
      }
      for (std::size_t c = 0; c < 3; ++c) {
        total[c] += static_cast<double>(v[c]);
        out[c] += static_cast<double>(v[c]) * r * r;
        right[c] += static_cast<double>(v[c]) * x;
      }
    }
  }
  l.above /= all;
  l.rim = edge / edge_px / (middle / middle_px);
  l.red_out = std::sqrt(out[0] / total[0]) / std::sqrt(out[2] / total[2]);
  l.red_right = right[0] / total[0] - right[2] / total[2];
  return l;
}

class Flip : public ::testing::TestWithParam<bool> {  // traced or defocused
 protected:
  static constexpr double behind = 4.0;          // m: as much blur …
  static constexpr double in_front = 4.0 / 3.0;  // … as here
};

TEST_P(Flip, OddBladesTurnOver) {
  const VirtualCamera c = camera_of({.iris = {.blades = 3}});
  EXPECT_LT(seen(lamp(GetParam(), c, behind), 30).above, 0.47);
  EXPECT_GT(seen(lamp(GetParam(), c, in_front), 30).above, 0.53);
}

TEST_P(Flip, SphericalAberrationIsSoftBehindAndRimmedInFront) {
  Lens lens;
  lens.aberrations.spherical = Length::from_mm(0.6);
  const VirtualCamera c = camera_of(lens);
  const double blur = to_pixels(circle_of_confusion(c, Length::from_m(behind)), c);
  const double a = 0.6 / c.pixel_pitch().mm();
  // Where the edge lands: c/2 + a/3 to either side.
  EXPECT_LT(seen(lamp(GetParam(), c, behind), blur / 2 + a / 3).rim, 0.7);
  EXPECT_GT(seen(lamp(GetParam(), c, in_front), blur / 2 - a / 3).rim, 1.4);
}

TEST_P(Flip, ARimStaysOnBothSides) {
  const VirtualCamera c = camera_of({.iris = {.edge_falloff = 1.5}});
  const double radius = to_pixels(circle_of_confusion(c, Length::from_m(behind)), c) / 2;
  const double back = seen(lamp(GetParam(), c, behind), radius).rim;
  EXPECT_GT(back, 1.3);
  EXPECT_NEAR(seen(lamp(GetParam(), c, in_front), radius).rim, back, 0.05 * back);
}

TEST_P(Flip, FocusShiftsFringeSwapsAndMagnificationsDoesNot) {
  Lens lens;
  lens.aberrations.focus_shift = {Power::from_dioptres(-0.03), {}, Power::from_dioptres(0.03)};
  VirtualCamera c = camera_of(lens);
  // Red focuses farther: behind the focus its discs are smaller.
  EXPECT_LT(seen(lamp(GetParam(), c, behind), 30).red_out, 0.9);
  EXPECT_GT(seen(lamp(GetParam(), c, in_front), 30).red_out, 1.1);
  lens.aberrations = {};
  lens.aberrations.magnification = {1.02, 1.0, 0.98};
  c = camera_of(lens);
  // 40 px right of the axis: red lies 1.6 px further out than blue, on both sides.
  for (const double z : {behind, in_front}) {
    EXPECT_NEAR(seen(lamp(GetParam(), c, z, 120.5, 80.5), 30).red_right, 0.04 * 40.5, 0.1) << z;
  }
}

TEST_P(Flip, TheBarrelCutsOppositeSides) {
  Lens lens;
  lens.vignetting = {{42_mm, 200_mm}};
  const VirtualCamera c = camera_of(lens);
  const auto centre = [&](double z) {
    const Picture p = lamp(GetParam(), c, z, 120.5, 80.5);
    double all = 0.0;
    double x0 = 0.0;
    for (int y = 0; y < width; ++y) {
      for (int x = 0; x < width; ++x) {
        all += static_cast<double>(p.at(x, y)[1]);
        x0 += (x + 0.5) * static_cast<double>(p.at(x, y)[1]);
      }
    }
    return x0 / all;
  };
  EXPECT_LT(centre(behind), 120.0);     // the outer side is gone …
  EXPECT_GT(centre(in_front), 120.85);  // … of an image that stands the other way round
}

INSTANTIATE_TEST_SUITE_P(Both, Flip, ::testing::Bool(), [](const auto& each) {
  return each.param ? std::string("traced") : std::string("defocused");
});

}  // namespace flip_test
}  // namespace jolly_iris
