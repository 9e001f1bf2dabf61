// Reading shot files (TOML; see docs/shot-file.md). A file is read whole: all its mistakes are told
// in one go, each with file, line, column, key, what was read and what would be right.
#pragma once

#include <filesystem>
#include <string>
#include <vector>

#include "jolly_iris/export.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/optics/plate_facts.hpp"
#include "jolly_iris/optics/shot.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// A value given for this one run: `take.stop` = `f/2.8`. Subjects go by name: `subject.boat.at`.
/// The key `variant` chooses one of the file's variants, laid over it before all else.
struct Override {
  std::string key{};
  std::string text{};
  std::string place = "tried";  ///< where it was given, for messages: the option, the field
};

/// One mistake in a file.
struct FileMistake {
  std::string place{};    ///< "hero.shot.toml:12:8"
  std::string key{};      ///< "take.mark"
  std::string message{};  ///< what was read and what would be right
};

/// A file that is no text, so no shot file: a picture, perhaps, that one can be begun from.
class NoShotError : public FileError {
 public:
  using FileError::FileError;
};

/// What a shot file has wrong. `what()` has one line a mistake.
class ShotFileError : public UsageError {
 public:
  explicit ShotFileError(std::vector<FileMistake> mistakes);
  const std::vector<FileMistake>& mistakes() const { return mistakes_; }

 private:
  std::vector<FileMistake> mistakes_;
};

/// Whether values that match solved (see solved_file.hpp) lead over the notes.
enum class Solved { laid_over, left_out };

/// Reads a shot and the body and lens files it names. File names inside are relative to the file
/// they stand in.
/// @throws FileError for a file that is missing
/// @throws ShotFileError for everything that is wrong in them
/// @throws OpticsError for a projection that is out of scope (fisheye, panorama, …)
Shot read_shot(const std::filesystem::path& path, const std::vector<Override>& tried = {},
               Solved solved = Solved::laid_over);

/// Reads a body file by itself. @throws as read_shot
Body read_body_file(const std::filesystem::path& path);

}  // namespace jolly_iris
