// The ordinary lens that is nearest to a glass: what is told of it against rays of both, one by
// one.
#include "jolly_iris/glass/nearest_lens.hpp"

#include <gtest/gtest.h>

#include <cmath>

#include "jolly_iris/files/glass_file.hpp"
#include "jolly_iris/files/lens_text.hpp"
#include "jolly_iris/files/load.hpp"
#include "jolly_iris/glass/paraxial.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/optics/pupil.hpp"
#include "jolly_iris/workflow/nearest_look.hpp"
#include "optics/seeded.hpp"
#include "support.hpp"

namespace jolly_iris {
namespace nearest_lens_test {

using namespace jolly_iris::literals;

GlassLook look_of(const std::string& name, double f_number) {
  GlassRequest request;
  request.file = testing::demo("../glass/" + name + ".glass.toml");
  request.distance = 2.4_m;
  request.f_number = f_number;
  request.gate = Extent{25.9_mm, 14.6_mm};
  std::vector<std::string> files;
  return look_at_glass(request, files);
}

// Light on small squares, by many rays.
class Squares {
 public:
  explicit Squares(double side) : side_(side), light_(count * count) {}
  void add(double x, double y, double light) {
    const int i = static_cast<int>(std::floor(x / side_ + 0.5)) + count / 2;
    const int j = static_cast<int>(std::floor(y / side_ + 0.5)) + count / 2;
    if (i < 0 || j < 0 || i >= count || j >= count) return;
    light_[static_cast<std::size_t>(j * count + i)] += light;
    all_ += light;
  }
  double overlap(const Squares& o) const {
    double both = 0.0;
    for (std::size_t k = 0; k < light_.size(); ++k) {
      both += std::min(light_[k] / all_, o.light_[k] / o.all_);
    }
    return both;
  }

