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

RTCRay make_ray(const Eigen::Vector3d& from, const Eigen::Vector3d& direction, double near,
                double far) {
  RTCRay ray{};
  ray.org_x = static_cast<float>(from.x());
  ray.org_y = static_cast<float>(from.y());
  ray.org_z = static_cast<float>(from.z());
  ray.dir_x = static_cast<float>(direction.x());
  ray.dir_y = static_cast<float>(direction.y());
  ray.dir_z = static_cast<float>(direction.z());
  ray.tnear = static_cast<float>(near);
  ray.tfar = static_cast<float>(far);
  ray.mask = ~0U;
  return ray;
}

// Bits of a ray's mask: what the camera sees, and what only casts shadows.
constexpr unsigned seen_bit = 1;
constexpr unsigned unseen_bit = 2;

void attach(RTCDevice device, RTCScene scene, unsigned mask,
            const std::vector<Eigen::Vector3f>& positions,
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
double window(const PlacedLight& placed, const Eigen::Vector3d& to) {
  const Light& light = placed.light;
  double share = 1.0;
  if (light.range_m > 0.0) {
    const double squared = to.squaredNorm() / (light.range_m * light.range_m);
    share = std::clamp(1.0 - squared * squared, 0.0, 1.0);
  }
  if (light.kind == Light::Kind::spot) {
    const double inner = std::cos(light.inner_cone);
    const double outer = std::cos(light.outer_cone);
    const double cosine = to.normalized().dot(placed.towards);
    const double cone = std::clamp((cosine - outer) / std::max(inner - outer, 1e-3), 0.0, 1.0);
    share *= cone * cone;
  }
  return share;
}

Eigen::Vector3f interpolate(const std::vector<Eigen::Vector3f>& values,
                            const std::array<std::uint32_t, 3>& corners, float u, float v) {
  return (1.0F - u - v) * values[corners[0]] + u * values[corners[1]] + v * values[corners[2]];
}

}  // namespace

double Emitter::reach() const {
  if (kind == Kind::ball) return radius;
  const Eigen::Vector3d m = middle();
  return std::max({(a - m).norm(), (b - m).norm(), (c - m).norm()});
}

