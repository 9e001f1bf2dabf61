// A shot: body + lens + take + scene + plate + focus, as one value that knows where each part of it
// came from. Files are read into it by shot_file.hpp.
#pragma once

#include <array>
#include <map>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "jolly_iris/camera.hpp"
#include "jolly_iris/sharpness.hpp"

namespace jolly_iris {

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

/// What the camera focuses on: exactly one of these, or nothing (then the take's mark counts).
struct Focus {
  std::optional<std::string> on{};  ///< a subject's name
  std::optional<Length> at{};       ///< axial from the entrance pupil; may be infinite
  std::optional<Length> mark{};     ///< as a barrel would show it, from the sensor plane
};

/// A subject that the shot file itself describes. One of `at` and `place` is given.
struct SubjectEntry {
  std::string name{};
  std::optional<Length> at{};                    ///< axial from the entrance pupil
  std::optional<std::array<double, 3>> place{};  ///< in the artist's units, +Y up, world space
  std::optional<Length> size{};
};

/// A scene file, and which of its cameras took the picture (none: its only one).
struct SceneEntry {
  std::string file{};  ///< resolved against the shot file's folder
  std::optional<std::string> camera{};
};

/// How a picture file's numbers stand for light.
enum class Transfer { linear, srgb, rec709 };

/// The plate, and how its numbers stand for light.
struct PlateEntry {
  std::string file{};
  std::optional<Transfer> transfer{};
};

struct Shot {
  std::string file{};
  Length unit = Length::from_m(1.0);  ///< one unit of the artist's own scene
  Criterion criterion{};
  Body body{};
  Lens lens{};
  Take take{};
  Focus focus{};
  std::vector<SubjectEntry> subjects{};
  std::optional<SceneEntry> scene{};
  std::optional<PlateEntry> plate{};
  std::map<std::string, Origin> origins{};  ///< by dotted key, e.g. "take.stop"
  std::vector<std::string> files{};         ///< everything that was read to make this shot

  /// "hero.shot.toml:12:8: take.mark: " for a key with a known origin, else "key: ", else nothing.
  std::string where(const std::string& key) const;
};

}  // namespace jolly_iris
