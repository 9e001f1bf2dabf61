// The answer to a shot: the virtual camera, who is sharp, the exposure, and plain sentences about
// what people usually get wrong. This is what `report` prints and `handoff` writes.
//
// A shot that changes over frames is answered at one of them: hand in shot_at(shot, frame) and a
// scene that pose() has put there (see frames.hpp for all of them).
#pragma once

#include <map>
#include <optional>
#include <string>
#include <vector>
#include "jolly_iris/export.hpp"
#include "jolly_iris/optics/geometry.hpp"

#include "jolly_iris/optics/camera.hpp"
#include "jolly_iris/optics/exposure.hpp"
#include "jolly_iris/optics/perspective.hpp"
#include "jolly_iris/optics/relative_illumination.hpp"
#include "jolly_iris/optics/sharpness.hpp"
#include "jolly_iris/optics/shot.hpp"
#include "jolly_iris/scene/scene.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// Where a subject is, seen from the camera's entrance pupil. Its front, middle and back are axial
/// and may be ≤ 0: behind the camera.
struct SubjectPlace {
  std::string name{};
  Length axial{};   ///< of its middle, along the view axis
  Length radial{};  ///< along the ray
  Length front{};   ///< of its nearest point
  Length back{};    ///< of its farthest point
  Length origin{};  ///< of its node's origin
  Angle off_axis{};
  std::optional<Vec3> middle{};  ///< in camera space, metres, where it is known
  /// Corners of its bounds in camera space, metres; or its one point; empty if only its distance is
  /// known.
  std::vector<Vec3> extent{};
  std::optional<double> longest_m{};  ///< of a node whose real size is known: its longest side
};

/// How blurred a subject is. CoC are signed, vertical; in mm on the gate, in px of the picture.
struct SubjectBlur {
  std::string name{};
  Length axial{};
  Length radial{};
  Length tape{};
  std::optional<Length> mark{};   ///< where the barrel stands when focused on it, if it can be
  std::optional<Length> floor{};  ///< along the floor, where its place is known
  Length front{};
  Length back{};
  Length coc{};                          ///< of its middle, with the lens's faults (SeenBlur)
  double coc_px = 0.0;                   ///< of its middle
  std::optional<double> coc_front_px{};  ///< none if its front is behind the camera
  double coc_back_px = 0.0;
  bool sharp = false;               ///< its middle is
  bool partly_sharp = false;        ///< some of it is, some is not
  bool entered = false;             ///< known as one point, by the shot file or a node without mesh
  bool in_picture = true;           ///< whether its bounds reach into the frame
  std::optional<double> size_px{};  ///< how large it appears, where its real size is known
  std::optional<double> depth_code{};  ///< its middle as the shot's depth pictures count
};

/// A node that is another size in the scene than in reality.
struct ScaleFinding {
  std::string name{};
  double factor = 1.0;    ///< scene / reality
  std::string message{};  ///< "boat is 100 times too large: centimetres taken for metres"
};

struct Answer {
  VirtualCamera camera{};
  Length unit{};        ///< of the artist's scene
  Pose place = Pose{};  ///< camera → world, metres
  std::optional<double> frame{};
  std::optional<Length> mark{};  ///< where the barrel would stand for this focus
  Length coc_limit{};
  SharpRange sharp{};          ///< in the picture's middle, with the lens's faults
  bool nothing_sharp = false;  ///< they alone blur by more: then `sharp` is the focus, no range
  double least_blur_px = 0.0;  ///< then: the least there is
  Length hyperfocal{};
  Margin margin{};  ///< for what reaches into the frame, and infinity; only by answer()
  std::vector<SubjectBlur> subjects{};  ///< near to far; those in front of the camera
  SubjectBlur infinity{};
  std::vector<ScaleFinding> scale{};
  Exposure exposure{};
  std::optional<double> value_per_candela{};  ///< picture value of 1 cd/m², by the body's anchor
  Anchor anchor = Anchor::grey;
  SceneLight light = SceneLight::unsaid;
  std::optional<White> white{};  ///< what the camera was told
  std::optional<CgShutter> cg_shutter{};
  CornerLoss corner{};
  std::optional<double> ev100{};
  std::optional<Duration> shutter{};
  std::optional<Angle> shutter_angle{};
  std::map<std::string, Origin> origins{};  ///< of the shot's values, by key
  std::string picked{};                     ///< name of what was picked in a depth picture, if any
  std::string focus_description{};          ///< "on boat", "at 2.35 m", "mark 2.4 m"
  std::vector<std::string> notes{};
};

/// Where the camera's entrance pupil is: camera → world. From the scene's camera, the shot's track,
/// or, without either, above the origin at take.height, tilted by take.tilt; turned to what it aims
/// at; moved along its axis where the scene's camera stands for the sensor or the mount.
/// @throws UsageError for a camera or an aim that does not exist
/// @throws OpticsError where lens.pupil or body.flange is needed and not known
Pose stand_of(const Shot& shot, const Scene* scene);

/// How a camera leans: its view against the level, its up against the upright.
Lean lean_of(const Pose& place);

/// All subjects of a shot: its own entries, then every named node of the scene that has a place
/// (cameras are none). Names given twice count once, the shot file's first.
/// A node's middle is that of its bounds with all below it, or its origin if it has no mesh.
/// @param focus what the camera is focused at: what the picture shows where hangs a little on it
std::vector<SubjectPlace> subjects_of(const Shot& shot, const Scene* scene, const Pose& stand,
                                      Length focus = Length::infinity());

/// Everything. `scene` may be null where the shot names none.
/// @throws UsageError for a subject that does not exist (names the nearest name)
/// @throws OpticsError for a focus behind the camera, or none at all, and as resolve does; with the
///         place in the file where one is known
Answer answer(const Shot& shot, const Scene* scene);

/// The same without notes, origins and margin: for many frames, many shots.
Answer answer_numbers(const Shot& shot, const Scene* scene);

}  // namespace jolly_iris
