// The sections of a shot file, read one by one out of its tree.
#pragma once

#include <string>
#include <vector>

#include "jolly_iris/optics/shot.hpp"
#include "shot_reader.hpp"

namespace jolly_iris {

/// Everything that stands still: unit, body, lens, take, focus, subjects, files.
/// @param file the shot file, for names of other files in it
void read_sections(ShotReader& in, const std::string& file, Shot& shot);

/// [body].
void read_body(ShotReader& in, Body& body);

/// What light does within the lens: [lens.iris], [[lens.barrel]], [[lens.loss]], [lens.faults],
/// [[lens.colouring]].
/// @param file the shot file, for names of other files in it
void read_opening(ShotReader& in, const std::string& file, Lens& lens);

/// [finish].
void read_finish(ShotReader& in, const std::string& file, Finish& finish);

/// [[subject]].
void read_subjects(ShotReader& in, std::vector<SubjectEntry>& subjects);

/// [[plate.line]], [[plate.circle]], [[plate.lamp]], [[plate.grey]], [[plate.box]].
/// @param pixels of the delivered picture, which all places must be within; 0 × 0: not known
PlateMarks read_marks(ShotReader& in, PixelSize pixels);

/// [focus], or one [[pull]]: `base` is its prefix without the dot.
void read_focus(ShotReader& in, const std::string& base, Focus& focus);

/// What changes over frames: [frames], [over…], [[pull]]. After read_sections.
void read_moves(ShotReader& in, Shot& shot);

/// The file that a value stands in: "tansy.body.toml:3:8" → "tansy.body.toml".
std::string file_of(const TomlValue& value, const std::string& otherwise);

/// The path of a file named in another file.
std::string beside(const std::string& file, const std::string& name);

}  // namespace jolly_iris
