#include "output.hpp"

#include <fmt/format.h>

#include <cmath>
#include <filesystem>
#include <nlohmann/json.hpp>
#include <ostream>

#include "jolly_iris/errors.hpp"
#include "jolly_iris/handoff.hpp"
#include "jolly_iris/picture_file.hpp"
#include "text.hpp"

namespace jolly_iris::cli {

std::string values_of(const LoadedShot& loaded) {
  const VirtualCamera& c = loaded.answer.camera;
  std::string text =
      fmt::format("{:.4g} mm, f/{:.3g}, focus {}", c.focal.mm(), c.f_number, metres(c.focus));
  for (const auto& [key, origin] : loaded.shot.origins) {
    if (origin.source == Origin::Source::tried) text += fmt::format("; {} = {}", key, origin.text);
  }
  return values_mark + text;
}

std::map<std::string, std::string> header_of(const LoadedShot& loaded) {
  const Answer& a = loaded.answer;
  const VirtualCamera& c = a.camera;
  const auto number = [](double v) { return fmt::format("{:.9g}", v); };
  std::map<std::string, std::string> header{
      {"jolly_iris:focal_mm", number(c.focal.mm())},
      {"jolly_iris:f_number", number(c.f_number)},
      {"jolly_iris:aperture_radius_mm", number(c.aperture_radius.mm())},
      {"jolly_iris:gate_mm", fmt::format("{:.9g} x {:.9g}", c.gate.width.mm(), c.gate.height.mm())},
      {"jolly_iris:picture_mm",
       fmt::format("{:.9g} x {:.9g}", c.picture.width.mm(), c.picture.height.mm())},
      {"jolly_iris:focus_m", number(c.focus.m())},
      {"jolly_iris:squeeze", number(c.squeeze)},
      {"jolly_iris:blades", fmt::format("{}", c.iris.blades)},
      {"jolly_iris:shot", std::filesystem::path(loaded.shot.file).filename().string()}};
  header["ImageDescription"] = values_of(loaded);
  if (a.frame) header["jolly_iris:frame"] = number(*a.frame);
  if (a.ev100) header["jolly_iris:ev100"] = number(*a.ev100);
  return header;
}

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

bool is_svg(const std::string& name) {
  const std::string ending = std::filesystem::path(name).extension().string();
  if (ending != ".svg" && ending != ".png") {
    throw UsageError(name + ": a drawing's name ends in .png or .svg; this one does not");
  }
  return ending == ".svg";
}

void say(const Form& form, const Streams& io, const std::string& json, const std::string& text) {
  if (!form.only.empty())
    io.out << json_value(json, form.only) << '\n';
  else
    io.out << (form.json ? json : text);
}

std::string tried_line(const Shot& shot) {
  const auto listed = [&](Origin::Source source, const std::string& head) {
    std::string list;
    for (const auto& [key, origin] : shot.origins) {
      if (origin.source != source) continue;
      list += fmt::format("{}{} = {}", list.empty() ? head : ", ", key, origin.text);
    }
    return list;
  };
  std::string text;
  if (!shot.solved.empty()) {
    text += wrapped(listed(Origin::Source::solved,
                           fmt::format("solved from the plate ({}), not noted: ",
                                       std::filesystem::path(shot.solved).filename().string())),
                    "", "  ");
  }
  if (!shot.solved_left.empty()) text += wrapped(shot.solved_left, "", "  ");
  const std::string tried = listed(Origin::Source::tried, "tried, not in the file: ");
  return tried.empty() ? text : text + tried + '\n';
}

std::string written_json(const std::vector<std::string>& names,
                         const std::map<std::string, double>& numbers, const Shot* shot) {
  nlohmann::ordered_json j{{"written", names}};
  for (const auto& [key, value] : numbers) j[key] = value;
  for (const auto& [key, origin] :
       shot == nullptr ? std::map<std::string, Origin>{} : shot->origins) {
    if (origin.source == Origin::Source::tried) j["tried"][key] = origin.text;
    if (origin.source == Origin::Source::solved) j["solved"][key] = origin.text;
  }
  return j.dump(2, ' ', false, nlohmann::json::error_handler_t::replace) + "\n";
}

PixelSize squeezed_size(const LoadedShot& loaded, PixelSize desqueezed) {
  const double squeeze = loaded.now.lens.squeeze;
  if (squeeze == 1.0) {
    throw UsageError(loaded.shot.where("lens.squeeze") +
                     "--squeezed: the lens does not squeeze; write lens.squeeze = 2");
  }
  if (loaded.now.body.pixel_aspect != 1.0) {
    throw UsageError(
        fmt::format("{}--squeezed: the picture's pixels are {:g} times as wide as high already",
                    loaded.shot.where("body.pixel_aspect"), loaded.now.body.pixel_aspect));
  }
  return {std::max(1, static_cast<int>(std::lround(desqueezed.width / squeeze))),
          desqueezed.height};
}

void write_one(const std::string& name, const Frame& frame, const LoadedShot& loaded,
               double pixel_aspect) {
  auto header = header_of(loaded);
  const double aspect = pixel_aspect * loaded.now.body.pixel_aspect;
  if (aspect != 1.0) header["PixelAspectRatio"] = fmt::format("{:.9g}", aspect);
  write_picture(name, frame, header);
}

void write_pictures(const WrittenPicture& what, const Frame& frame, const LoadedShot& loaded,
                    const Form& form, const Streams& io) {
  const PixelSize size = frame.colour.size();
  std::string text = tried_line(loaded.shot);
  for (const std::string& name : what.names) {
    write_one(name, frame, loaded, what.pixel_aspect);
    text += fmt::format("{:<28} {} x {}, {}, {:.1f} s\n", name, size.width, size.height, what.words,
                        what.seconds);
  }
  const std::map<std::string, double> numbers{
      {"seconds", what.seconds}, {"width", size.width}, {"height", size.height}};
  say(form, io, written_json(what.names, numbers, &loaded.shot), text);
}

}  // namespace jolly_iris::cli
