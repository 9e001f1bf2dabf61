// What the verbs say of the files they wrote.
#pragma once

#include <map>
#include <string>
#include <vector>

#include "jolly_iris/picture.hpp"
#include "verbs.hpp"

namespace jolly_iris::cli {

/// "out/hero.shot.toml" → "hero": the name that outputs are called after.
std::string stem_of(const std::string& file);

/// The names a picture shall be written under: those given, or the usual one. Checked, so that long
/// work does not end in nothing.
std::vector<std::string> picture_names(const std::vector<std::string>& given,
                                       const std::string& usual);

/// Whether a drawing of this name is an SVG; else it is a PNG. @throws UsageError for another
/// ending
bool is_svg(const std::string& name);

/// What a picture was made with, kept in its header: "Jolly Iris: 53 mm, f/2, focus 2.350 m;
/// take.stop = f/2.8" (the last for what --set gave).
inline constexpr const char* values_mark = "Jolly Iris: ";
std::string values_of(const LoadedShot& loaded);

/// What a program that opens a picture may want to know of its camera: numbers by the names that
/// docs/report-json.md lists, and the shot.
std::map<std::string, std::string> header_of(const LoadedShot& loaded);

/// Says what a verb found or wrote, in the form that was asked for.
/// @throws UsageError for an `only` that is no key of the JSON
void say(const Form& form, const Streams& io, const std::string& json, const std::string& text);

/// Writes a frame under each name and says so. `words` says what it is, `seconds` what it took.
struct WrittenPicture {
  std::vector<std::string> names{};
  std::string words{};
  double seconds = 0.0;
  double pixel_aspect = 1.0;  ///< a pixel's width against its height
};

/// The size of a picture that is not desqueezed: narrower by the nominal squeeze.
/// @throws UsageError where the shot's lens does not squeeze, or its pixels are squeezed already
PixelSize squeezed_size(const LoadedShot& loaded, PixelSize desqueezed);

/// One of them, with the shot's camera in its header.
void write_one(const std::string& name, const Frame& frame, const LoadedShot& loaded,
               double pixel_aspect);
void write_pictures(const WrittenPicture& what, const Frame& frame, const LoadedShot& loaded,
                    const Form& form, const Streams& io);

/// "tried, not in the file: take.stop = f/4" and a line's end for what --set gave, and before it
/// what was solved from the plate; or nothing.
std::string tried_line(const Shot& shot);

/// {"written": […], numbers …, "tried": {…}} as one JSON text.
std::string written_json(const std::vector<std::string>& names,
                         const std::map<std::string, double>& numbers, const Shot* shot);

}  // namespace jolly_iris::cli
