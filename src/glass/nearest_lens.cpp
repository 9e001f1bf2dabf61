#include "jolly_iris/glass/nearest_lens.hpp"

#include <fmt/format.h>

#include <Eigen/Dense>
#include <algorithm>
#include <array>
#include <cmath>
#include <vector>

#include "jolly_iris/glass/coating.hpp"
#include "jolly_iris/glass/field.hpp"
#include "jolly_iris/glass/focus_travel.hpp"
#include "jolly_iris/glass/glass_distortion.hpp"
#include "jolly_iris/glass/glass_facts.hpp"
#include "jolly_iris/glass/paraxial.hpp"
#include "jolly_iris/glass/point_light.hpp"
#include "jolly_iris/optics/errors.hpp"

namespace jolly_iris {

namespace {

// Where rays are asked: shares of the height, and of the blur that infinity has.
constexpr std::array heights{0.0, 0.3, 0.55, 0.8, 1.0};
constexpr std::array blurs{-1.0, -0.5, 0.0, 0.5, 1.0};
constexpr int lattice_side = 24;
// Rows of the table of what light is lost.
constexpr int loss_points = 9;

// Of the linear fit: focus shifts of the colours, curvature, spherical, coma, magnification of red
// and of blue against green.
constexpr int unknowns = 8;
enum Unknown { shift_red, shift_green, shift_blue, curvature, spherical, coma, red, blue };

// A ray of the opening, in opening radii, and whether rims let it through.
struct Asked {
  Point2 pupil{};  // m, in the entrance pupil
  Point2 tangent{};
  double inverse_z = 0.0;
  bool passes = false;
};

struct Gathered {
  Eigen::Matrix<double, unknowns, unknowns> sums =
      Eigen::Matrix<double, unknowns, unknowns>::Zero();
  Eigen::Matrix<double, unknowns, 1> right = Eigen::Matrix<double, unknowns, 1>::Zero();
  std::vector<Asked> asked{};
};

struct PinholeView {
  double radius = 0.0;  // of the entrance pupil, m
  double focal = 0.0;   // of the pinhole, m
  Point2 corner{};      // of the gate, m
  double height = 0.0;  // of it
  double inverse_focus = 0.0;
  double aspect = 1.0;
  double stop_radius = 0.0;  // mm
};

// What a ray that lands `at` says: one line for each of both ways.
void add_ray(const PinholeView& f, Point2 p, Point2 place, double inverse_z, std::size_t colour,
             Point2 at, Gathered& all) {
  const double reach = f.radius * f.focal;
  const double power = f.inverse_focus - inverse_z;
  const double r2 = p.x * p.x + p.y * p.y;
  const double h = std::hypot(place.x, place.y);
  const double share = h / f.height;
  const Point2 out = h > 0.0 ? Point2{place.x / h, place.y / h} : Point2{};
  const double along = p.x * out.x + p.y * out.y;
  const double across = p.y * out.x - p.x * out.y;
  const double comet = share / 3.0 * (3.0 * along * along + across * across - 1.0);
  const double aside = share / 3.0 * 2.0 * along * across;
  for (const bool up : {false, true}) {
    const double scale = up ? 1.0 : f.aspect;
    const double q = up ? p.y : p.x;
    Eigen::Matrix<double, unknowns, 1> row = Eigen::Matrix<double, unknowns, 1>::Zero();
    row[shift_red + static_cast<int>(colour)] = scale * q * reach;
    row[curvature] = scale * q * reach * share * share;
    row[spherical] = scale * q * (r2 - 2.0 / 3.0);
    row[coma] = up ? comet * out.y + aside * out.x : comet * out.x - aside * out.y;
    if (colour != 1) row[colour == 0 ? red : blue] = up ? place.y : place.x;
    const double left = (up ? at.y : at.x) - scale * q * reach * power;
    all.sums += row * row.transpose();
    all.right += row * left;
  }
}

Gathered gathered(const GlassCamera& camera, const PinholeView& f) {
  Gathered all;
  std::vector<LightRay> rays;
  for (const double share : heights) {
    const Point2 place{share * f.corner.x, share * f.corner.y};
    for (const double blur : blurs) {
      const double inverse_z = std::max(0.0, f.inverse_focus * (1.0 - blur));
      // As far before the focus as infinity is behind it; focused there, a dioptre either way.
      const double z = f.inverse_focus > 1e-9 ? inverse_z : std::max(0.0, -blur);
      const PointLight light(camera, {place.x / f.focal, place.y / f.focal, z});
      for (std::size_t c = 0; c < 3; ++c) {
        if (!(light.rays(c, lattice_side, rays) > 0.0)) continue;
        for (const LightRay& ray : rays) {
          const Point2 p{ray.stop.x / f.stop_radius, ray.stop.y / f.stop_radius};
          if (!ray.met || !(p.x * p.x + p.y * p.y <= 1.0)) continue;
          if (!std::isfinite(ray.at.x) || !std::isfinite(ray.at.y)) continue;
          if (ray.rim <= 1.0) add_ray(f, p, place, z, c, ray.at, all);
          if (c != 1) continue;
          all.asked.push_back({{p.x * f.radius * f.aspect, p.y * f.radius},
                               {place.x / f.focal, place.y / f.focal},
                               z,
                               ray.rim <= 1.0});
        }
      }
    }
  }
  return all;
}

// Two rims: radius and how far ahead of the pupil, m; the first before it, the second behind.
using Rims = std::array<double, 4>;

// How far out a ray is at a rim, against its radius.
double outward(const Asked& a, double radius, double ahead) {
  const double x = a.pupil.x + ahead * (a.tangent.x - a.pupil.x * a.inverse_z);
  const double y = a.pupil.y + ahead * (a.tangent.y - a.pupil.y * a.inverse_z);
  return std::hypot(x, y) / radius;
}

// How many rays the rims sort wrongly, those near their edges in part.
double wrongly_sorted(const std::vector<Asked>& asked, const Rims& rims) {
  constexpr double softness = 0.02;
  if (!(rims[0] > 0.0) || !(rims[2] > 0.0) || rims[1] < 0.0 || rims[3] > 0.0) return 1e9;
  double sum = 0.0;
  for (const Asked& a : asked) {
    const double out = std::max(outward(a, rims[0], rims[1]), outward(a, rims[2], rims[3]));
    const double passes = 1.0 / (1.0 + std::exp((out - 1.0) / softness));
    const double off = passes - (a.passes ? 1.0 : 0.0);
    sum += off * off;
  }
  return sum / static_cast<double>(asked.size());
}

// Source: Nelder and Mead, A simplex method for function minimization (1965), with their own
// numbers.
Rims downhill(const std::vector<Asked>& asked, const Rims& begin) {
  constexpr std::size_t n = 4;
  constexpr std::size_t corners = n + 1;
  std::array<std::pair<double, Rims>, corners> corner;
  for (std::size_t i = 0; i <= n; ++i) {
    Rims r = begin;
    if (i > 0) r[i - 1] *= 1.25;
    corner[i] = {wrongly_sorted(asked, r), r};
  }
  const auto by_value = [](const auto& a, const auto& b) { return a.first < b.first; };
  constexpr int rounds = 160;
  for (int round = 0; round < rounds; ++round) {
    std::sort(corner.begin(), corner.end(), by_value);
    Rims middle{};
    for (std::size_t i = 0; i < n; ++i) {
      for (std::size_t k = 0; k < n; ++k) middle[k] += corner[i].second[k] / n;
    }
    const auto towards = [&](double by) {
      Rims r{};
      for (std::size_t k = 0; k < n; ++k) {
        r[k] = middle[k] + by * (corner[n].second[k] - middle[k]);
      }
      return std::pair{wrongly_sorted(asked, r), r};
    };
    const auto mirrored = towards(-1.0);
    if (mirrored.first < corner[0].first) {
      const auto further = towards(-2.0);
      corner[n] = further.first < mirrored.first ? further : mirrored;
    } else if (mirrored.first < corner[n - 1].first) {
      corner[n] = mirrored;
    } else {
      const auto between = towards(mirrored.first < corner[n].first ? -0.5 : 0.5);
      if (between.first < std::min(mirrored.first, corner[n].first)) {
        corner[n] = between;
      } else {
        for (std::size_t i = 1; i <= n; ++i) {
          for (std::size_t k = 0; k < n; ++k) {
            corner[i].second[k] =
                corner[0].second[k] + 0.5 * (corner[i].second[k] - corner[0].second[k]);
          }
          corner[i].first = wrongly_sorted(asked, corner[i].second);
        }
      }
    }
  }
  std::sort(corner.begin(), corner.end(), by_value);
  return corner[0].second;
}

std::vector<VignettingRim> rims_of(const std::vector<Asked>& asked, const PinholeView& f) {
  const auto blocked =
      std::count_if(asked.begin(), asked.end(), [](const Asked& a) { return !a.passes; });
  if (blocked == 0) return {};
  // From several beginnings: rims near the pupil and far from it.
  Rims best{};
  double least = 1e300;
  for (const double ahead : {0.3, 1.0, 2.5}) {
    const double far = ahead * f.focal;
    const double radius = f.radius + 0.8 * far * f.height / f.focal;
    const Rims found = downhill(asked, {radius, far, radius, -far});
    const double wrong = wrongly_sorted(asked, found);
    if (wrong < least) {
      least = wrong;
      best = found;
    }
  }
  std::vector<VignettingRim> out;
  for (const std::size_t k : {0U, 2U}) {
    // One that hides nothing is none.
    const bool cuts = std::any_of(asked.begin(), asked.end(), [&](const Asked& a) {
      return outward(a, best[k], best[k + 1]) > 1.0;
    });
    if (cuts) out.push_back({Length::from_m(best[k]), Length::from_m(best[k + 1])});
  }
  return out;
}

}  // namespace

Lens nearest_lens(const Prescription& p, const NearestSettings& settings) {
  if (!(settings.gate.width.mm() > 0.0) || !(settings.gate.height.mm() > 0.0)) {
    throw UsageError(fmt::format("a gate of {:g} x {:g} mm; both are above zero",
                                 settings.gate.width.mm(), settings.gate.height.mm()));
  }
  const TracedGlass bare(p);
  const ParaxialFacts facts = paraxial_facts(bare);
  Lens lens;
  lens.name = p.name;
  lens.focal = facts.focal;
  lens.widest = f_number(settings.f_number);
  lens.transmission = axis_transmission(p)[1];
  lens.close_focus = nearest_focus(p);
  lens.iris = p.iris;
  if (facts.entrance_pupil.is_finite()) lens.pupil = -facts.entrance_pupil;
  std::vector<GlassMark> marks = marks_of(p);
  std::reverse(marks.begin(), marks.end());
  for (const GlassMark& mark : marks) {
    lens.breathing.push_back({mark.distance, mark.focal_scene, {}});
    if (!p.is_round()) lens.squeezes.push_back({mark.distance, mark.squeeze});
  }
  const Length from_film =
      settings.focus.is_finite() ? settings.focus - facts.entrance_pupil : settings.focus;
  double squeeze = 1.0;
  if (!p.is_round()) {
    const double nominal = facts.focal / paraxial_facts(bare, Meridian::across).focal;
    lens.squeeze = std::round(100.0 * nominal) / 100.0;
    squeeze = mark_at(p, from_film).squeeze;
  }
  lens.distortion = distortion_of(p, lens.squeeze).distortion;
  const Length half =
      Length::from_mm(0.5 * std::hypot(settings.gate.width.mm(), settings.gate.height.mm()));
  const GlassCamera camera(p, settings.focus, settings.f_number, half, squeeze);
  PinholeView f;
  f.radius = 0.5e-3 * facts.focal.mm() / settings.f_number;
  f.focal = camera.scene_focal().m();
  f.corner = {0.5 * squeeze * settings.gate.width.m(), 0.5 * settings.gate.height.m()};
  f.height = std::hypot(f.corner.x, f.corner.y);
  f.inverse_focus = settings.focus.is_finite() ? 1.0 / settings.focus.m() : 0.0;
  f.aspect = 1.0 / squeeze;
  f.stop_radius = camera.green().opening().mm();
  // What arrives, where a rim and a cosine alone would be off.
  for (const FieldPoint& point : over_field(camera.green(), from_film, half, loss_points)) {
    if (point.height.mm() > 0.0 && point.light > 0.0) {
      lens.loss.push_back({point.height, std::max(0.0, -std::log2(point.light))});
    }
  }
  const Gathered all = gathered(camera, f);
  const Eigen::Matrix<double, unknowns, 1> found = all.sums.ldlt().solve(all.right);
  Aberrations& a = lens.aberrations;
  a.height = Length::from_m(f.height);
  a.spherical = Length::from_m(found[spherical]);
  a.coma = Length::from_m(found[coma]);
  a.curvature = Power::from_dioptres(found[curvature]);
  for (std::size_t c = 0; c < 3; ++c) {
    a.focus_shift[c] = Power::from_dioptres(found[shift_red + static_cast<int>(c)]);
  }
  a.magnification = {1.0 + found[red], 1.0, 1.0 + found[blue]};
  lens.vignetting = rims_of(all.asked, f);
  return lens;
}

}  // namespace jolly_iris
