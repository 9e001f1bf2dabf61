#include "stage.hpp"

#include <algorithm>
#include <cmath>
#include <cstring>
#include <limits>
#include <numbers>
#include <stdexcept>

#include "sobol.hpp"

namespace jolly_iris::tracing {

namespace {

// A glowing triangle that appears smaller than this is brought as an emitter: rays would find it so
// seldom that its disc stayed noise.
constexpr double small_px = 8.0;
// Shadow rays start and end this share of their length off the surfaces.
constexpr double skin = 1e-4;

RTCRay make_ray(const Vec3& from, const Vec3& direction, double near, double far) {
  RTCRay ray{};
  ray.org_x = static_cast<float>(from.x);
  ray.org_y = static_cast<float>(from.y);
  ray.org_z = static_cast<float>(from.z);
  ray.dir_x = static_cast<float>(direction.x);
  ray.dir_y = static_cast<float>(direction.y);
  ray.dir_z = static_cast<float>(direction.z);
  ray.tnear = static_cast<float>(near);
  ray.tfar = static_cast<float>(far);
  ray.mask = ~0U;
  return ray;
}

// Bits of a ray's mask: what the camera sees, and what only casts shadows.
constexpr unsigned seen_bit = 1;
constexpr unsigned unseen_bit = 2;

void attach(RTCDevice device, RTCScene scene, unsigned mask, const std::vector<Vec3f>& positions,
            const std::vector<std::array<std::uint32_t, 3>>& triangles) {
  const RTCGeometry geometry = rtcNewGeometry(device, RTC_GEOMETRY_TYPE_TRIANGLE);
  void* vertices = rtcSetNewGeometryBuffer(geometry, RTC_BUFFER_TYPE_VERTEX, 0, RTC_FORMAT_FLOAT3,
                                           3 * sizeof(float), positions.size());
  std::memcpy(vertices, positions.data(), positions.size() * 3 * sizeof(float));
  void* indices = rtcSetNewGeometryBuffer(geometry, RTC_BUFFER_TYPE_INDEX, 0, RTC_FORMAT_UINT3,
                                          3 * sizeof(std::uint32_t), triangles.size());
  std::memcpy(indices, triangles.data(), triangles.size() * 3 * sizeof(std::uint32_t));
  rtcSetGeometryMask(geometry, mask);
  rtcCommitGeometry(geometry);
  rtcAttachGeometry(scene, geometry);
  rtcReleaseGeometry(geometry);
}

// How a light with a range ends, and how a spot's cone does: the windows of KHR_lights_punctual.
double window(const PlacedLight& placed, const Vec3& to) {
  const Light& light = placed.light;
  double fraction = 1.0;
  if (light.range_m > 0.0) {
    const double squared = to.squared_length() / (light.range_m * light.range_m);
    fraction = std::clamp(1.0 - squared * squared, 0.0, 1.0);
  }
  if (light.kind == Light::Kind::spot) {
    const double inner = std::cos(light.inner_cone);
    const double outer = std::cos(light.outer_cone);
    const double cosine = to.normalized().dot(placed.towards);
    const double cone = std::clamp((cosine - outer) / std::max(inner - outer, 1e-3), 0.0, 1.0);
    fraction *= cone * cone;
  }
  return fraction;
}

Vec3f interpolate(const std::vector<Vec3f>& values, const std::array<std::uint32_t, 3>& corners,
                  float u, float v) {
  return (1.0F - u - v) * values[corners[0]] + u * values[corners[1]] + v * values[corners[2]];
}

}  // namespace

double Emitter::reach() const {
  if (kind == Kind::ball) return radius;
  const Vec3 m = middle();
  if (kind == Kind::wire) return (a - m).length() + radius;
  return std::max({(a - m).length(), (b - m).length(), (c - m).length()});
}

Stage::Stage(const Scene& scene, const Pose& place, const LensView& view, const Sight& sight)
    : device_(rtcNewDevice(nullptr)), scene_(rtcNewScene(device_)), sight_(sight) {
  if (device_ == nullptr || scene_ == nullptr) {
    throw std::runtime_error("the ray tracer's library cannot start on this machine");
  }
  rtcSetSceneFlags(scene_, RTC_SCENE_FLAG_ROBUST);
  const Pose world_to_camera = place.inverse();
  up_ = world_to_camera.linear * Vec3::unit_y();
  sky_ = scene.sky;
  ground_ = scene.ground;
  has_sky_ = !sky_.is_zero() || !ground_.is_zero();
  for (std::size_t i = 0; i < scene.nodes.size(); ++i) {
    const Node& node = scene.nodes[i];
    const Affine to_camera = world_to_camera * node.world;
    if (node.light) {
      lights_.push_back({scene.lights[*node.light], to_camera.translation,
                         to_camera.linear.column(2).normalized()});
    }
    if (!node.mesh) continue;
    for (const Primitive& p : scene.meshes[*node.mesh].primitives) {
      add(scene, i, p, to_camera, view);
    }
  }
  rtcCommitScene(scene_);
}

Stage::~Stage() {
  rtcReleaseScene(scene_);
  rtcReleaseDevice(device_);
}

void Stage::add(const Scene& scene, std::size_t node, const Primitive& primitive,
                const Affine& to_camera, const LensView& view) {
  const Material material = primitive.material ? scene.materials[*primitive.material] : Material{};
  if (primitive.kind == Primitive::Kind::points) {
    if (material.emission.is_zero()) {
      add_points(node, primitive, material, to_camera);
    } else if (sees(node)) {
      add_lamps(node, primitive, material, to_camera);
    }
    return;
  }
  if (primitive.kind == Primitive::Kind::lines) {
    if (!material.emission.is_zero() && sees(node)) {
      add_wires(node, primitive, material, to_camera, view);
    }
    return;
  }
  if (primitive.triangles.empty()) return;
  Part part;
  part.node = node;
  part.material = material;
  part.colours = primitive.colours;
  part.triangles = primitive.triangles;
  for (const Vec3f& p : primitive.positions) {
    part.positions.emplace_back(to_camera * Vec3(p));
  }
  const Matrix3 turn = to_camera.linear.inverse().transposed();
  for (const Vec3f& n : primitive.normals) {
    part.normals.emplace_back((turn * Vec3(n)).normalized());
  }
  const bool seen = sees(node);
  attach(device_, scene_, seen ? seen_bit : unseen_bit, part.positions, part.triangles);
  if (seen) {
    split_emission(part, view);
  } else {
    part.splatted.assign(part.triangles.size(), false);
  }
  parts_.push_back(std::move(part));
}

double Stage::density_of(const Primitive& points) const {
  constexpr std::size_t cloud = 1000;  // a string of lamps would lose every one that matters
  return points.positions.size() < cloud ? 1.0 : sight_.density;
}

bool Stage::drafted(std::size_t point, double density) const {
  if (density >= 1.0) return true;
  const std::uint32_t chance = mix(sight_.seed, static_cast<std::uint32_t>(point));
  return static_cast<double>(chance) < density * 4294967296.0;
}

// Every point an opaque disc that faces the ray; in a draft fewer, which cover as much.
void Stage::add_points(std::size_t node, const Primitive& primitive, const Material& material,
                       const Affine& to_camera) {
  Part part;
  part.node = node;
  part.material = material;
  const double density = density_of(primitive);
  part.point_radius = 0.5 * material.point_diameter_m / std::sqrt(density);
  const Matrix3 turn = to_camera.linear.inverse().transposed();
  std::vector<std::array<float, 4>> discs;
  for (std::size_t i = 0; i < primitive.positions.size(); ++i) {
    if (!drafted(i, density)) continue;
    const Vec3f p(to_camera * Vec3(primitive.positions[i]));
    discs.push_back({p.x, p.y, p.z, static_cast<float>(part.point_radius)});
    if (!primitive.colours.empty()) part.colours.push_back(primitive.colours[i]);
    if (!primitive.normals.empty()) {
      part.normals.emplace_back((turn * Vec3(primitive.normals[i])).normalized());
    }
  }
  if (discs.empty()) return;
  const RTCGeometry geometry = rtcNewGeometry(device_, RTC_GEOMETRY_TYPE_DISC_POINT);
  void* vertices = rtcSetNewGeometryBuffer(geometry, RTC_BUFFER_TYPE_VERTEX, 0, RTC_FORMAT_FLOAT4,
                                           4 * sizeof(float), discs.size());
  std::memcpy(vertices, discs.data(), discs.size() * 4 * sizeof(float));
  rtcSetGeometryMask(geometry, sees(node) ? seen_bit : unseen_bit);
  rtcCommitGeometry(geometry);
  rtcAttachGeometry(scene_, geometry);
  rtcReleaseGeometry(geometry);
  parts_.push_back(std::move(part));
}

void Stage::add_lamps(std::size_t node, const Primitive& primitive, const Material& material,
                      const Affine& to_camera) {
  const double density = density_of(primitive);
  const auto brighter = static_cast<float>(1.0 / density);
  for (std::size_t i = 0; i < primitive.positions.size(); ++i) {
    if (!drafted(i, density)) continue;
    Emitter lamp;
    lamp.kind = Emitter::Kind::ball;
    lamp.a = to_camera * Vec3(primitive.positions[i]);
    lamp.radius = 0.5 * material.point_diameter_m;
    lamp.radiance = material.emission * brighter;
    lamp.node = node;
    if (!primitive.colours.empty()) {
      lamp.radiance = lamp.radiance.times(primitive.colours[i]);
    }
    if (!lamp.radiance.is_zero()) emitters_.push_back(lamp);
  }
}

// In pieces of a few pixels, so that each lands in a patch of its own.
void Stage::add_wires(std::size_t node, const Primitive& primitive, const Material& material,
                      const Affine& to_camera, const LensView& view) {
  constexpr double nearest = 1e-3;  // m: what is nearer is no picture
  constexpr double most_pieces = 4096.0;
  for (const auto& [from, to] : primitive.lines) {
    const Vec3 a = to_camera * Vec3(primitive.positions[from]);
    const Vec3 b = to_camera * Vec3(primitive.positions[to]);
    const double length = (b - a).length();
    if (!(length > 0.0)) continue;
    const double depth = std::max(nearest, std::min(-a.z, -b.z));
    const double px = length / depth * view.focal_px();
    const auto pieces = static_cast<int>(std::clamp(std::ceil(px / small_px), 1.0, most_pieces));
    for (int i = 0; i < pieces; ++i) {
      Emitter wire;
      wire.kind = Emitter::Kind::wire;
      wire.a = a + (b - a) * (static_cast<double>(i) / pieces);
      wire.b = a + (b - a) * (static_cast<double>(i + 1) / pieces);
      wire.radius = 0.5 * material.line_width_m;
      wire.radiance = material.emission;
      if (!primitive.colours.empty()) {
        const auto t = static_cast<float>((i + 0.5) / pieces);
        wire.radiance =
            wire.radiance.times((1.0F - t) * primitive.colours[from] + t * primitive.colours[to]);
      }
      wire.node = node;
      if (!wire.radiance.is_zero()) emitters_.push_back(wire);
    }
  }
}

void Stage::split_emission(Part& part, const LensView& view) {
  part.splatted.assign(part.triangles.size(), false);
  if (part.material.emission.is_zero()) return;
  for (std::size_t i = 0; i < part.triangles.size(); ++i) {
    Emitter e;
    e.kind = Emitter::Kind::triangle;
    e.a = Vec3(part.positions[part.triangles[i][0]]);
    e.b = Vec3(part.positions[part.triangles[i][1]]);
    e.c = Vec3(part.positions[part.triangles[i][2]]);
    e.radiance = part.material.emission;
    e.node = part.node;
    const double nearest = -std::max({e.a.z, e.b.z, e.c.z});
    const bool small = nearest > 0.0 && 2.0 * e.reach() / nearest * view.focal_px() < small_px;
    if (!small) continue;
    part.splatted[i] = true;
    emitters_.push_back(e);
  }
}

bool Stage::cast(const Vec3& from, const Vec3& direction, RTCRayHit& ray) const {
  ray.ray = make_ray(from, direction, 0.0, std::numeric_limits<double>::infinity());
  ray.ray.mask = seen_bit;
  ray.hit.geomID = RTC_INVALID_GEOMETRY_ID;
  ray.hit.instID[0] = RTC_INVALID_GEOMETRY_ID;
  RTCIntersectContext context;
  rtcInitIntersectContext(&context);
  rtcIntersect1(scene_, &context, &ray);
  return ray.hit.geomID != RTC_INVALID_GEOMETRY_ID;
}

Hit Stage::look(const Vec3& from, const Vec3& direction) const {
  RTCRayHit ray;
  if (!cast(from, direction, ray)) {
    return {false, std::numeric_limits<double>::infinity(), sight_.sky ? sky(direction) : Vec3f{}};
  }
  return {true, static_cast<double>(ray.ray.tfar), shade(ray, from, direction)};
}

double Stage::depth(const Vec3& from, const Vec3& direction) const {
  RTCRayHit ray;
  if (!cast(from, direction, ray)) return std::numeric_limits<double>::infinity();
  return static_cast<double>(ray.ray.tfar);
}

std::optional<std::size_t> Stage::node(const Vec3& from, const Vec3& direction,
                                       double& depth) const {
  RTCRayHit ray;
  depth = std::numeric_limits<double>::infinity();
  if (!cast(from, direction, ray)) return std::nullopt;
  depth = static_cast<double>(ray.ray.tfar);
  return parts_[ray.hit.geomID].node;
}

bool Stage::clear_view(const Vec3& from, const Vec3& to) const { return unhit(from, to, seen_bit); }

bool Stage::clear(const Vec3& from, const Vec3& to) const {
  return unhit(from, to, seen_bit | unseen_bit);
}

bool Stage::unhit(const Vec3& from, const Vec3& to, unsigned mask) const {
  RTCRay ray = make_ray(from, to - from, skin, 1.0 - skin);
  ray.mask = mask;
  RTCIntersectContext context;
  rtcInitIntersectContext(&context);
  rtcOccluded1(scene_, &context, &ray);
  return !(ray.tfar < 0.0F);
}

// The sky's light from a direction: ground below the horizon, sky above, softly joined.
Vec3f Stage::sky(const Vec3& direction) const {
  const double height = direction.normalized().dot(up_);
  const auto fraction = static_cast<float>(std::clamp(0.5 + 10.0 * height, 0.0, 1.0));
  return fraction * sky_ + (1.0F - fraction) * ground_;
}

Vec3f Stage::direct_light(const Vec3& point, const Vec3& normal, double lift) const {
  Vec3f sum = Vec3f{};
  for (const PlacedLight& placed : lights_) {
    const bool sun = placed.light.kind == Light::Kind::directional;
    const Vec3 to = sun ? Vec3(placed.towards * 1e4) : Vec3(placed.at - point);
    const double cosine = normal.dot(to) / std::max(to.length(), 1e-9);
    const double fraction = sun ? 1.0 : window(placed, to) / std::max(to.squared_length(), 1e-6);
    if (cosine <= 0.0 || fraction <= 0.0) continue;
    const Vec3 lifted = point + normal * lift;
    if (!clear(lifted, point + to)) continue;
    sum += placed.light.intensity * static_cast<float>(cosine * fraction);
  }
  return sum;
}

// Sky and lights on a white surface.
Vec3f Stage::lit(const Vec3& point, const Vec3& normal, double lift) const {
  const auto above = static_cast<float>(0.5 + 0.5 * normal.dot(up_));
  const Vec3f ambient = above * sky_ + (1.0F - above) * ground_;
  const auto inverse_pi = static_cast<float>(std::numbers::inv_pi);
  return ambient + inverse_pi * direct_light(point, normal, lift);
}

Vec3f Stage::shade(const RTCRayHit& ray, const Vec3& from, const Vec3& direction) const {
  const Part& part = parts_[ray.hit.geomID];
  const Vec3 point = from + direction * static_cast<double>(ray.ray.tfar);
  if (part.point_radius > 0.0) {
    const std::size_t i = ray.hit.primID;
    Vec3f base = part.material.base;
    if (!part.colours.empty()) base = base.times(part.colours[i]);
    if (part.normals.empty()) return base;
    // Neighbours turn their discs to the light too, and would shade each other: past them.
    return base.times(lit(point, Vec3(part.normals[i]), 2.0 * part.point_radius));
  }
  const auto& corners = part.triangles[ray.hit.primID];
  Vec3f base = part.material.base;
  if (!part.colours.empty()) {
    base = base.times(interpolate(part.colours, corners, ray.hit.u, ray.hit.v));
  }
  Vec3 normal(static_cast<double>(ray.hit.Ng_x), static_cast<double>(ray.hit.Ng_y),
              static_cast<double>(ray.hit.Ng_z));
  if (!part.normals.empty()) {
    normal = Vec3(interpolate(part.normals, corners, ray.hit.u, ray.hit.v));
  }
  normal = normal.normalized();
  if (normal.dot(direction) > 0.0) normal = -normal;  // surfaces are seen from both sides
  Vec3f light = base.times(lit(point, normal, 1e-4 * std::max(1.0, point.length())));
  if (!part.splatted[ray.hit.primID]) light += part.material.emission;
  return light;
}

}  // namespace jolly_iris::tracing
