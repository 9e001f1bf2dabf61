// In which form a verb says what it found, and what it says of the files it wrote.
#pragma once

#include <map>
#include <string>
#include <vector>

#include "cli/verbs/verb.hpp"
#include "disk/json.hpp"
#include "jolly_iris/picture_files/picture_file.hpp"
#include "jolly_iris/workflow/load.hpp"

namespace jolly_iris::cli {

/// Text for people, JSON, or one value of it.
struct Form {
  bool json = false;
  std::string only{};
  bool for_people() const { return !json && only.empty(); }
};

/// The JSON has what was noted on the way besides, under "notes" (empty: nothing was).
/// @param indent of the JSON
/// @throws UsageError for an `only` that is no key of the JSON
void say(const Form& form, const Terminal& io, const Json& json, const std::string& text,
         int indent = 2);

/// Says that an output is going to be written, so that long work does not end in nothing; nothing
/// for no name. @throws UsageError for an ending that is none of its kind, FileError for what
/// cannot be written, that this run reads, or that is another output
void claim_picture(const std::string& name);
void claim_drawing(const std::string& name);
/// @param what "a page", @param ending ".html"; an empty one is any
void claim_file(const std::string& name, const std::string& what, const std::string& ending);

/// The names a picture shall be written under: those given, or the usual one; claimed.
std::vector<std::string> picture_names(const std::vector<std::string>& given,
                                       const std::string& usual);

/// Whether a drawing of this name is an SVG; else it is a PNG.
bool is_svg(const std::string& name);

/// One picture that long work made: `words` says what it is, `seconds` what it took.
struct MadePicture {
  std::vector<std::string> names{};
  std::string words{};
  double seconds = 0.0;
  double pixel_aspect = 1.0;                    ///< a pixel's width against its height
  std::map<std::string, std::string> header{};  ///< what else its header says
  std::vector<NamedPicture> layers{};           ///< besides, of an EXR
};

/// What reading a picture decided or doubts.
void tell_notes(const std::vector<std::string>& notes, const Terminal& io);

/// Writes it under each name and says so.
void write_and_say(const MadePicture& what, const Frame& frame, const LoadedShot& loaded,
                   const Form& form, const Terminal& io);

}  // namespace jolly_iris::cli
