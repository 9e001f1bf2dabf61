// A shot: body + lens + take + scene + plate + focus, as one value that knows where each part of it
// came from. Files are read into it by shot_file.hpp.
#pragma once

#include <array>
#include <map>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "jolly_iris/export.hpp"
#include "jolly_iris/optics/blur_override.hpp"
#include "jolly_iris/optics/camera.hpp"
#include "jolly_iris/optics/ease.hpp"
#include "jolly_iris/optics/plate_marks.hpp"
#include "jolly_iris/optics/primaries.hpp"
#include "jolly_iris/optics/sharpness.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// Where a value came from.
struct Origin {
  enum class Source {
    noted,     ///< written in the shot file, or in a body or lens file it names
    metadata,  ///< read out of a picture
    solved,    ///< computed from the plate
    tried      ///< given for this one run, without touching the file
  };
  Source source = Source::noted;
  std::string place{};  ///< "hero.shot.toml:12:8"
  std::string text{};   ///< as it was written
};

/// "noted", "metadata", "solved", "tried".
std::string_view to_string(Origin::Source source);

/// In which of the five ways a distance was measured (see distance.hpp).
enum class DistanceKind { axial, radial, tape, mark, floor };

/// "axial", "radial", "tape", "mark", "floor".
std::string_view to_string(DistanceKind kind);

/// A distance as it was entered, with what is needed to make it axial.
struct DistanceEntry {
  DistanceKind kind = DistanceKind::axial;
  Length length{};                               ///< may be infinite
  std::optional<Angle> off_axis{};               ///< of a radial or tape; in the plan of a floor
  std::optional<std::array<double, 2>> pixel{};  ///< or where the plate shows it
  bool pixel_in_cg = false;                      ///< the pixel is one of the CG picture
  std::optional<Length> height{};                ///< of the thing above the floor; none: 0
};

/// How a depth picture's numbers stand for distances.
struct DepthCode {
  enum class Kind {
    axial,      ///< z in `unit`
    radial,     ///< along the ray, in `unit`
    inverse,    ///< 1 / axial, per `unit`
    normalised  ///< 0 … 1 from `near` to `far`, axial
  };
  Kind kind = Kind::axial;
  Length unit = Length::from_m(1.0);
  std::optional<Length> near{};  ///< normalised: what one end stands for
  std::optional<Length> far{};
  bool white_is_near = false;  ///< normalised: 1 is near and 0 is far
};

/// A depth picture of the shot.
struct DepthEntry {
  std::string file{};  ///< resolved against the shot file's folder; may be empty: only a code
  DepthCode code{};
  std::optional<Length> distance{};  ///< of all of a flat picture; may be infinite
};

/// What is taken from the middle ninth of a depth picture.
enum class MiddleArea { nearest, median };

/// What was picked in a depth picture.
struct Picked {
  DistanceEntry distance{};  ///< axial or radial, with its pixel
  std::string message{};     ///< "pixel 960, 540 of pinhole.exr: 2.35 m"
};

/// Which point of a node is focused on.
enum class NodePart { middle, origin, nearest };

/// What the camera focuses on: exactly one of on, distance, pixel and area, or nothing (then the
/// take's mark counts).
struct Focus {
  std::optional<std::string> on{};  ///< a subject's name
  NodePart part = NodePart::middle;
  std::optional<DistanceEntry> distance{};
  std::optional<std::array<double, 2>> pixel{};  ///< of the depth picture
  std::optional<MiddleArea> area{};              ///< of the depth picture
  std::optional<Picked> picked{};  ///< what the last two found, filled in by who reads pictures
  Length offset{};                 ///< added to the axial distance: + behind, − in front

  bool any() const { return on || distance || pixel || area; }
};

/// Focus on its way from one thing to another, at one instant. It moves evenly in dioptres, since
/// equal steps of reciprocal distance are equal steps of blur.
struct FocusMove {
  Focus from{};
  Focus to{};
  Ease ease{};
  double fraction = 0.0;  ///< of the time, 0 … 1
};

/// One key of a pull: from `frame` on the focus is here; `ease` is how it came from the key before.
struct Pull {
  double frame = 0.0;
  Focus focus{};
  Ease ease{};
};

/// A quantity of the shot that changes over frames; see over.hpp for which can.
struct Keyframed {
  struct At {
    double frame = 0.0;
    std::array<double, 3> value{};  ///< as over.hpp's table counts it; places have three numbers
  };
  std::string key{};
  std::vector<At> keys{};  ///< by rising frame, at least one
  Ease ease{};
};

