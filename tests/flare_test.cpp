// Ghosts: where light goes that two surfaces send back, how much it is, and what a picture gets of
// it.
#include "jolly_iris/picture/flare.hpp"

#include <gtest/gtest.h>

#include <cmath>

#include "jolly_iris/files/glass_file.hpp"
#include "jolly_iris/glass/coating.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "support.hpp"

namespace jolly_iris {
namespace flare_test {

using namespace jolly_iris::literals;

Prescription lens_named(const std::string& name) {
  return read_glass(testing::demo("../glass/" + name + ".glass.toml"));
}

VirtualCamera camera_of(const GlassCamera& glass, PixelSize pixels = {480, 270}) {
  Body body{.gate = {25.9_mm, 14.6_mm}, .pixels = pixels};
  Lens simple{.focal = glass.scene_focal()};
  Take take{.stop = f_number(4.0)};
  VirtualCamera c = resolve(body, simple, take, 3_m);
  c.focal = glass.scene_focal();
  return c;
}

using Vec = std::array<double, 3>;

// A ray in the tests' own words: spheres by their quadratic equation, Snell and mirrors in vectors.
struct Followed {
  Vec at{};
  Vec along{};
  double rim = 0.0;
  bool lost = false;
};

void meet(Followed& r, const TracedSurface& s) {
  if (s.curvature == 0.0) {
    const double t = (s.z - r.at[2]) / r.along[2];
    for (std::size_t k = 0; k < 3; ++k) r.at[k] += t * r.along[k];
  } else {
    const double radius = 1.0 / s.curvature;
    const Vec o{r.at[0], r.at[1], r.at[2] - s.z - radius};
    const double b = o[0] * r.along[0] + o[1] * r.along[1] + o[2] * r.along[2];
    const double c = o[0] * o[0] + o[1] * o[1] + o[2] * o[2] - radius * radius;
    const double square = b * b - c;
    if (square < 0.0) {
      r.lost = true;
      return;
    }
    // The point on the vertex's side of the sphere.
    double best = 0.0;
    double nearest = 1e300;
    for (const double t : {-b - std::sqrt(square), -b + std::sqrt(square)}) {
      const double z = std::abs(o[2] + t * r.along[2] + radius);
      if (z < nearest) {
        nearest = z;
        best = t;
      }
    }
    for (std::size_t k = 0; k < 3; ++k) r.at[k] += best * r.along[k];
  }
  r.rim = std::max(r.rim, std::hypot(r.at[0], r.at[1]) / std::sqrt(s.clear_sq));
}

Vec normal_at(const Followed& r, const TracedSurface& s) {
  if (s.curvature == 0.0) return {0.0, 0.0, 1.0};
  Vec n{-s.curvature * r.at[0], -s.curvature * r.at[1], 1.0 - s.curvature * (r.at[2] - s.z)};
  const double length = std::hypot(n[0], n[1], n[2]);
  for (double& k : n) k /= length;
  return n;
}

void turn(Followed& r, const TracedSurface& s, bool mirror, bool back) {
  Vec n = normal_at(r, s);
  double cosine = n[0] * r.along[0] + n[1] * r.along[1] + n[2] * r.along[2];
  if (cosine < 0.0) {
    for (double& k : n) k = -k;
    cosine = -cosine;
  }
  if (mirror) {
    for (std::size_t k = 0; k < 3; ++k) r.along[k] -= 2.0 * cosine * n[k];
    return;
  }
  const double ratio = back ? s.after / s.before : s.before / s.after;
  const double left = 1.0 - ratio * ratio * (1.0 - cosine * cosine);
  if (left < 0.0) {
    r.lost = true;
    return;
  }
  for (std::size_t k = 0; k < 3; ++k) {
    r.along[k] = ratio * r.along[k] + (std::sqrt(left) - ratio * cosine) * n[k];
  }
}

Followed by_hand(const TracedGlass& glass, Followed r, const GhostPath& path) {
  const auto& all = glass.surfaces();
  const auto one = [&](std::size_t k, bool back, bool mirror) {
    if (r.lost) return;
    if (all[k].stop) {
      const double t = (all[k].z - r.at[2]) / r.along[2];
      for (std::size_t i = 0; i < 3; ++i) r.at[i] += t * r.along[i];
      return;
    }
    meet(r, all[k]);
    if (!r.lost) turn(r, all[k], mirror, back);
  };
  for (std::size_t k = 0; k <= path.far; ++k) one(k, false, k == path.far);
  for (std::size_t k = path.far; k-- > path.near;) one(k, true, k == path.near);
  for (std::size_t k = path.near + 1; k < all.size(); ++k) one(k, false, false);
  if (!r.lost) {
    const double t = -r.at[2] / r.along[2];
    for (std::size_t i = 0; i < 3; ++i) r.at[i] += t * r.along[i];
  }
  return r;
}

TEST(Ghost, EveryPairGoesWhereAnotherTraceHasIt) {
  for (const char* name : {"quince-58", "hornbeam-50", "sedge-17"}) {
    const Prescription p = lens_named(name);
    const GlassCamera lens(p, 3_m, 4.0, 14_mm);
    const GhostLight ghosts(lens, p);
    ReflectanceTables tables;
    tables.from_scene.resize(p.surfaces.size());
    tables.from_film.resize(p.surfaces.size());
    int met = 0;
    for (const GhostPath& path : ghosts.paths()) {
      RayBlock rays;
      std::vector<Followed> hand;
      const double plane = lens.green().surfaces().front().z;
      for (int i = 0; i < 40; ++i) {
        const double x = 0.2 * (i % 8) - 0.6;
        const double y = 0.3 * (i / 8) - 0.5;
        const Vec d{0.02, -0.05, std::sqrt(1.0 - 0.02 * 0.02 - 0.05 * 0.05)};
        hand.push_back(by_hand(lens.green(), {{x, y, plane}, d, 0.0, false}, path));
        const std::size_t k = rays.count++;
        rays.x[k] = static_cast<float>(x);
        rays.y[k] = static_cast<float>(y);
        rays.z[k] = static_cast<float>(plane);
        rays.along_x[k] = static_cast<float>(d[0]);
        rays.along_y[k] = static_cast<float>(d[1]);
        rays.along_z[k] = static_cast<float>(d[2]);
        rays.open[k] = 1;
      }
      GhostMarks marks;
      lens.blocks(1).follow_ghost(rays, path.far, path.near, tables, marks);
      for (std::size_t k = 0; k < rays.count; ++k) {
        if (hand[k].lost || rays.open[k] == 0 || hand[k].rim > 1.0) continue;
        ++met;
        // On the film, or far beside it where little bends much.
        const double scale = 1e-4 * (1.0 + std::hypot(hand[k].at[0], hand[k].at[1]));
        EXPECT_NEAR(static_cast<double>(rays.x[k]), hand[k].at[0], scale) << name;
        EXPECT_NEAR(static_cast<double>(rays.y[k]), hand[k].at[1], scale) << name;
        EXPECT_NEAR(static_cast<double>(marks.marks.rim[k]), hand[k].rim, 1e-4) << name;
      }
    }
    EXPECT_GT(met, 400) << name;
  }
}

// A flat window before a lens: what it sends to and fro lies upon the picture, with the light of
// two reflections.
TEST(Ghost, OfAWindowHasTheLightOfItsTwoReflections) {
  Prescription p = lens_named("quince-58");
  GlassSurface front;
  front.radius = Length::infinity();
  front.gap = 2_mm;
  front.medium = Medium{1.5, 60.0};
  front.clear = 60_mm;
  GlassSurface rear = front;
  rear.gap = 5_mm;
  rear.medium = {};
  p.surfaces.insert(p.surfaces.begin(), {front, rear});
  for (GlassGroup& g : p.groups) {
    g.first += 2;
    g.last += 2;
  }
  for (GlassSurface& s : p.surfaces) s.coat.reset();
  ASSERT_TRUE(mistakes_in(p).empty());
  const GlassCamera lens(p, Length::infinity(), 4.0, 14_mm);
  const GhostLight ghosts(lens, p);
  const PupilPlace from{0.05, 0.03, 0.0};
  std::vector<LightPiece> pieces;
  ghosts.pieces({1, 0}, from, 1, 48, pieces);
  double light = 0.0;
  Point2 sum{};
  for (const LightPiece& piece : pieces) {
    light += piece.light;
    for (std::size_t i = 0; i < piece.count; ++i) {
      const double share = piece.light / static_cast<double>(piece.count);
      sum = {sum.x + share * piece.corners[i].x, sum.y + share * piece.corners[i].y};
    }
  }
  const PointLight direct(lens, from);
  const double n = refractive_index(front.medium, colours_um[1]);
  const double once = std::pow((n - 1.0) / (n + 1.0), 2.0);
  EXPECT_NEAR(light / direct.light(48), once * once, 0.02 * once * once);
  EXPECT_NEAR(sum.x / light, direct.middle()[0], 2e-5);
  EXPECT_NEAR(sum.y / light, direct.middle()[1], 2e-5);
}

TEST(Ghost, FewRaysHaveTheLightOfMany) {
  for (const char* name : {"quince-58", "hornbeam-50"}) {
    const Prescription p = lens_named(name);
    const GlassCamera lens(p, 3_m, 4.0, 14_mm);
    const GhostLight ghosts(lens, p);
    const VirtualCamera c = camera_of(lens);
    Picture picture({480, 270}, {0, 0, 0, 1});
    const std::vector<FlareLamp> lamp{{140.0, 90.0, {1e6, 1e6, 1e6}}};
    FlareSettings settings;
    settings.hold = 1.0;
    const Flare few = flare_of(picture, lamp, c, lens, ghosts, settings);
    settings.side = 192;
    const Flare many = flare_of(picture, lamp, c, lens, ghosts, settings);
    EXPECT_NEAR(few.light / many.light, 1.0, 0.005) << name;
  }
}

TEST(Flare, IsTurnedAsTheLampIs) {
  const Prescription p = lens_named("hornbeam-50");
  const GlassCamera lens(p, 3_m, 1.7, 15_mm);
  const GhostLight ghosts(lens, p);
  const VirtualCamera c = camera_of(lens);
  Picture picture({480, 270}, {0, 0, 0, 1});
  const Flare one = flare_of(picture, {{140.0, 90.0, {1e6, 1e6, 1e6}}}, c, lens, ghosts);
  const Flare turned =
      flare_of(picture, {{480.0 - 140.0, 270.0 - 90.0, {1e6, 1e6, 1e6}}}, c, lens, ghosts);
  double sum = 0.0;
  double off = 0.0;
  for (int y = 0; y < 270; ++y) {
    for (int x = 0; x < 480; ++x) {
      const double a = static_cast<double>(one.added.at(x, y)[1]);
      sum += a;
      off += std::abs(a - static_cast<double>(turned.added.at(479 - x, 269 - y)[1]));
    }
  }
  EXPECT_GT(sum, 0.0);
  EXPECT_LT(off, 0.02 * sum);
}

TEST(Flare, FindsLampsByTheirLight) {
  Picture picture({200, 100}, {0.2F, 0.2F, 0.2F, 1});
  picture.at(20, 30) = {50, 40, 30, 1};
  picture.at(21, 30) = {50, 40, 30, 1};
  for (int y = 60; y < 64; ++y) {
    for (int x = 150; x < 154; ++x) picture.at(x, y) = {2, 2, 2, 1};
  }
  const FoundLamps all = lamps_in(picture);
  ASSERT_EQ(all.lamps.size(), 2U);
  EXPECT_DOUBLE_EQ(all.lamps[0].x, 21.0);
  EXPECT_DOUBLE_EQ(all.lamps[0].y, 30.5);
  EXPECT_NEAR(all.lamps[0].light[0], 100.0, 1e-9);
  EXPECT_DOUBLE_EQ(all.lamps[1].x, 152.0);
  const FoundLamps one = lamps_in(picture, {1.0, 1});
  EXPECT_EQ(one.all, 2U);
  EXPECT_NEAR(one.share, 80.0 / 112.0, 1e-9);
  EXPECT_THROW(lamps_in(picture, {0.0, 1}), UsageError);
  EXPECT_THROW(lamps_in(picture, {1.0, 0}), UsageError);
}

TEST(Flare, RefusesWhatItCannotDo) {
  const Prescription p = lens_named("quince-58");
  const GlassCamera lens(p, 3_m, 4.0, 14_mm);
  const GhostLight ghosts(lens, p);
  const VirtualCamera c = camera_of(lens);
  const Picture picture({48, 27}, {0, 0, 0, 1});
  for (const FlareSettings& wrong :
       {FlareSettings{.hold = 0.0}, FlareSettings{.side = 4}, FlareSettings{.layers = 900}}) {
    EXPECT_THROW(flare_of(picture, {}, c, lens, ghosts, wrong), UsageError);
  }
  EXPECT_TRUE(flare_of(picture, {}, c, lens, ghosts).ghosts.empty());
  // Where the glass lights nothing, nobody knows what a lamp had.
  VirtualCamera wide = c;
  wide.picture = {90_mm, 50.6_mm};
  const Flare dark = flare_of(picture, {{1.0, 1.0, {10, 10, 10}}}, wide, lens, ghosts);
  EXPECT_EQ(dark.notes.size(), 1U);
}

}  // namespace flare_test
}  // namespace jolly_iris
