// The answer to a shot: the virtual camera, who is sharp, the exposure, and plain sentences about
// what people usually get wrong. This is what `report` prints and `handoff` writes.
#pragma once

#include <Eigen/Geometry>
#include <map>
#include <optional>
#include <string>
#include <vector>

#include "jolly_iris/camera.hpp"
#include "jolly_iris/scene.hpp"
#include "jolly_iris/sharpness.hpp"
#include "jolly_iris/shot.hpp"

namespace jolly_iris {

/// Where a subject is, seen from the camera's entrance pupil.
struct SubjectPlace {
  std::string name{};
  Length axial{};   ///< along the view axis; ≤ 0 is behind the camera
  Length radial{};  ///< along the ray
  /// Corners of its bounds in camera space, metres; or its one point; empty if only its distance is
  /// known.
  std::vector<Eigen::Vector3d> extent{};
};

/// How blurred a subject is.
struct SubjectBlur {
  std::string name{};
  Length axial{};
  Length radial{};
  Length coc{};         ///< signed, on the gate, vertical
  double coc_px = 0.0;  ///< the same in pixels of the picture
  bool sharp = false;
  bool in_picture = true;           ///< whether its bounds reach into the frame
  std::optional<double> size_px{};  ///< how large it appears, where its real size is known
};

struct Answer {
  VirtualCamera camera{};
  Length unit{};                                            ///< of the artist's scene
  Eigen::Isometry3d place = Eigen::Isometry3d::Identity();  ///< camera → world, metres
  Length coc_limit{};
  SharpRange sharp{};
  Length hyperfocal{};
  std::vector<SubjectBlur> subjects{};  ///< near to far; those in front of the camera
  SubjectBlur infinity{};
  std::optional<double> ev100{};
  std::optional<Duration> shutter{};
  std::optional<Angle> shutter_angle{};
  std::map<std::string, Origin> origins{};  ///< of the shot's values, by key
  std::string focus_said{};                 ///< "on boat", "at 2.35 m", "mark 2.4 m"
  std::vector<std::string> notes{};
};

/// All subjects of a shot: its own entries, then every named node of the scene that has a place
/// (the taking camera itself is none). Names given twice count once, the shot file's first.
/// A node's place is the middle of its bounds with all below it, or its origin if it has no mesh.
std::vector<SubjectPlace> subjects_of(const Shot& shot, const Scene* scene);

/// The axial distance a shot focuses at: `focus.on`, `focus.at`, `focus.mark`, or the take's mark.
/// @throws UsageError for a subject that does not exist (names the nearest name)
/// @throws OpticsError for a subject behind the camera, or no focus at all
Length focus_of(const Shot& shot, const std::vector<SubjectPlace>& subjects);

/// Everything. `scene` may be null where the shot names none.
/// @throws as focus_of and resolve do, with the place in the file where one is known
Answer answer(const Shot& shot, const Scene* scene);

}  // namespace jolly_iris
