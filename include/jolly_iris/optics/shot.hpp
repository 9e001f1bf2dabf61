// A shot: body + lens + take + scene + plate + focus, as one value that knows where each part of it
// came from. Files are read into it by shot_file.hpp.
#pragma once

#include <array>
#include <map>
#include <optional>
#include <string>
#include <vector>

#include "jolly_iris/export.hpp"
#include "jolly_iris/optics/blur_override.hpp"
#include "jolly_iris/optics/camera.hpp"
#include "jolly_iris/optics/colour_config.hpp"
#include "jolly_iris/optics/depth_code.hpp"
#include "jolly_iris/optics/finish.hpp"
#include "jolly_iris/optics/focus.hpp"
#include "jolly_iris/optics/origin.hpp"
#include "jolly_iris/optics/plate_entry.hpp"
#include "jolly_iris/optics/primaries.hpp"
#include "jolly_iris/optics/scene_entry.hpp"
#include "jolly_iris/optics/sharpness.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// A quantity of the shot that changes over frames; see keyframes.hpp for which can.
struct Keyframed {
  struct At {
    double frame = 0.0;
    std::array<double, 3> value{};  ///< as keyframes.hpp's keys count it; places have three numbers
  };
  std::string key{};
  std::vector<At> keys{};  ///< by rising frame, at least one
  Ease ease{};
};

/// First and last frame of the shot. A scene's animation begins at the first.
struct FrameRange {
  double first = 0.0;
  double last = 0.0;
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
  ColourConfig colour{};                    ///< what they are decoded and shown by
  std::optional<Track> track{};
  std::optional<DepthEntry> depth{};
  BlurOverride blur_override{};
  Finish finish{};
  std::optional<PlateEntry> plate{};
  std::map<std::string, Origin> origins{};  ///< by dotted key, e.g. "take.stop"
  std::vector<std::string> files{};         ///< everything that was read to make this shot

  /// "hero.shot.toml:12:8: take.mark: " for a key with a known origin, else "key: ", else nothing.
  std::string where(const std::string& key) const;
};

}  // namespace jolly_iris
