// A glass's compact form against its surfaces, on rays that it was not fitted to.
#include "jolly_iris/glass/glass_fit.hpp"

#include <gtest/gtest.h>

#include <cmath>

#include "jolly_iris/files/glass_file.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "optics/seeded.hpp"
#include "support.hpp"

namespace jolly_iris {
namespace glass_fit_test {

using namespace jolly_iris::literals;

struct Fitted {
  const char* name;
  double f_number;
  double half_mm;
};
void PrintTo(const Fitted& l, std::ostream* out) { *out << l.name; }

class CompactForm : public ::testing::TestWithParam<Fitted> {
 protected:
  CompactForm()
      : camera_(
            read_glass(testing::demo(std::string("../glass/") + GetParam().name + ".glass.toml")),
            2.4_m, GetParam().f_number, Length::from_mm(GetParam().half_mm)),
        fit_(fit_glass(camera_, 2.4_m)) {}

  GlassCamera camera_;
  GlassFit fit_;
};

TEST_P(CompactForm, MissesByLessThanItMay) {
  EXPECT_LE(fit_.error.rms_um, 1.0);
  EXPECT_LE(fit_.error.worst_um, 8.0);
  EXPECT_LE(fit_.error.wrongly_sorted, 0.005);
}

// What a place of the film sees on a plane before or behind the focus: the shape of discs.
TEST_P(CompactForm, SeesTheSameDiscs) {
  constexpr int most = 48;
  constexpr int rays = 250;
  double sum = 0.0;
  for (const double share : {0.0, 0.5, 0.85}) {
    for (const double z : {1.6, 12.0}) {
      const double right = share * 0.8e-3 * GetParam().half_mm;
      const double up = share * 0.6e-3 * GetParam().half_mm;
      std::array<std::vector<double>, 2> seen{std::vector<double>(most * most),
                                              std::vector<double>(most * most)};
      std::array<double, 2> all{};
      std::array<double, 2> middle{};
      double half = 0.0;
      int count = most;
      // First where and how wide, then the light on squares; other numbers than the fit's.
      for (const bool first : {true, false}) {
        Seeded random(first ? 5 : 6);
        for (int i = 0; i < rays * rays; ++i) {
          const double u = (i % rays + random.next()) / rays;
          const double v = (i / rays + random.next()) / rays;
          const GlassCameraRay traced = camera_.ray(right, up, u, v, 1);
          const GlassSampler::Ray fitted = fit_.sampler.ray(right, up, u, v, 1);
          const std::array<std::array<double, 2>, 2> at{
              {{traced.origin[0] + z * traced.direction[0],
                traced.origin[1] + z * traced.direction[1]},
               {fitted.origin[0] + z * fitted.direction[0],
                fitted.origin[1] + z * fitted.direction[1]}}};
          const std::array<double, 2> weight{traced.weight, fitted.weight};
          if (first) {
            if (weight[0] <= 0.0) continue;
            if (all[0] == 0.0) middle = at[0];
            half = std::max({half, std::abs(at[0][0] - middle[0]), std::abs(at[0][1] - middle[1])});
            all[0] = 1.0;
            continue;
          }
          for (std::size_t k = 0; k < 2; ++k) {
            const int x = static_cast<int>((at[k][0] - middle[0] + half) / (2.0 * half) * count);
            const int y = static_cast<int>((at[k][1] - middle[1] + half) / (2.0 * half) * count);
            if (weight[k] <= 0.0 || x < 0 || y < 0 || x >= count || y >= count) continue;
            seen[k][static_cast<std::size_t>(y * count + x)] += weight[k];
            all[k] += weight[k];
          }
        }
        if (!first) continue;
        all = {};
        // Squares of the disc, none smaller on the film than half a photosite.
        const double on_film_um = 2e6 * half * camera_.scene_focal().m() / z;
        count = std::clamp(static_cast<int>(on_film_um / 2.0), 4, most);
      }
      double both = 0.0;
      for (std::size_t i = 0; i < seen[0].size(); ++i) {
        both += std::min(seen[0][i] / all[0], seen[1][i] / all[1]);
      }
      sum += both / 6.0;
      EXPECT_NEAR(all[1] / all[0], 1.0, 0.01) << share << " " << z;
    }
  }
  EXPECT_GE(sum, 0.93);  // their mean
}

INSTANTIATE_TEST_SUITE_P(
    Lenses, CompactForm,
    ::testing::Values(Fitted{"quince-58", 2.3, 14.9}, Fitted{"hornbeam-50", 1.7, 14.9},
                      Fitted{"hornbeam-50", 4.0, 14.9}, Fitted{"sedge-17", 3.2, 14.2}),
    [](const auto& each) {
      std::string name = each.param.name;
      for (char& c : name) c = c == '-' ? '_' : c;
      return name + "_" + std::to_string(static_cast<int>(10.0 * each.param.f_number));
    });

TEST(CompactForm, HigherOrdersAreNearer) {
  const GlassCamera camera(read_glass(testing::demo("../glass/quince-58.glass.toml")), 2.4_m, 2.3,
                           14.9_mm);
  double before = 1e9;
  for (const int order : {3, 5, 7, 9}) {
    const GlassFit fit = fit_glass(camera, 2.4_m, order);
    EXPECT_LT(fit.error.rms_um, 0.4 * before) << order;
    EXPECT_EQ(fit.sampler.ways[1].weights.size(),
              2 * GlassSampler::terms(order) * fit.sampler.ways[1].stride());
    before = fit.error.rms_um;
  }
}

TEST(CompactForm, RefusesWhatItCannotBe) {
  const GlassCamera round(read_glass(testing::demo("../glass/quince-58.glass.toml")), 2.4_m, 2.3,
                          14.9_mm);
  for (const int order : {1, 4, 11}) EXPECT_THROW(fit_glass(round, 2.4_m, order), UsageError);
  const GlassCamera squeezed(read_glass(testing::demo("../glass/bulrush-75.glass.toml")), 2.4_m,
                             2.8, 14.9_mm, 2.0);
  EXPECT_THROW(fit_glass(squeezed, 2.4_m), OpticsError);
}

}  // namespace glass_fit_test
}  // namespace jolly_iris
