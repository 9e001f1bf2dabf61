#include "jolly_iris/glass/ray_block.hpp"

#include <algorithm>
#include <cmath>
#include <limits>

namespace jolly_iris {

namespace {

// One step of Newton's method halves no more than the digits of a float need from a conic's root.
constexpr int asphere_steps = 3;

// Loops as plain as they have to be for a compiler to make vectors of them; a machine that has the
// wider ones takes those.
#if defined(__x86_64__) && defined(__GNUC__) && !defined(__clang__)
#define JOLLY_IRIS_WIDE __attribute__((target_clones("avx2", "default")))
#else
#define JOLLY_IRIS_WIDE
#endif

using Surface = BlockTracer::Surface;

// Lanes that are worked on: those asked for, and what fills the last wide vector.
constexpr std::size_t vector_lanes = 16;
std::size_t lanes(const RayBlock& r) {
  return std::min(RayBlock::most, (r.count + vector_lanes - 1) / vector_lanes * vector_lanes);
}

// To the plane of the next vertex, which is `apart` on along z.
JOLLY_IRIS_WIDE void to_plane(RayBlock& r, float apart) {
  const std::size_t n = lanes(r);
  for (std::size_t i = 0; i < n; ++i) {
    const float t = (apart - r.z[i]) / r.along_z[i];
    r.x[i] += t * r.along_x[i];
    r.y[i] += t * r.along_y[i];
    r.z[i] = 0.0F;
  }
}

// To a conic's vertex plane, onto it, through its rim, and on by Snell's law: all in one pass,
// since what is loaded and stored between takes as long as what is computed. Comparisons are
// written so that NaN fails them.
JOLLY_IRIS_WIDE void through_conic(RayBlock& r, const Surface& s, float apart, float ratio,
                                   float clear_sq) {
  const std::size_t n = lanes(r);
  const float cx = s.curvature * s.across;
  const float cy = s.curvature * s.up;
  const float cz = s.curvature * s.bend;
  for (std::size_t i = 0; i < n; ++i) {
    const float lx = r.along_x[i];
    const float ly = r.along_y[i];
    const float lz = r.along_z[i];
    const float to_plane = (apart - r.z[i]) / lz;
    const float px = r.x[i] + to_plane * lx;
    const float py = r.y[i] + to_plane * ly;
    const float a = cx * lx * lx + cy * ly * ly + cz * lz * lz;
    const float b = lz - cx * px * lx - cy * py * ly;
    const float k = cx * px * px + cy * py * py;
    const float square = b * b - a * k;
    const std::int32_t met = square >= 0.0F ? 1 : 0;
    const float root = std::sqrt(std::max(square, 0.0F));
    const float t = k / (b + (b < 0.0F ? -root : root));
    const float x = px + t * lx;
    const float y = py + t * ly;
    const float z = t * lz;
    const std::int32_t within = x * x + y * y <= clear_sq ? 1 : 0;
    const float nx = -cx * x;
    const float ny = -cy * y;
    const float nz = 1.0F - cz * z;
    const std::int32_t faces = nz > 0.0F ? 1 : 0;
    const float inverse = 1.0F / std::sqrt(nx * nx + ny * ny + nz * nz);
    const float cosine = (lx * nx + ly * ny + lz * nz) * inverse;
    const float left = 1.0F - ratio * ratio * (1.0F - cosine * cosine);
    const std::int32_t goes = left >= 0.0F ? 1 : 0;
    const float behind = std::sqrt(std::max(left, 0.0F));
    const float turn = ((cosine < 0.0F ? -behind : behind) - ratio * cosine) * inverse;
    r.x[i] = x;
    r.y[i] = y;
    r.z[i] = z;
    r.along_x[i] = ratio * lx + turn * nx;
    r.along_y[i] = ratio * ly + turn * ny;
    r.along_z[i] = ratio * lz + turn * nz;
    r.open[i] &= met & within & faces & goes;
  }
}

// Onto the conic beneath an asphere, from the vertex's plane.
JOLLY_IRIS_WIDE void to_conic(RayBlock& r, const Surface& s) {
  const std::size_t n = lanes(r);
  const float c = s.curvature;
  const float cz = c * s.bend;
  for (std::size_t i = 0; i < n; ++i) {
    const float lx = r.along_x[i];
    const float ly = r.along_y[i];
    const float lz = r.along_z[i];
    const float a = c * lx * lx + c * ly * ly + cz * lz * lz;
    const float b = lz - c * (r.x[i] * lx + r.y[i] * ly);
    const float k = c * (r.x[i] * r.x[i] + r.y[i] * r.y[i]);
    const float square = b * b - a * k;
    const std::int32_t met = square >= 0.0F ? 1 : 0;
    const float root = std::sqrt(std::max(square, 0.0F));
    const float t = k / (b + (b < 0.0F ? -root : root));
    r.x[i] += t * lx;
    r.y[i] += t * ly;
    r.z[i] = t * lz;
    r.open[i] &= met;
  }
}

// Height and slope (against r²) of an asphere at the rays' places.
using Lane = std::array<float, RayBlock::most>;
JOLLY_IRIS_WIDE void asphere_at(const RayBlock& r, const Surface& s, Lane& sag, Lane& slope) {
  const std::size_t n = lanes(r);
  const float c = s.curvature;
  const float bend = s.bend * c * c;
  alignas(64) Lane power{};
  for (std::size_t i = 0; i < n; ++i) {
    const float u = r.x[i] * r.x[i] + r.y[i] * r.y[i];
    const float root = std::sqrt(std::max(1.0F - bend * u, 1e-12F));
    sag[i] = c * u / (1.0F + root);
    slope[i] = 0.5F * c / root;
    power[i] = u;
  }
  for (std::size_t k = 0; k < s.terms.size(); ++k) {
    const float term = s.terms[k];
    const float rises = static_cast<float>(k + 2) * term;
    for (std::size_t i = 0; i < n; ++i) {
      const float u = r.x[i] * r.x[i] + r.y[i] * r.y[i];
      slope[i] += rises * power[i];
      power[i] *= u;
      sag[i] += term * power[i];
    }
  }
}

// Nearer to an asphere from where the conic beneath it is met.
JOLLY_IRIS_WIDE void to_asphere(RayBlock& r, const Surface& s) {
  const std::size_t n = lanes(r);
  alignas(64) Lane sag{};
  alignas(64) Lane slope{};
  for (int step = 0; step < asphere_steps; ++step) {
    asphere_at(r, s, sag, slope);
    for (std::size_t i = 0; i < n; ++i) {
      const float falls =
          r.along_z[i] - 2.0F * slope[i] * (r.x[i] * r.along_x[i] + r.y[i] * r.along_y[i]);
      const float t = (sag[i] - r.z[i]) / falls;
      r.x[i] += t * r.along_x[i];
      r.y[i] += t * r.along_y[i];
      r.z[i] += t * r.along_z[i];
    }
  }
}

JOLLY_IRIS_WIDE void clip(RayBlock& r, float clear_sq) {
  const std::size_t n = lanes(r);
  for (std::size_t i = 0; i < n; ++i) {
    r.open[i] &= r.x[i] * r.x[i] + r.y[i] * r.y[i] <= clear_sq ? 1 : 0;
  }
}

JOLLY_IRIS_WIDE void refract_asphere(RayBlock& r, const Surface& s, float ratio) {
  const std::size_t n = lanes(r);
  alignas(64) Lane sag{};
  alignas(64) Lane slope{};
  asphere_at(r, s, sag, slope);
  for (std::size_t i = 0; i < n; ++i) {
    const float nx = -2.0F * slope[i] * r.x[i];
    const float ny = -2.0F * slope[i] * r.y[i];
    const float inverse = 1.0F / std::sqrt(nx * nx + ny * ny + 1.0F);
    const float cosine = (r.along_x[i] * nx + r.along_y[i] * ny + r.along_z[i]) * inverse;
    const float square = 1.0F - ratio * ratio * (1.0F - cosine * cosine);
    const std::int32_t goes = square >= 0.0F ? 1 : 0;
    const float root = std::sqrt(std::max(square, 0.0F));
    const float turn = ((cosine < 0.0F ? -root : root) - ratio * cosine) * inverse;
    r.along_x[i] = ratio * r.along_x[i] + turn * nx;
    r.along_y[i] = ratio * r.along_y[i] + turn * ny;
    r.along_z[i] = ratio * r.along_z[i] + turn;
    r.open[i] &= goes;
  }
}

void through(RayBlock& r, const Surface& s, float apart, float ratio, float clear_sq) {
  if (s.terms.empty()) {
    through_conic(r, s, apart, ratio, clear_sq);
    return;
  }
  to_plane(r, apart);
  to_conic(r, s);
  to_asphere(r, s);
  clip(r, clear_sq);
  if (ratio != 1.0F) refract_asphere(r, s, ratio);
}

JOLLY_IRIS_WIDE void keep_rim(const RayBlock& r, float inverse_clear_sq, RayMarks& marks) {
  const std::size_t n = lanes(r);
  for (std::size_t i = 0; i < n; ++i) {
    marks.rim[i] = std::max(marks.rim[i], (r.x[i] * r.x[i] + r.y[i] * r.y[i]) * inverse_clear_sq);
  }
}

// What a surface's normal is where rays are, and the cosine of their angle with it, > 0.
struct Normals {
  alignas(64) Lane x{}, y{}, z{}, cosine{};
};

// To a surface from the vertex before: place, normal and cosine; open = 0 where it is missed. The
// same conic as in through_conic, which is the one loop that must not store what lies between.
JOLLY_IRIS_WIDE void meet_conic(RayBlock& r, const Surface& s, float apart, Normals& normal) {
  const std::size_t n = lanes(r);
  const float cx = s.curvature * s.across;
  const float cy = s.curvature * s.up;
  const float cz = s.curvature * s.bend;
  for (std::size_t i = 0; i < n; ++i) {
    const float lx = r.along_x[i];
    const float ly = r.along_y[i];
    const float lz = r.along_z[i];
    const float to_plane = (apart - r.z[i]) / lz;
    const float px = r.x[i] + to_plane * lx;
    const float py = r.y[i] + to_plane * ly;
    const float a = cx * lx * lx + cy * ly * ly + cz * lz * lz;
    const float b = lz - cx * px * lx - cy * py * ly;
    const float k = cx * px * px + cy * py * py;
    const float square = b * b - a * k;
    const float root = std::sqrt(std::max(square, 0.0F));
    const float t = k / (b + (b < 0.0F ? -root : root));
    const float x = px + t * lx;
    const float y = py + t * ly;
    const float z = t * lz;
    const float nx = -cx * x;
    const float ny = -cy * y;
    const float nz = 1.0F - cz * z;
    const float inverse = 1.0F / std::sqrt(nx * nx + ny * ny + nz * nz);
    const float cosine = (lx * nx + ly * ny + lz * nz) * inverse;
    const float towards = cosine < 0.0F ? -inverse : inverse;  // along the ray
    r.x[i] = x;
    r.y[i] = y;
    r.z[i] = z;
    normal.x[i] = nx * towards;
    normal.y[i] = ny * towards;
    normal.z[i] = nz * towards;
    normal.cosine[i] = std::abs(cosine);
    r.open[i] &= (square >= 0.0F ? 1 : 0) & (nz > 0.0F ? 1 : 0);
  }
}

void meet_asphere(RayBlock& r, const Surface& s, float apart, Normals& normal) {
  to_plane(r, apart);
  to_conic(r, s);
  to_asphere(r, s);
  alignas(64) Lane sag{};
  alignas(64) Lane slope{};
  asphere_at(r, s, sag, slope);
  for (std::size_t i = 0; i < lanes(r); ++i) {
    const float nx = -2.0F * slope[i] * r.x[i];
    const float ny = -2.0F * slope[i] * r.y[i];
    const float inverse = 1.0F / std::sqrt(nx * nx + ny * ny + 1.0F);
    const float cosine = (r.along_x[i] * nx + r.along_y[i] * ny + r.along_z[i]) * inverse;
    const float towards = cosine < 0.0F ? -inverse : inverse;
    normal.x[i] = nx * towards;
    normal.y[i] = ny * towards;
    normal.z[i] = towards;
    normal.cosine[i] = std::abs(cosine);
  }
}

JOLLY_IRIS_WIDE void refract(RayBlock& r, const Normals& normal, float ratio) {
  const std::size_t n = lanes(r);
  for (std::size_t i = 0; i < n; ++i) {
    const float cosine = normal.cosine[i];
    const float left = 1.0F - ratio * ratio * (1.0F - cosine * cosine);
    const float turn = std::sqrt(std::max(left, 0.0F)) - ratio * cosine;
    r.along_x[i] = ratio * r.along_x[i] + turn * normal.x[i];
    r.along_y[i] = ratio * r.along_y[i] + turn * normal.y[i];
    r.along_z[i] = ratio * r.along_z[i] + turn * normal.z[i];
    r.open[i] &= left >= 0.0F ? 1 : 0;
  }
}

JOLLY_IRIS_WIDE void mirror(RayBlock& r, const Normals& normal) {
  const std::size_t n = lanes(r);
  for (std::size_t i = 0; i < n; ++i) {
    const float turn = -2.0F * normal.cosine[i];
    r.along_x[i] += turn * normal.x[i];
    r.along_y[i] += turn * normal.y[i];
    r.along_z[i] += turn * normal.z[i];
    // Nothing goes on that does not turn back along the axis.
    if (r.along_z[i] == 0.0F) r.along_z[i] = 1.0F;
  }
}

// light × what the surface sends back (or lets through).
void dim(const ReflectanceTables::Table& table, bool back, const Normals& normal, const RayBlock& r,
         Lane& light) {
  for (std::size_t i = 0; i < r.count; ++i) {
    if (r.open[i] == 0) continue;
    // Far beyond an asphere's rim its slope is no number.
    if (!(normal.cosine[i] >= 0.0F)) {
      light[i] = 0.0F;
      continue;
    }
    const float at = std::min(normal.cosine[i], 1.0F) * ReflectanceTables::steps;
    const auto k = static_cast<std::size_t>(at);
    const float share = table[k] + (at - static_cast<float>(k)) * (table[k + 1] - table[k]);
    light[i] *= back ? share : 1.0F - share;
  }
}

// Lanes that are not asked for go straight along the axis, and what is no number does not pass.
void prepare(RayBlock& r) {
  const std::size_t n = lanes(r);
  for (std::size_t i = 0; i < n; ++i) {
    const bool asked = i < r.count && r.open[i] != 0 && std::isfinite(r.x[i]) &&
                       std::isfinite(r.y[i]) && std::isfinite(r.z[i]) &&
                       std::isfinite(r.along_x[i]) && std::isfinite(r.along_y[i]) &&
                       std::isfinite(r.along_z[i]) && r.along_z[i] != 0.0F;
    r.open[i] = asked ? 1 : 0;
    if (asked) continue;
    r.x[i] = r.y[i] = r.z[i] = r.along_x[i] = r.along_y[i] = 0.0F;
    r.along_z[i] = 1.0F;
  }
}

}  // namespace

BlockTracer::BlockTracer(const TracedGlass& glass) : glass_(glass) {
  double before = glass.surfaces().front().z;
  for (const TracedSurface& s : glass.surfaces()) {
    Surface one;
    one.apart = static_cast<float>(s.z - before);
    before = s.z;
    one.curvature = static_cast<float>(s.curvature);
    one.bend = static_cast<float>(1.0 + s.conic);
    one.across = s.curved == Curved::up ? 0.0F : 1.0F;
    one.up = s.curved == Curved::across ? 0.0F : 1.0F;
    one.clear_sq = static_cast<float>(s.clear_sq);
    one.ratio = static_cast<float>(s.before / s.after);
    one.ratio_back = static_cast<float>(s.after / s.before);
    for (const double t : s.terms) one.terms.push_back(static_cast<float>(t));
    one.stop = s.stop;
    surfaces_.push_back(std::move(one));
  }
  opening_sq_ = static_cast<float>(glass.opening().mm() * glass.opening().mm());
  front_ = static_cast<float>(glass.surfaces().front().z);
  back_ = static_cast<float>(glass.surfaces().back().z);
}

// A bladed opening is no circle: the few rays between its inside and its outside are asked one by
// one.
void BlockTracer::check_opening(RayBlock& r) const {
  if (glass_.opens_round()) {
    clip(r, opening_sq_);
    return;
  }
  for (std::size_t i = 0; i < r.count; ++i) {
    if (r.open[i] == 0) continue;
    r.open[i] = glass_.is_open(static_cast<double>(r.x[i]), static_cast<double>(r.y[i])) ? 1 : 0;
  }
}

void BlockTracer::follow(RayBlock& r, RayMarks& marks) const {
  prepare(r);
  for (std::size_t i = 0; i < lanes(r); ++i) r.z[i] -= front_;
  marks.rim.fill(0.0F);
  for (const Surface& s : surfaces_) {
    if (s.stop) {
      to_plane(r, s.apart);
      marks.stop_x = r.x;
      marks.stop_y = r.y;
    } else {
      // As wide as numbers go: infinity less infinity would be none.
      through(r, s, s.apart, s.ratio, std::numeric_limits<float>::max());
      keep_rim(r, 1.0F / s.clear_sq, marks);
    }
  }
  for (std::size_t i = 0; i < lanes(r); ++i) marks.rim[i] = std::sqrt(marks.rim[i]);
  to_plane(r, -back_);
}

void BlockTracer::follow_ghost(RayBlock& r, std::size_t far, std::size_t near,
                               const ReflectanceTables& tables, GhostMarks& marks) const {
  prepare(r);
  for (std::size_t i = 0; i < lanes(r); ++i) r.z[i] -= front_;
  marks.marks.rim.fill(0.0F);
  marks.light.fill(1.0F);
  marks.crossings = 0;
  thread_local Normals normal;
  const auto one = [&](std::size_t k, float apart, bool back, bool turns) {
    const Surface& s = surfaces_[k];
    if (s.stop) {
      to_plane(r, apart);
      marks.cross_x[marks.crossings] = r.x;
      marks.cross_y[marks.crossings++] = r.y;
      return;
    }
    if (s.terms.empty()) {
      meet_conic(r, s, apart, normal);
    } else {
      meet_asphere(r, s, apart, normal);
    }
    keep_rim(r, 1.0F / s.clear_sq, marks.marks);
    dim((back ? tables.from_film : tables.from_scene)[k], turns, normal, r, marks.light);
    if (turns) {
      mirror(r, normal);
    } else {
      refract(r, normal, back ? s.ratio_back : s.ratio);
    }
  };
  for (std::size_t k = 0; k <= far; ++k) one(k, surfaces_[k].apart, false, k == far);
  for (std::size_t k = far; k-- > near;) one(k, -surfaces_[k + 1].apart, true, k == near);
  for (std::size_t k = near + 1; k < surfaces_.size(); ++k) {
    one(k, surfaces_[k].apart, false, false);
  }
  for (std::size_t i = 0; i < lanes(r); ++i) {
    marks.marks.rim[i] = std::sqrt(marks.marks.rim[i]);
    // Whatever goes the other way never comes to the film.
    r.open[i] &= r.along_z[i] > 0.0F ? 1 : 0;
  }
  marks.marks.stop_x = marks.cross_x[0];
  marks.marks.stop_y = marks.cross_y[0];
  to_plane(r, -back_);
}

void BlockTracer::to_film(RayBlock& r) const {
  prepare(r);
  // Places count from the vertex that a ray is at: numbers stay small.
  for (std::size_t i = 0; i < lanes(r); ++i) r.z[i] -= front_;
  for (const Surface& s : surfaces_) {
    if (s.stop) {
      to_plane(r, s.apart);
      check_opening(r);
    } else {
      through(r, s, s.apart, s.ratio, s.clear_sq);
    }
  }
  to_plane(r, -back_);
}

void BlockTracer::to_scene(RayBlock& r) const {
  prepare(r);
  for (std::size_t i = 0; i < lanes(r); ++i) r.z[i] -= back_;
  float apart = 0.0F;
  for (std::size_t k = surfaces_.size(); k-- > 0;) {
    const Surface& s = surfaces_[k];
    if (s.stop) {
      to_plane(r, apart);
      check_opening(r);
    } else {
      through(r, s, apart, s.ratio_back, s.clear_sq);
    }
    apart = -s.apart;
  }
  to_plane(r, 0.0F);
  for (std::size_t i = 0; i < lanes(r); ++i) r.z[i] += front_;
}

}  // namespace jolly_iris
