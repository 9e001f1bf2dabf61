// Discs as a glass makes them: pieces of light against rays followed one by one, energy, and what
// defocus and bokeh draw with them.
#include <gtest/gtest.h>

#include <cmath>
#include <numbers>

#include "jolly_iris/files/glass_file.hpp"
#include "jolly_iris/glass/field.hpp"
#include "jolly_iris/glass/glass_distortion.hpp"
#include "jolly_iris/glass/paraxial.hpp"
#include "jolly_iris/glass/point_light.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/picture/bokeh.hpp"
#include "jolly_iris/picture/defocus.hpp"
#include "optics/seeded.hpp"
#include "support.hpp"

namespace jolly_iris {
namespace glass_discs_test {

using namespace jolly_iris::literals;

struct Opened {
  const char* name;
  double f_number;
};
void PrintTo(const Opened& l, std::ostream* out) { *out << l.name; }

class GlassDisc : public ::testing::TestWithParam<Opened> {
 protected:
  GlassDisc() {
    glass_ = read_glass(testing::demo(std::string("../glass/") + GetParam().name + ".glass.toml"));
    squeeze_ = glass_.is_round() ? 1.0 : 2.0;
  }
  GlassCamera camera(Length focus = 3_m) const {
    return GlassCamera(glass_, focus, GetParam().f_number, 14_mm, squeeze_);
  }

