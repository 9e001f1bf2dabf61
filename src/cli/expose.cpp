#include "expose.hpp"

#include <fmt/format.h>

#include <filesystem>
#include <nlohmann/json.hpp>

#include "jolly_iris/disk.hpp"
#include "jolly_iris/errors.hpp"
#include "jolly_iris/picture_file.hpp"
#include "output.hpp"
#include "progress.hpp"
#include "text.hpp"

namespace jolly_iris::cli {

namespace {

using Json = nlohmann::ordered_json;

std::string listed(const std::vector<std::string>& sentences) {
  std::string text;
  for (const std::string& s : sentences) text += (text.empty() ? "" : "; ") + s;
  return text.empty() ? "left as it is" : text;
}

void expose_one(const ExposeOptions& options, const LoadedShot& loaded, const Streams& io,
                std::vector<std::string>& files) {
  std::vector<std::string> names;
  if (options.apply) {
    names = picture_names(options.out, stem_of(options.picture) + ".expose.exr");
  }
  if (!options.sheet.empty()) (void)is_svg(options.sheet);
  Frame frame = read_shots_picture(options.picture, options.coding, loaded, files);
  const Look look = look_at(frame, options.picture, options, loaded, files);
  std::string text = tried_line(loaded.shot) + look_text(look, loaded);
  Json json = Json::parse(look_json(look));
  std::vector<std::string> written;
  if (!options.sheet.empty()) {
    const ExposureSheet sheet = sheet_of(look, frame, loaded);
    write_whole_file(options.sheet,
                     is_svg(options.sheet) ? exposure_svg(sheet) : exposure_png(sheet));
    written.push_back(options.sheet);
    text += fmt::format("\n{:<28} 1280 x 800, picture, map of stops, histogram\n", options.sheet);
  }
  if (options.apply) {
    apply(look, options, loaded, frame.colour);
    text += '\n';
    for (const std::string& name : names) {
      write_picture(name, frame, header_of(loaded));
      written.push_back(name);
      text += wrapped(listed(look.applied), fmt::format("{:<28} ", name), std::string(29, ' '));
    }
    json["applied"] = look.applied;
  }
  json["written"] = written;
  say(options.shot.form, io, json.dump(2, ' ', false, Json::error_handler_t::replace) + "\n", text);
}

}  // namespace

void expose(const ExposeOptions& options, const Streams& io, std::vector<std::string>& files) {
  LoadedShot loaded = load(options.shot, files);
  if (options.frames.asked) {
    expose_frames(options, loaded, io, files);
  } else if (!options.picture.empty()) {
    expose_one(options, loaded, io, files);
  } else {
    const auto [text, json] = take_said(options, loaded, files);
    say(options.shot.form, io, json, text);
  }
}

}  // namespace jolly_iris::cli
