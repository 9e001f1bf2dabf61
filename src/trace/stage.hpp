// The scene as the tracer needs it: in camera space, triangles in Embree, lights and emitters in
// lists.
#pragma once

#include <embree3/rtcore.h>

#include <Eigen/Geometry>
#include <optional>
#include <vector>

#include "jolly_iris/scene.hpp"
#include "lens_view.hpp"

namespace jolly_iris::tracing {

/// Something small that glows: a lamp's ball (seen as a disc facing the viewer) or a triangle.
struct Emitter {
  enum class Kind { ball, triangle };
  Kind kind = Kind::ball;
  Eigen::Vector3d a = Eigen::Vector3d::Zero();  ///< centre, or first corner
  Eigen::Vector3d b = Eigen::Vector3d::Zero();  ///< other corners
  Eigen::Vector3d c = Eigen::Vector3d::Zero();
  double radius = 0.0;  ///< of the ball
  Eigen::Vector3f radiance = Eigen::Vector3f::Zero();
  Eigen::Vector3d middle() const {
    return kind == Kind::ball ? a : Eigen::Vector3d((a + b + c) / 3.0);
  }
  double reach() const;  ///< radius of a ball that holds it
};

struct PlacedLight {
  Light light;
  Eigen::Vector3d at;       ///< its place
  Eigen::Vector3d towards;  ///< the direction *against* which it shines: towards the light
};

struct Hit {
  bool found = false;
  double depth = 0.0;  ///< ray parameter
  Eigen::Vector3f radiance = Eigen::Vector3f::Zero();
};

/// What of the scene the camera sees.
struct Sight {
  std::vector<bool> seen{};  ///< by node; empty: all
  bool sky = true;
  double density = 1.0;    ///< share of a cloud's points, (0, 1]
  std::uint32_t seed = 1;  ///< of which points these are
};

class Stage {
 public:
  Stage(const Scene& scene, const Eigen::Isometry3d& place, const LensView& view,
        const Sight& sight = {});
  ~Stage();
  Stage(const Stage&) = delete;
  Stage& operator=(const Stage&) = delete;

  /// What a ray sees: its radiance (the sky's where it hits nothing) and how far away.
  Hit look(const Eigen::Vector3d& from, const Eigen::Vector3d& direction) const;
  /// Whether nothing that the camera sees stands between a pupil point and another.
  bool clear_view(const Eigen::Vector3d& from, const Eigen::Vector3d& to) const;
  /// Whether nothing at all stands between two points.
  bool clear(const Eigen::Vector3d& from, const Eigen::Vector3d& to) const;
  double depth(const Eigen::Vector3d& from, const Eigen::Vector3d& direction) const;
  /// What a ray meets: the node, none for sky; `depth` is where.
  std::optional<std::size_t> node(const Eigen::Vector3d& from, const Eigen::Vector3d& direction,
                                  double& depth) const;
  bool has_sky() const { return has_sky_ && sight_.sky; }
  const std::vector<Emitter>& emitters() const { return emitters_; }

 private:
  struct Part {  // one Embree geometry
    std::size_t node = 0;
    Material material;
    std::vector<Eigen::Vector3f> positions;
    std::vector<Eigen::Vector3f> normals;
    std::vector<Eigen::Vector3f> colours;
    std::vector<std::array<std::uint32_t, 3>> triangles;
    std::vector<bool> splatted;  // triangles whose own light the emitters bring
    double point_radius = 0.0;   // of points; 0: these are triangles
  };
  void add(const Scene& scene, std::size_t node, const Primitive& primitive,
           const Eigen::Affine3d& to_camera, const LensView& view);
  void add_points(std::size_t node, const Primitive& primitive, const Material& material,
                  const Eigen::Affine3d& to_camera);
  void add_lamps(const Primitive& primitive, const Material& material,
                 const Eigen::Affine3d& to_camera);
  bool sees(std::size_t node) const { return sight_.seen.empty() || sight_.seen[node]; }
  double density_of(const Primitive& points) const;
  bool drafted(std::size_t point, double density) const;
  void split_emission(Part& part, const LensView& view);
  bool unhit(const Eigen::Vector3d& from, const Eigen::Vector3d& to, unsigned mask) const;
  bool cast(const Eigen::Vector3d& from, const Eigen::Vector3d& direction, RTCRayHit& ray) const;
  Eigen::Vector3f sky(const Eigen::Vector3d& direction) const;
  Eigen::Vector3f shade(const RTCRayHit& ray, const Eigen::Vector3d& from,
                        const Eigen::Vector3d& direction) const;
  Eigen::Vector3f lit(const Eigen::Vector3d& point, const Eigen::Vector3d& normal,
                      double lift) const;
  Eigen::Vector3f direct_light(const Eigen::Vector3d& point, const Eigen::Vector3d& normal,
                               double lift) const;

  RTCDevice device_ = nullptr;
  RTCScene scene_ = nullptr;
  std::vector<Part> parts_;
  std::vector<PlacedLight> lights_;
  std::vector<Emitter> emitters_;
  Eigen::Vector3d up_ = Eigen::Vector3d::UnitY();
  Eigen::Vector3f sky_ = Eigen::Vector3f::Zero();
  Eigen::Vector3f ground_ = Eigen::Vector3f::Zero();
  bool has_sky_ = false;
  Sight sight_;
};

}  // namespace jolly_iris::tracing
