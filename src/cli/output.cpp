#include "output.hpp"

#include <fmt/format.h>

#include <filesystem>
#include <nlohmann/json.hpp>
#include <ostream>

#include "jolly_iris/handoff.hpp"
#include "jolly_iris/picture_file.hpp"

namespace jolly_iris::cli {

namespace {

// What a program that opens the picture may want to know of its camera.
std::map<std::string, std::string> attributes_of(const LoadedShot& loaded) {
  const VirtualCamera& c = loaded.answer.camera;
  return {{"jolly_iris:focal_mm", fmt::format("{:.6g}", c.focal.mm())},
          {"jolly_iris:f_number", fmt::format("{:.6g}", c.f_number)},
          {"jolly_iris:focus_m", fmt::format("{:.6g}", c.focus.m())},
          {"jolly_iris:shot", std::filesystem::path(loaded.shot.file).filename().string()}};
}

}  // namespace

std::string stem_of(const std::string& file) {
  std::string name = std::filesystem::path(file).filename().string();
  for (const char* ending : {".toml", ".shot", ".exr", ".png", ".jpg", ".jpeg", ".tif", ".tiff"}) {
    const std::string_view e(ending);
    if (name.size() > e.size() && name.ends_with(e)) name.resize(name.size() - e.size());
  }
  return name;
}

std::vector<std::string> picture_names(const std::vector<std::string>& given,
                                       const std::string& usual) {
  const std::vector<std::string> names = given.empty() ? std::vector{usual} : given;
  for (const std::string& name : names) check_picture_name(name);
  return names;
}

void say(const Form& form, const Streams& io, const std::string& json, const std::string& text) {
  if (!form.only.empty())
    io.out << json_value(json, form.only) << '\n';
  else
    io.out << (form.json ? json : text);
}

std::string tried_line(const Shot& shot) {
  std::string list;
  for (const auto& [key, origin] : shot.origins) {
    if (origin.source != Origin::Source::tried) continue;
    list += fmt::format("{}{} = {}", list.empty() ? "tried, not in the file: " : ", ", key,
                        origin.text);
  }
  return list.empty() ? list : list + '\n';
}

std::string written_json(const std::vector<std::string>& names,
                         const std::map<std::string, double>& numbers, const Shot* shot) {
  nlohmann::ordered_json j{{"written", names}};
  for (const auto& [key, value] : numbers) j[key] = value;
  for (const auto& [key, origin] :
       shot == nullptr ? std::map<std::string, Origin>{} : shot->origins) {
    if (origin.source == Origin::Source::tried) j["tried"][key] = origin.text;
  }
  return j.dump(2, ' ', false, nlohmann::json::error_handler_t::replace) + "\n";
}

void write_pictures(const WrittenPicture& what, const Frame& frame, const LoadedShot& loaded,
                    const Form& form, const Streams& io) {
  const PixelSize size = frame.colour.size();
  std::string text = tried_line(loaded.shot);
  for (const std::string& name : what.names) {
    write_picture(name, frame, attributes_of(loaded));
    text += fmt::format("{:<28} {} x {}, {}, {:.1f} s\n", name, size.width, size.height, what.words,
                        what.seconds);
  }
  const std::map<std::string, double> numbers{
      {"seconds", what.seconds}, {"width", size.width}, {"height", size.height}};
  say(form, io, written_json(what.names, numbers, &loaded.shot), text);
}

}  // namespace jolly_iris::cli