Stage::Stage(const Scene& scene, const Eigen::Isometry3d& place, const LensView& view,
             const Sight& sight)
    : device_(rtcNewDevice(nullptr)), scene_(rtcNewScene(device_)), sight_(sight) {
  if (device_ == nullptr || scene_ == nullptr) {
    throw std::runtime_error("the ray tracer's library cannot start on this machine");
  }
  rtcSetSceneFlags(scene_, RTC_SCENE_FLAG_ROBUST);
  const Eigen::Isometry3d world_to_camera = place.inverse();
  up_ = world_to_camera.linear() * Eigen::Vector3d::UnitY();
  sky_ = scene.sky;
  ground_ = scene.ground;
  has_sky_ = !sky_.isZero() || !ground_.isZero();
  for (std::size_t i = 0; i < scene.nodes.size(); ++i) {
    const Node& node = scene.nodes[i];
    const Eigen::Affine3d to_camera = world_to_camera * node.world;
    if (node.light) {
      lights_.push_back({scene.lights[*node.light], to_camera.translation(),
                         to_camera.linear().col(2).normalized()});
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
                const Eigen::Affine3d& to_camera, const LensView& view) {
  const Material material = primitive.material ? scene.materials[*primitive.material] : Material{};
  if (primitive.kind == Primitive::Kind::points) {
    if (material.emission.isZero()) {
      add_points(node, primitive, material, to_camera);
    } else if (sees(node)) {
      add_lamps(primitive, material, to_camera);
    }
    return;
  }
  if (primitive.triangles.empty()) return;
  Part part;
  part.node = node;
  part.material = material;
  part.colours = primitive.colours;
  part.triangles = primitive.triangles;
  for (const Eigen::Vector3f& p : primitive.positions) {
    part.positions.push_back((to_camera * p.cast<double>()).cast<float>());
  }
  const Eigen::Matrix3d turn = to_camera.linear().inverse().transpose();
  for (const Eigen::Vector3f& n : primitive.normals) {
    part.normals.push_back((turn * n.cast<double>()).normalized().cast<float>());
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
                       const Eigen::Affine3d& to_camera) {
  Part part;
  part.node = node;
  part.material = material;
  const double density = density_of(primitive);
  part.point_radius = 0.5 * material.point_diameter_m / std::sqrt(density);
  const Eigen::Matrix3d turn = to_camera.linear().inverse().transpose();
  std::vector<std::array<float, 4>> discs;
  for (std::size_t i = 0; i < primitive.positions.size(); ++i) {
    if (!drafted(i, density)) continue;
    const Eigen::Vector3f p = (to_camera * primitive.positions[i].cast<double>()).cast<float>();
    discs.push_back({p.x(), p.y(), p.z(), static_cast<float>(part.point_radius)});
    if (!primitive.colours.empty()) part.colours.push_back(primitive.colours[i]);
    if (!primitive.normals.empty()) {
      part.normals.push_back(
          (turn * primitive.normals[i].cast<double>()).normalized().cast<float>());
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

void Stage::add_lamps(const Primitive& primitive, const Material& material,
                      const Eigen::Affine3d& to_camera) {
  const double density = density_of(primitive);
  const auto brighter = static_cast<float>(1.0 / density);
  for (std::size_t i = 0; i < primitive.positions.size(); ++i) {
    if (!drafted(i, density)) continue;
    Emitter lamp;
    lamp.kind = Emitter::Kind::ball;
    lamp.a = to_camera * primitive.positions[i].cast<double>();
    lamp.radius = 0.5 * material.point_diameter_m;
    lamp.radiance = material.emission * brighter;
    if (!primitive.colours.empty()) {
      lamp.radiance = lamp.radiance.cwiseProduct(primitive.colours[i]);
    }
    if (!lamp.radiance.isZero()) emitters_.push_back(lamp);
  }
}

void Stage::split_emission(Part& part, const LensView& view) {
  part.splatted.assign(part.triangles.size(), false);
  if (part.material.emission.isZero()) return;
  for (std::size_t i = 0; i < part.triangles.size(); ++i) {
    Emitter e;
    e.kind = Emitter::Kind::triangle;
    e.a = part.positions[part.triangles[i][0]].cast<double>();
    e.b = part.positions[part.triangles[i][1]].cast<double>();
    e.c = part.positions[part.triangles[i][2]].cast<double>();
    e.radiance = part.material.emission;
    const double nearest = -std::max({e.a.z(), e.b.z(), e.c.z()});
    const bool small = nearest > 0.0 && 2.0 * e.reach() / nearest * view.focal_px() < small_px;
    if (!small) continue;
    part.splatted[i] = true;
    emitters_.push_back(e);
  }
}

bool Stage::cast(const Eigen::Vector3d& from, const Eigen::Vector3d& direction,
                 RTCRayHit& ray) const {
  ray.ray = make_ray(from, direction, 0.0, std::numeric_limits<double>::infinity());
  ray.ray.mask = seen_bit;
  ray.hit.geomID = RTC_INVALID_GEOMETRY_ID;
  ray.hit.instID[0] = RTC_INVALID_GEOMETRY_ID;
  RTCIntersectContext context;
  rtcInitIntersectContext(&context);
  rtcIntersect1(scene_, &context, &ray);
  return ray.hit.geomID != RTC_INVALID_GEOMETRY_ID;
}

Hit Stage::look(const Eigen::Vector3d& from, const Eigen::Vector3d& direction) const {
  RTCRayHit ray;
  if (!cast(from, direction, ray)) {
    return {false, std::numeric_limits<double>::infinity(),
            sight_.sky ? sky(direction) : Eigen::Vector3f(Eigen::Vector3f::Zero())};
  }
  return {true, static_cast<double>(ray.ray.tfar), shade(ray, from, direction)};
}

double Stage::depth(const Eigen::Vector3d& from, const Eigen::Vector3d& direction) const {
  RTCRayHit ray;
  if (!cast(from, direction, ray)) return std::numeric_limits<double>::infinity();
  return static_cast<double>(ray.ray.tfar);
}

std::optional<std::size_t> Stage::node(const Eigen::Vector3d& from,
                                       const Eigen::Vector3d& direction, double& depth) const {
  RTCRayHit ray;
  depth = std::numeric_limits<double>::infinity();
  if (!cast(from, direction, ray)) return std::nullopt;
  depth = static_cast<double>(ray.ray.tfar);
  return parts_[ray.hit.geomID].node;
}

bool Stage::clear_view(const Eigen::Vector3d& from, const Eigen::Vector3d& to) const {
  return unhit(from, to, seen_bit);
}

bool Stage::clear(const Eigen::Vector3d& from, const Eigen::Vector3d& to) const {
  return unhit(from, to, seen_bit | unseen_bit);
}

bool Stage::unhit(const Eigen::Vector3d& from, const Eigen::Vector3d& to, unsigned mask) const {
  RTCRay ray = make_ray(from, to - from, skin, 1.0 - skin);
  ray.mask = mask;
  RTCIntersectContext context;
  rtcInitIntersectContext(&context);
  rtcOccluded1(scene_, &context, &ray);
  return !(ray.tfar < 0.0F);
}

// The sky's light from a direction: ground below the horizon, sky above, softly joined.
Eigen::Vector3f Stage::sky(const Eigen::Vector3d& direction) const {
  const double height = direction.normalized().dot(up_);
  const auto share = static_cast<float>(std::clamp(0.5 + 10.0 * height, 0.0, 1.0));
  return share * sky_ + (1.0F - share) * ground_;
}

Eigen::Vector3f Stage::direct_light(const Eigen::Vector3d& point, const Eigen::Vector3d& normal,
                                    double lift) const {
  Eigen::Vector3f sum = Eigen::Vector3f::Zero();
  for (const PlacedLight& placed : lights_) {
    const bool sun = placed.light.kind == Light::Kind::directional;
    const Eigen::Vector3d to =
        sun ? Eigen::Vector3d(placed.towards * 1e4) : Eigen::Vector3d(placed.at - point);
    const double cosine = normal.dot(to) / std::max(to.norm(), 1e-9);
    const double share = sun ? 1.0 : window(placed, to) / std::max(to.squaredNorm(), 1e-6);
    if (cosine <= 0.0 || share <= 0.0) continue;
    const Eigen::Vector3d lifted = point + normal * lift;
    if (!clear(lifted, point + to)) continue;
    sum += placed.light.intensity * static_cast<float>(cosine * share);
  }
  return sum;
}

// Sky and lights on a white surface.
Eigen::Vector3f Stage::lit(const Eigen::Vector3d& point, const Eigen::Vector3d& normal,
                           double lift) const {
  const auto above = static_cast<float>(0.5 + 0.5 * normal.dot(up_));
  const Eigen::Vector3f ambient = above * sky_ + (1.0F - above) * ground_;
  const auto inverse_pi = static_cast<float>(std::numbers::inv_pi);
  return ambient + inverse_pi * direct_light(point, normal, lift);
}

Eigen::Vector3f Stage::shade(const RTCRayHit& ray, const Eigen::Vector3d& from,
                             const Eigen::Vector3d& direction) const {
  const Part& part = parts_[ray.hit.geomID];
  const Eigen::Vector3d point = from + direction * static_cast<double>(ray.ray.tfar);
  if (part.point_radius > 0.0) {
    const std::size_t i = ray.hit.primID;
    Eigen::Vector3f base = part.material.base;
    if (!part.colours.empty()) base = base.cwiseProduct(part.colours[i]);
    if (part.normals.empty()) return base;
    // Neighbours turn their discs to the light too, and would shade each other: past them.
    return base.cwiseProduct(lit(point, part.normals[i].cast<double>(), 2.0 * part.point_radius));
  }
  const auto& corners = part.triangles[ray.hit.primID];
  Eigen::Vector3f base = part.material.base;
  if (!part.colours.empty()) {
    base = base.cwiseProduct(interpolate(part.colours, corners, ray.hit.u, ray.hit.v));
  }
  Eigen::Vector3d normal(static_cast<double>(ray.hit.Ng_x), static_cast<double>(ray.hit.Ng_y),
                         static_cast<double>(ray.hit.Ng_z));
  if (!part.normals.empty()) {
    normal = interpolate(part.normals, corners, ray.hit.u, ray.hit.v).cast<double>();
  }
  normal.normalize();
  if (normal.dot(direction) > 0.0) normal = -normal;  // surfaces are seen from both sides
  Eigen::Vector3f light = base.cwiseProduct(lit(point, normal, 1e-4 * std::max(1.0, point.norm())));
  if (!part.splatted[ray.hit.primID]) light += part.material.emission;
  return light;
}

}  // namespace jolly_iris::tracing
