// The scene as the tracer needs it: in camera space, triangles in Embree, lights and emitters in
// lists.
#pragma once

#include <embree3/rtcore.h>

#include <optional>
#include <vector>
#include "jolly_iris/optics/geometry.hpp"

#include "jolly_iris/scene/scene.hpp"
#include "jolly_iris/trace/trace.hpp"
#include "lens_view.hpp"

namespace jolly_iris::tracing {

/// Something small that glows: a lamp's ball (seen as a disc facing the viewer), a triangle, or a
/// piece of a wire (round, seen as a band).
struct Emitter {
  enum class Kind { ball, triangle, wire };
  Kind kind = Kind::ball;
  Vec3 a = Vec3{};  ///< centre, or first corner or end
  Vec3 b = Vec3{};  ///< other corners, or the other end
  Vec3 c = Vec3{};
  double radius = 0.0;  ///< of the ball or the wire
  Vec3f radiance = Vec3f{};
  std::size_t node = 0;
  Vec3 middle() const {
    if (kind == Kind::ball) return a;
    return kind == Kind::wire ? Vec3((a + b) / 2.0) : Vec3((a + b + c) / 3.0);
  }
  double reach() const;  ///< radius of a ball that holds it
};

struct PlacedLight {
  Light light;
  Vec3 at;       ///< its place
  Vec3 towards;  ///< the direction *against* which it shines: towards the light
};

struct Hit {
  bool found = false;
  double depth = 0.0;  ///< ray parameter
  Vec3f radiance = Vec3f{};
};

/// What of the scene the camera sees.
struct Sight {
  std::vector<bool> seen{};  ///< by node; empty: all
  bool sky = true;
  double density = 1.0;    ///< share of a cloud's points, (0, 1]
  std::uint32_t seed = 1;  ///< of which points these are
};
/// @throws UsageError for a node that does not exist
Sight sight_of(const Scene& scene, const TraceSettings& settings);

class Stage {
 public:
  Stage(const Scene& scene, const Pose& place, const LensView& view, const Sight& sight = {});
  ~Stage();
  Stage(const Stage&) = delete;
  Stage& operator=(const Stage&) = delete;

  /// What a ray sees: its radiance (the sky's where it hits nothing) and how far away.
  Hit look(const Vec3& from, const Vec3& direction) const;
  /// Whether nothing that the camera sees stands between a pupil point and another.
  bool clear_view(const Vec3& from, const Vec3& to) const;
  /// Whether nothing at all stands between two points.
  bool clear(const Vec3& from, const Vec3& to) const;
  double depth(const Vec3& from, const Vec3& direction) const;
  /// What a ray meets: the node, none for sky; `depth` is where.
  std::optional<std::size_t> node(const Vec3& from, const Vec3& direction, double& depth) const;
  bool has_sky() const { return has_sky_ && sight_.sky; }
  const std::vector<Emitter>& emitters() const { return emitters_; }

 private:
  struct Part {  // one Embree geometry
    std::size_t node = 0;
    Material material;
    std::vector<Vec3f> positions;
    std::vector<Vec3f> normals;
    std::vector<Vec3f> colours;
    std::vector<std::array<std::uint32_t, 3>> triangles;
    std::vector<bool> splatted;  // triangles whose own light the emitters bring
    double point_radius = 0.0;   // of points; 0: these are triangles
  };
  void add(const Scene& scene, std::size_t node, const Primitive& primitive,
           const Affine& to_camera, const LensView& view);
  void add_points(std::size_t node, const Primitive& primitive, const Material& material,
                  const Affine& to_camera);
  void add_lamps(std::size_t node, const Primitive& primitive, const Material& material,
                 const Affine& to_camera);
  void add_wires(std::size_t node, const Primitive& primitive, const Material& material,
                 const Affine& to_camera, const LensView& view);
  bool sees(std::size_t node) const { return sight_.seen.empty() || sight_.seen[node]; }
  double density_of(const Primitive& points) const;
  bool drafted(std::size_t point, double density) const;
  void split_emission(Part& part, const LensView& view);
  bool unhit(const Vec3& from, const Vec3& to, unsigned mask) const;
  bool cast(const Vec3& from, const Vec3& direction, RTCRayHit& ray) const;
  Vec3f sky(const Vec3& direction) const;
  Vec3f shade(const RTCRayHit& ray, const Vec3& from, const Vec3& direction) const;
  Vec3f lit(const Vec3& point, const Vec3& normal, double lift) const;
  Vec3f direct_light(const Vec3& point, const Vec3& normal, double lift) const;

  RTCDevice device_ = nullptr;
  RTCScene scene_ = nullptr;
  std::vector<Part> parts_;
  std::vector<PlacedLight> lights_;
  std::vector<Emitter> emitters_;
  Vec3 up_ = Vec3::unit_y();
  Vec3f sky_ = Vec3f{};
  Vec3f ground_ = Vec3f{};
  bool has_sky_ = false;
  Sight sight_;
};

}  // namespace jolly_iris::tracing
