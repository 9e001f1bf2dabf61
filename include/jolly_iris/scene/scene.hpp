// A scene as values: nodes in a tree, meshes and lamps, lights, cameras. Right-handed, +Y up, a
// camera looks along its own −Z, metres: as glTF 2.0 has it. Read from files by gltf.hpp.
#pragma once

#include <array>
#include <cstdint>
#include <memory>
#include <optional>
#include <string>
#include <vector>
#include "jolly_iris/export.hpp"
#include "jolly_iris/optics/geometry.hpp"
#include "jolly_iris/optics/shared_list.hpp"

#include "jolly_iris/scene/point_tree.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// A surface: diffuse base colour plus light of its own, both linear Rec.709.
struct Material {
  std::string name{};
  Vec3f base = Vec3f::all(1.0F);
  Vec3f emission = Vec3f{};  ///< colour × strength
  /// Of each point, in metres, whatever the scale of its node. Points that glow are lamps: small
  /// balls. Others are opaque discs that face whoever looks, in their own colour (glTF 2.0, section
  /// 3.9.6), lit where they have normals.
  double point_diameter_m = 0.01;
  /// Of each line likewise: lines that glow are wires of light, others are not seen.
  double line_width_m = 0.002;
};

/// Triangles, points or lines with one material. Positions are in the mesh's own space.
struct Primitive {
  enum class Kind { triangles, points, lines };
  Kind kind = Kind::triangles;
  std::vector<Vec3f> positions{};
  std::vector<Vec3f> normals{};                           ///< empty, or one a position
  std::vector<Vec3f> colours{};                           ///< empty, or one a position; × base
  std::vector<std::array<std::uint32_t, 3>> triangles{};  ///< for `triangles`
  std::vector<std::array<std::uint32_t, 2>> lines{};      ///< for `lines`: both ends
  std::optional<std::size_t> material{};
};

struct Mesh {
  std::string name{};
  std::vector<Primitive> primitives{};
  Box3<double> bounds{};  ///< in the mesh's own space; empty without positions
};

/// A light that is not seen itself (KHR_lights_punctual); it shines along its node's −Z.
struct Light {
  enum class Kind { directional, point, spot };
  Kind kind = Kind::point;
  Vec3f intensity = Vec3f{};  ///< lx (directional) or cd
  double range_m = 0.0;       ///< of points and spots; 0: no end
  double inner_cone = 0.0;    ///< of a spot: half angle of full light, radians
  double outer_cone = 0.0;    ///< of a spot: half angle where it ends, radians
};

/// A camera as the scene file has it. For a shot only its place is used, the lens comes from the
/// shot file; the rest is what somebody set in another program (see cg_camera.hpp).
struct SceneCamera {
  enum class Projection { perspective, orthographic };
  std::string name{};
  Projection projection = Projection::perspective;
  double yfov = 0.0;                      ///< radians
  std::optional<double> aspect{};         ///< width / height of its picture
  std::optional<double> gate_width_mm{};  ///< where the file has it
  std::optional<double> gate_height_mm{};
  std::optional<double> f_number{};
  std::optional<double> focus_m{};         ///< axial
  std::optional<double> shift_right_mm{};  ///< of the picture's centre on the gate
  std::optional<double> shift_up_mm{};
};

/// A change over time of one part of a node's placement, or of one number of a camera.
struct Channel {
  enum class Path { translation, rotation, scale };
  enum class Step { hold, linear, cubic };
  std::size_t node = 0;
  Path path = Path::translation;
  Step step = Step::linear;
  std::vector<double> times{};  ///< seconds, rising, at least one
  std::vector<std::array<double, 4>>
      values{};  ///< one a time; cubic: in-tangent, value, out-tangent
};

struct Node {
  std::string name{};
  std::optional<std::size_t> parent{};
  std::vector<std::size_t> children{};
  std::optional<std::size_t> mesh{};
  std::optional<std::size_t> camera{};
  std::optional<std::size_t> light{};
  /// Where it stands in its parent's space: a matrix, or the three parts that channels can move.
  std::optional<Affine> matrix{};
  Vec3 translation{};
  Quaternion rotation{};
  Vec3 scale = Vec3::all(1.0);
  Affine world{};  ///< node space → world, kept by pose()
};

/// A value: copies have their meshes in common and stand by themselves, so that each thread poses
/// one of its own. Invariant (kept by the readers): indices are in range, parents form a forest and
/// come before their children, all is finite.
struct Scene {
  std::string file{};
  std::vector<Node> nodes{};
  SharedList<Mesh> meshes{};
  std::vector<Material> materials{};
  std::vector<Light> lights{};
  std::vector<SceneCamera> cameras{};
  SharedList<Channel> channels{};  ///< its animation
  /// All positions of each mesh, once prepare_for_frames has made them.
  std::shared_ptr<const std::vector<PointTree>> outlines{};
  double scale = 1.0;                ///< all of it is made this much larger
  double metres_per_unit = 1.0;      ///< as its file counts; all here is in metres
  Vec3f sky{};                       ///< what is seen where nothing is, above
  Vec3f ground{};                    ///< the same, below the horizon
  std::vector<std::string> files{};  ///< everything that was read
};

/// Puts every node where it is at this time: evaluates the channels (before the first and after the
/// last key these hold; rotations go the short way; cubic as glTF 2.0, appendix C, has it) and
/// renews all world matrices.
/// @throws FileError for a node that lands farther away, or larger, than a scene can be
void pose(Scene& scene, double seconds);

/// When the last channel ends, in seconds; 0 without animation.
double duration_of(const Scene& scene);

/// From where to where a node with all below it reaches along a direction in world space, by its
/// true vertices; none if there is no mesh among them.
struct Reach {
  double min = 0.0;
  double max = 0.0;
};
std::optional<Reach> reach_of(const Scene& scene, std::size_t node, const Vec3& direction);

/// A node's world-space bounds and how far it reaches, each with all below it; empty if there is no
/// mesh among them.
struct NodeExtent {
  Box3<double> box{};
  Reach reach{std::numeric_limits<double>::infinity(), -std::numeric_limits<double>::infinity()};
  bool any() const { return reach.min <= reach.max; }
  void hold(const Reach& more) {
    reach = {std::min(reach.min, more.min), std::max(reach.max, more.max)};
  }
};
/// Of all nodes at once, in their order: quicker than one by one, which takes a deep chain's length
/// squared. @param direction as for reach_of
std::vector<NodeExtent> extents_of(const Scene& scene, const Vec3& direction);

/// Makes reach_of and extents_of quick for scenes that are asked frame by frame. Positions must not
/// change then.
void prepare_for_frames(Scene& scene);

/// The longest side of a node with all below it, in its own space at its size in the world, metres.
std::optional<double> longest_side(const Scene& scene, std::size_t node);

/// World-space bounds of a node and all below it; empty if there is no mesh among them.
Box3<double> bounds_of(const Scene& scene, std::size_t node);

/// The node of a camera. @throws as camera_place
std::size_t camera_node(const Scene& scene, const std::optional<std::string>& name);

/// Where a camera stands: a rigid placement, camera space (x right, y up, looking along −z) →
/// world. Scale in the node's matrix is no part of a camera's place and is taken out.
/// @param name the camera's or its node's name; none: the scene's only camera
/// @throws UsageError naming the nearest name, or if there are several and none was named
/// @throws OpticsError for an orthographic camera: it has no focal length, so it is out of scope
Pose camera_place(const Scene& scene, const std::optional<std::string>& name);

}  // namespace jolly_iris