  Prescription glass_{};
  double squeeze_ = 1.0;
};

// Light, middle and mean squares of a disc on the film, mm, from its middle ray.
struct Moments {
  double light = 0.0;
  double right = 0.0, up = 0.0;
  double width = 0.0, height = 0.0;
};

Moments of_pieces(const PointLight& light, std::size_t colour, int side) {
  std::vector<LightPiece> pieces;
  light.pieces(colour, side, pieces);
  Moments m;
  for (const LightPiece& p : pieces) {
    double x = 0.0;
    double y = 0.0;
    for (std::size_t i = 0; i < p.count; ++i) {
      x += p.corners[i].x * 1e3 / static_cast<double>(p.count);
      y += p.corners[i].y * 1e3 / static_cast<double>(p.count);
    }
    m.light += p.light;
    m.right += p.light * x;
    m.up += p.light * y;
    m.width += p.light * x * x;
    m.height += p.light * y * y;
  }
  m.right /= m.light;
  m.up /= m.light;
  m.width = std::sqrt(m.width / m.light - m.right * m.right);
  m.height = std::sqrt(m.height / m.light - m.up * m.up);
  return m;
}

// The same by rays in double, each stopped where it is stopped, from random places of the front.
Moments of_rays(const GlassCamera& camera, const PupilPlace& from, std::size_t colour) {
  const TracedGlass& glass = camera.glass(colour);
  const double plane = glass.surfaces().front().z;
  // All of the pupil and more; discs here are of points near the axis.
  const double reach = std::min(1.3 * std::sqrt(glass.surfaces().front().clear_sq),
                                0.8 * paraxial_facts(glass).entrance_diameter.mm());
  Seeded random(11);
  const PointLight middle(camera, from);
  const double v = camera.scene_focal().mm();
  // What the glass does to places here, to be taken back.
  const double step = 1e-3;
  const auto right = PointLight(camera, {from.right + step, from.up, from.inverse_z}).middle();
  const auto above = PointLight(camera, {from.right, from.up + step, from.inverse_z}).middle();
  const double a = 1e3 * (right[0] - middle.middle()[0]) / step;
  const double b = 1e3 * (above[0] - middle.middle()[0]) / step;
  const double c = 1e3 * (right[1] - middle.middle()[1]) / step;
  const double e = 1e3 * (above[1] - middle.middle()[1]) / step;
  const double det = a * e - b * c;
  constexpr int columns = 400;  // one ray in each cell of a grid, anywhere in it
  constexpr int rays = columns * columns;
  const auto side = [&](int cell) {
    return reach * (2.0 * (cell + random.next()) / columns - 1.0);
  };
  Moments m;
  double all = 0.0;
  for (int i = 0; i < rays; ++i) {
    const std::array<double, 3> at{side(i % columns), side(i / columns), plane};
    const double behind = plane + camera.pupil_to_film().mm();
    std::array<double, 3> d{1e-3 * at[0] * from.inverse_z - from.right,
                            1e-3 * at[1] * from.inverse_z - from.up,
                            1.0 + 1e-3 * behind * from.inverse_z};
    const double length = std::hypot(d[0], d[1], d[2]);
    for (double& k : d) k /= length;
    const GlassWay way = glass.to_film({at, d});
    if (way.end != RayEnd::passed) continue;
    const double weight = d[2] / (length * length);
    const double film_x = -camera.squeeze() * way.ray.at[0] - 1e3 * middle.middle()[0];
    const double film_y = -way.ray.at[1] - 1e3 * middle.middle()[1];
    const double x = v * (e * film_x - b * film_y) / det;
    const double y = v * (a * film_y - c * film_x) / det;
    all += weight;
    m.right += weight * x;
    m.up += weight * y;
    m.width += weight * x * x;
    m.height += weight * y * y;
  }
  const double off = 1.0 / std::sqrt(1.0 + from.right * from.right + from.up * from.up);
  m.light =
      all * 4.0 * reach * reach / rays * off * camera.squeeze() / (camera.middle_light() * det);
  m.right /= all;
  m.up /= all;
  m.width = std::sqrt(m.width / all - m.right * m.right);
  m.height = std::sqrt(m.height / all - m.up * m.up);
  return m;
}

TEST_P(GlassDisc, PiecesAreWhatRaysSayOneByOne) {
  const GlassCamera lens = camera();
  for (const double z : {1.8, 6.0, 1e9}) {
    for (const std::size_t colour : {0U, 1U, 2U}) {
      if (colour != 1U && z != 6.0) continue;
      const PupilPlace from{0.01, 0.006, 1.0 / z};
      const Moments pieces = of_pieces(PointLight(lens, from), colour, 48);
      const Moments rays = of_rays(lens, from, colour);
      EXPECT_NEAR(pieces.light / rays.light, 1.0, 0.012) << z;
      EXPECT_NEAR(pieces.width / rays.width, 1.0, 0.012) << z;
      EXPECT_NEAR(pieces.height / rays.height, 1.0, 0.012) << z;
      EXPECT_NEAR(pieces.right, rays.right, 0.02 * rays.width) << z;
      EXPECT_NEAR(pieces.up, rays.up, 0.02 * rays.height) << z;
    }
  }
}

// Light that all points of the scene send is the light that all of the film has.
class RoundGlassDisc : public GlassDisc {};

TEST_P(RoundGlassDisc, EnergyOfDiscsIsTheFilmsLight) {
  const GlassCamera lens = camera(Length::infinity());
  const TracedGlass& glass = lens.green();
  const double circle = image_circle(glass).mm();
  const int n = 160;
  double film = 0.0;
  double last = 0.0;
  for (int i = 0; i < n; ++i) {
    const double h = (i + 0.5) * 1.1 * circle / n;
    film += h * 1.1 * circle / n * relative_light(glass, Length::from_mm(h));
  }
  // Discs at even steps of direction; the area that a step has on the film by where middle rays
  // land.
  double discs = 0.0;
  double before = 0.0;
  for (int i = 0; i < 4 * n; ++i) {
    const double tangent = 2.2 * circle / lens.scene_focal().mm() * (i + 0.5) / (4 * n);
    const PointLight light(lens, {0.0, tangent, 0.0});
    if (!light.reaches()) break;
    const double h = 1e3 * light.middle()[1];
    if (h < last) break;
    last = h;
    // From half-way to the one before to half-way to the next.
    const double next_tangent = tangent + 2.2 * circle / lens.scene_focal().mm() / (4 * n);
    const PointLight after(lens, {0.0, next_tangent, 0.0});
    const double edge = after.reaches() ? 0.5 * (h + 1e3 * after.middle()[1]) : h;
    discs += 0.5 * (edge * edge - before * before) * light.light(32);
    before = edge;
  }
  EXPECT_NEAR(discs / film, 1.0, 0.005);
}

TEST_P(GlassDisc, StoppingDownNeverAddsLight) {
  for (const double tangent : {0.0, 0.1, 0.17}) {
    double before = 1e9;
    for (const double times : {1.0, 1.2, 1.6, 2.3, 4.0}) {
      const GlassCamera lens(glass_, 3_m, GetParam().f_number * times, 14_mm, squeeze_);
      // Per f-number: weights count against each opening's own middle.
      const double light =
          PointLight(lens, {tangent, 0.5 * tangent, 0.1}).light(32) * lens.middle_light();
      EXPECT_LE(light, before * 1.002) << tangent << " " << times;
      before = light;
    }
  }
}

std::string name_of(const ::testing::TestParamInfo<Opened>& each) {
  std::string name = each.param.name;
  for (char& c : name) c = c == '-' ? '_' : c;
  return name + "_" + std::to_string(static_cast<int>(10.0 * each.param.f_number));
}

const auto round_lenses = ::testing::Values(Opened{"quince-58", 2.3}, Opened{"hornbeam-50", 1.7},
                                            Opened{"hornbeam-50", 4.0}, Opened{"sedge-17", 3.2});
INSTANTIATE_TEST_SUITE_P(Round, GlassDisc, round_lenses, name_of);
INSTANTIATE_TEST_SUITE_P(Anamorphic, GlassDisc, ::testing::Values(Opened{"bulrush-75", 2.8}),
                         name_of);
INSTANTIATE_TEST_SUITE_P(Round, RoundGlassDisc, round_lenses, name_of);

TEST(GlassDistortion, IsWhatRaysThroughTheOpeningSay) {
  for (const char* name : {"quince-58", "hornbeam-50", "sedge-17"}) {
    const Prescription p =
        read_glass(testing::demo(std::string("../glass/") + name + ".glass.toml"));
    const GlassDistortion d = distortion_of(p);
    const double r = d.distortion.radius->mm();
    EXPECT_LT(d.worst.mm(), 0.002 * r) << name;
    const TracedGlass glass(p);
    for (const FieldPoint& f : over_field(glass, Length::infinity(), Length::from_mm(0.8 * r), 7)) {
      const double q = std::pow(f.height.mm() / r, 2.0);
      const auto& k = d.distortion.k;
      const double straight = f.height.mm() * (1.0 + q * (k[0] + q * (k[1] + q * k[2])));
      EXPECT_NEAR(straight * (1.0 + f.distortion), f.height.mm(), d.worst.mm() + 0.002) << name;
    }
  }
}

// A camera that frames as the glass does.
VirtualCamera framed(const GlassCamera& lens, double f_number) {
  Body body{.gate = {25.9_mm, 14.6_mm}, .pixels = {320, 180}};
  Lens simple{.focal = lens.scene_focal()};
  Take take{.stop = jolly_iris::f_number(f_number)};
  VirtualCamera c = resolve(body, simple, take, 3_m);
  c.focal = lens.scene_focal();
  return c;
}

TEST(GlassBokeh, ALampsDiscIsCutAsTheSurfacesCutIt) {
  const Prescription p = read_glass(testing::demo("../glass/hornbeam-50.glass.toml"));
  const GlassCamera lens(p, 3_m, 1.7, 15_mm);
  const VirtualCamera c = framed(lens, 1.7);
  const BokehDisc middle = bokeh_disc(c, {0.0, 0.0}, 30_m, 4.0, &lens);
  const BokehDisc corner = bokeh_disc(c, {0.9, 0.9}, 30_m, 4.0, &lens);
  EXPECT_NEAR(middle.light_stops, 0.0, 0.01);
  EXPECT_LT(corner.light_stops, -0.5);
  EXPECT_NEAR(middle.width_px, middle.height_px, 0.51);
  // Of its area less is left than of its light in the middle.
  EXPECT_LT(corner.area_px, 0.9 * middle.area_px);
  // The same by directions of the compass: a mirror's picture.
  const BokehDisc left = bokeh_disc(c, {-0.9, 0.9}, 30_m, 4.0, &lens);
  EXPECT_NEAR(left.width_px, corner.width_px, 0.51);
  EXPECT_NEAR(left.light_stops, corner.light_stops, 0.01);
}

TEST(GlassBokeh, BladesShowTheirCornersAndTurnInFrontOfTheFocus) {
  Prescription p = read_glass(testing::demo("../glass/quince-58.glass.toml"));
  p.iris.blades = 3;
  p.iris.blade_radius = {};
  const GlassCamera lens(p, 3_m, 8.0, 15_mm);
  const VirtualCamera c = framed(lens, 8.0);
  const auto lean = [&](Length z) {
    // The third moment up tells which way the triangle points.
    const Picture d = bokeh_disc(c, {}, z, 24.0, &lens).picture;
    double sum = 0.0;
    double third = 0.0;
    for (int y = 0; y < d.height(); ++y) {
      for (int x = 0; x < d.width(); ++x) {
        const double v = static_cast<double>(d.at(x, y)[1]);
        const double up = 0.5 * d.height() - y - 0.5;
        sum += v;
        third += v * up * up * up;
      }
    }
    return third / sum;
  };
  EXPECT_LT(lean(1_m) * lean(30_m), 0.0);
}

TEST(GlassDefocus, ALampBecomesTheDiscThatBokehDraws) {
  const Prescription p = read_glass(testing::demo("../glass/hornbeam-50.glass.toml"));
  const auto lens = std::make_shared<const GlassCamera>(p, 3_m, 1.7, 15_mm);
  const VirtualCamera c = framed(*lens, 1.7);
  Frame frame{Picture({320, 180}, {0, 0, 0, 1}), std::vector<float>(320 * 180, 30.0F)};
  frame.colour.at(300, 20) = {5000, 5000, 5000, 1};
  DefocusSettings settings;
  settings.glass = lens;
  const Picture out = defocus(frame, c, settings);
  const BokehDisc disc =
      bokeh_disc(c, {2.0 * 300.5 / 320 - 1.0, 1.0 - 2.0 * 20.5 / 180}, 30_m, 1.0, lens.get());
  const int half = disc.picture.width() / 2;
  double sum = 0.0;
  double lit = 0.0;
  for (const Rgba& v : out.pixels()) sum += static_cast<double>(v[1]);
  for (const Rgba& v : disc.picture.pixels()) lit += static_cast<double>(v[1]);
  EXPECT_NEAR(sum / 5000.0, std::exp2(disc.light_stops), 0.02 * std::exp2(disc.light_stops));
  for (int y = -half; y <= half; ++y) {
    for (int x = -half; x <= half; ++x) {
      if (300 + x >= 320 || 20 + y < 0) continue;
      const double drawn = static_cast<double>(disc.picture.at(half + x, half + y)[1]) / lit;
      EXPECT_NEAR(static_cast<double>(out.at(300 + x, 20 + y)[1]) / sum, drawn, 0.03 * 1.0 / 30.0);
    }
  }
}

}  // namespace glass_discs_test
}  // namespace jolly_iris
