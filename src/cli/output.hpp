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

/// Writes a frame under each name and says so. `words` says what it is, `seconds` what it took.
struct WrittenPicture {
  std::vector<std::string> names{};
  std::string words{};
  double seconds = 0.0;
};
void write_pictures(const WrittenPicture& what, const Frame& frame, const Loaded& loaded, bool json,
                    const Streams& io);

/// "tried: take.stop = f/4" for every value that --set gave, or nothing.
std::string tried_line(const Shot& shot);

/// {"written": […], …} as one JSON text.
std::string written_json(const std::vector<std::string>& names,
                         const std::map<std::string, double>& numbers);

}  // namespace jolly_iris::cli