/// A subject that the shot file itself describes. One of `distance` and `place` is given, or
/// neither where it describes a node of the scene.
struct SubjectEntry {
  std::string name{};
  std::optional<DistanceEntry> distance{};
  std::optional<std::array<double, 3>> place{};  ///< in the artist's units, +Y up, world space
  std::optional<Length> size{};                  ///< its largest side in reality
  std::optional<Length> deep{};                  ///< how far it reaches along the view, in all
};

/// Which point of the real camera the scene's camera stands for.
enum class CameraOrigin { pupil, sensor, mount };

/// What the numbers of the scene's lights count, and so those of CG pictures.
enum class SceneLight {
  unsaid,
  candela,  ///< cd/m²: the exposure makes picture values of them
  unscaled  ///< nothing: they are right as they are, or found by metering
};

/// "not said", "cd/m2", "unscaled".
std::string_view to_string(SceneLight light);

/// A scene file, and which of its cameras took the picture (none: its only one).
struct SceneEntry {
  std::string file{};  ///< resolved against the shot file's folder; empty: a track alone
  std::optional<std::string> camera{};
  double scale = 1.0;  ///< the whole scene is made this much larger
  CameraOrigin origin = CameraOrigin::pupil;
  Length back{};  ///< the camera stood so much farther back along its view than in the scene
  std::optional<std::string> aim{};           ///< a subject that the camera always turns to
  bool level = false;                         ///< tilt and roll are taken out (see perspective.hpp)
  std::string points{};                       ///< a PLY of coloured points, in the artist's units
  Length point_size = Length::from_mm(10.0);  ///< diameter of each
  bool points_z_up = false;                   ///< else +Y is up in that file
};

/// One row of a camera move from a table. Either pan, tilt and roll (degrees: + right, + up,
/// + clockwise as seen from behind) or a rotation (x, y, z, w; camera → world).
struct TrackRow {
  double frame = 0.0;
  std::array<double, 3> place{};  ///< in the artist's units, +Y up
  std::array<double, 3> pan_tilt_roll{};
  std::optional<std::array<double, 4>> rotation{};
  std::optional<Length> focal{};  ///< marked, of a zoom
};

/// A camera move that came as a table instead of with a scene.
struct Track {
  std::string file{};
  std::vector<TrackRow> rows{};  ///< by rising frame, at least one
};

/// First and last frame of the shot. A scene's animation begins at the first.
struct FrameRange {
  double first = 0.0;
  double last = 0.0;
};

/// How a picture file's numbers stand for light. See transfer.hpp.
enum class Transfer { linear, srgb, rec709, acescct, table };

/// "linear", "sRGB", "Rec.709", "ACEScct", "table".
std::string_view to_string(Transfer transfer);

/// A transfer curve measured or published as a table.
struct Curve {
  std::string file{};
  std::vector<std::array<double, 2>> rows{};  ///< a file's number, its light; both strictly rising
};

/// The plate, how its numbers stand for light, and what was drawn on it.
struct PlateEntry {
  std::string file{};  ///< may be empty: only marks
  std::optional<Transfer> transfer{};
  Curve curve{};       ///< for Transfer::table
  PlateMarks marks{};  ///< what was drawn on it
};

struct Shot {
  std::string file{};
  std::string solved{};  ///< the file of solved values that is laid over the notes; empty: none
  std::string solved_left{};          ///< why one that is there was left out, as a sentence
  std::string variant{};              ///< which variant of the file this is; empty: the file as is
  Length unit = Length::from_m(1.0);  ///< one unit of the artist's own scene
  Criterion criterion{};
  Body body{};
  Lens lens{};
  Take take{};
  Focus focus{};
  std::optional<FocusMove> move{};  ///< at one frame of a pull; leads over `focus`
  std::vector<SubjectEntry> subjects{};
  std::vector<Keyframed> keyframes{};
  std::vector<Pull> pulls{};  ///< by rising frame
  std::optional<FrameRange> frames{};
  std::optional<double> frame{};  ///< which one this is, once shot_at has made it
  std::optional<SceneEntry> scene{};
  SceneLight light = SceneLight::unsaid;
  Primaries primaries = Primaries::rec709;  ///< of the shot's pictures
  std::optional<Track> track{};
  std::optional<DepthEntry> depth{};
  BlurOverride blur_override{};
  std::optional<PlateEntry> plate{};
  std::map<std::string, Origin> origins{};  ///< by dotted key, e.g. "take.stop"
  std::vector<std::string> files{};         ///< everything that was read to make this shot

  /// "hero.shot.toml:12:8: take.mark: " for a key with a known origin, else "key: ", else nothing.
  std::string where(const std::string& key) const;
};

}  // namespace jolly_iris