 private:
  static constexpr int count = 161;
  double side_;
  double all_ = 0.0;
  std::vector<double> light_;
};

TEST(NearestLens, ToldOverlapIsWhatRaysOfBothSay) {
  const GlassLook look = look_of("hornbeam-50", 1.7);
  const NearestLook nearest = nearest_to(look);
  Body body;
  body.gate = {25.9_mm, 14.6_mm};
  body.pixels = {2000, 1127};
  Take take;
  take.stop = f_number(1.7);
  const VirtualCamera camera = resolve(body, nearest.lens, take, nearest.focus);
  const GlassCamera glass(look.prescription, nearest.focus, 1.7, 14.9_mm);
  const LensSampler lens = lens_sampler(camera);
  for (const NearestPlace& place : nearest.places) {
    if (place.share != 0.65 || !(place.z < 2_m || place.z.is_infinite())) continue;
    const double right = 0.5 * place.share * 25.9e-3 / camera.focal.m();
    const double up = 0.5 * place.share * 14.6e-3 / camera.focal.m();
    const double z = place.z.is_finite() ? place.z.m() : 1e6;
    // As fine as they were compared: 48 px of the disc of a perfect lens.
    const double coc = 2.0 * lens.radius * lens.focal * std::abs(lens.inverse_focus - 1.0 / z);
    const double fine = coc / 48.0;
    const PointLight middle(glass, {right, up, 1.0 / z});
    const double lands_right = middle.middle()[0];
    const double lands_up = middle.middle()[1];
    // Where distortion draws things here, along both ways.
    const double step = 1e-3;
    const auto beside = PointLight(glass, {right + step, up, 1.0 / z}).middle();
    const auto above = PointLight(glass, {right, up + step, 1.0 / z}).middle();
    const double a = (beside[0] - lands_right) / step;
    const double b = (above[0] - lands_right) / step;
    const double c = (beside[1] - lands_up) / step;
    const double d = (above[1] - lands_up) / step;
    const double v = camera.focal.m() / (a * d - b * c);
    double told = 0.0;
    Seeded random(7);
    for (std::size_t colour = 0; colour < 3; ++colour) {
      Squares traced(fine);
      Squares thin(fine);
      const TracedGlass& way = glass.glass(colour);
      const double plane = way.surfaces().front().z;
      const double reach = 0.62 * paraxial_facts(way).entrance_diameter.mm();
      constexpr int n = 700;
      for (int j = 0; j < n; ++j) {
        for (int i = 0; i < n; ++i) {
          // Over the front, where the pupil is seen from there: it stands as far behind.
          const double behind = glass.pupil_to_film().mm() + plane;  // < 0: the front is before it
          const double x = reach * (2.0 * (i + random.next()) / n - 1.0) - right * behind;
          const double y = reach * (2.0 * (j + random.next()) / n - 1.0) - up * behind;
          std::array<double, 3> along{1e-3 * x / z - right, 1e-3 * y / z - up,
                                      1.0 + 1e-3 * behind / z};
          const double length = std::hypot(along[0], along[1], along[2]);
          for (double& k : along) k /= length;
          const GlassWay to = way.to_film({{x, y, plane}, along});
          if (to.end == RayEnd::passed) {
            const double dx = -1e-3 * to.ray.at[0] - lands_right;
            const double dy = -1e-3 * to.ray.at[1] - lands_up;
            traced.add(v * (d * dx - b * dy), v * (a * dy - c * dx), 1.0);
          }
          const Point2 p = lens.point((i + random.next()) / n, (j + random.next()) / n);
          const auto l = lens.land({right * z, up * z, -z}, p, colour);
          const double weight = static_cast<double>(l.weight[1]);
          if (weight > 0.0) {
            thin.add(l.at.x - lens.magnification[1] * lens.focal * right,
                     l.at.y - lens.magnification[1] * lens.focal * up, weight);
          }
        }
      }
      told += traced.overlap(thin) / 3.0;
    }
    EXPECT_NEAR(told, place.overlap, 0.02) << z;
  }
}

TEST(NearestLens, StoppedDownItIsNearer) {
  const NearestLook wide = nearest_to(look_of("hornbeam-50", 1.7));
  const NearestLook closed = nearest_to(look_of("hornbeam-50", 4.0));
  EXPECT_GT(wide.mean_overlap, 0.7);
  EXPECT_GT(closed.mean_overlap, wide.mean_overlap + 0.08);
  EXPECT_LT(std::abs(wide.worst_light), 0.1);
}

TEST(NearestLens, ItsFileReadsBack) {
  const GlassLook look = look_of("bulrush-75", 2.8);
  const Lens lens = nearest_to(look).lens;
  const testing::TempFolder folder;
  folder.write("near.lens.toml", lens_text(lens, "made for a test"));
  const std::string shot =
      folder.write("s.shot.toml",
                   "[body]\ngate = \"25.9 x 14.6 mm\"\npixels = \"1920 x 1080\"\n[lens]\nfile = "
                   "\"near.lens.toml\"\n[take]\nstop = \"f/4\"\nmark = \"3 m\"\n");
  const Lens back = load_shot(shot).shot.lens;
  EXPECT_NEAR(back.focal.mm(), lens.focal.mm(), 1e-6);
  EXPECT_EQ(back.vignetting.size(), lens.vignetting.size());
  EXPECT_NEAR(back.aberrations.coma.mm(), lens.aberrations.coma.mm(), 1e-8);
  EXPECT_NEAR(back.aberrations.focus_shift[2].dioptres(),
              lens.aberrations.focus_shift[2].dioptres(), 1e-8);
  EXPECT_EQ(back.squeezes.size(), lens.squeezes.size());
  EXPECT_EQ(back.breathing.size(), lens.breathing.size());
  EXPECT_EQ(back.loss.size(), lens.loss.size());
  ASSERT_TRUE(back.distortion.width.has_value());
  EXPECT_NEAR((*back.distortion.width)[0], (*lens.distortion.width)[0], 1e-8);
}

TEST(NearestLens, AGateOfNothingIsRefused) {
  const Prescription p = read_glass(testing::demo("../glass/quince-58.glass.toml"));
  EXPECT_THROW(nearest_lens(p, {3_m, 2.3, {0_mm, 10_mm}}), UsageError);
  EXPECT_THROW(nearest_lens(p, {3_m, 1.2, {20_mm, 10_mm}}), OpticsError);
}

}  // namespace nearest_lens_test
}  // namespace jolly_iris
