#include "jolly_iris/workflow/write_picture.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <filesystem>

#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/picture_files/picture_file.hpp"
#include "jolly_iris/workflow/comparison.hpp"
#include "jolly_iris/workflow/displayed.hpp"
#include "optics/value_text.hpp"
#include "workflow/standard_header.hpp"

namespace jolly_iris {

std::string made_with(const LoadedShot& loaded) {
  const VirtualCamera& c = loaded.answer.camera;
  std::string text =
      fmt::format("{:.4g} mm, f/{:.3g}, focus {}", c.focal.mm(), c.f_number, metres_text(c.focus));
  for (const auto& [key, origin] : loaded.shot.origins) {
    if (origin.source == Origin::Source::tried) text += fmt::format("; {} = {}", key, origin.text);
  }
  return text;
}

namespace {

std::string number(double v) { return fmt::format("{:.9g}", v); }

std::string blade_radius_text(const BladeRadius& radius) {
  switch (radius.kind) {
    case BladeRadius::Kind::straight:
      return "straight";
    case BladeRadius::Kind::multiple:
      return number(radius.times) + " x";
    case BladeRadius::Kind::length:
      break;
  }
  return number(radius.length.mm()) + " mm";
}

}  // namespace

std::map<std::string, std::string> camera_header(const LoadedShot& loaded) {
  const Answer& a = loaded.answer;
  const VirtualCamera& c = a.camera;
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
      {"jolly_iris:iris_rotation_deg", number(c.iris.rotation.degrees())},
      {"jolly_iris:blade_radius", blade_radius_text(c.iris.blade_radius)},
      {"jolly_iris:shot", std::filesystem::path(loaded.shot.file).filename().string()}};
  header["ImageDescription"] = made_with_mark + made_with(loaded);
  const Stop& stop = loaded.now.take.stop;
  if (stop.value > 0.0) {
    header["jolly_iris:take_stop"] = (stop.kind == Stop::Kind::f ? "f/" : "T") + number(stop.value);
  }
  if (a.frame) header["jolly_iris:frame"] = number(*a.frame);
  if (a.ev100) header["jolly_iris:ev100"] = number(*a.ev100);
  return header;
}

PixelSize squeezed_size_of(const LoadedShot& loaded, PixelSize desqueezed) {
  const double squeeze = loaded.now.lens.squeeze;
  if (squeeze == 1.0) {
    throw UsageError(loaded.shot.where("lens.squeeze") +
                     "the lens does not squeeze; write lens.squeeze = 2");
  }
  if (loaded.now.body.pixel_aspect != 1.0) {
    throw UsageError(fmt::format("{}the picture's pixels are {:g} times as wide as high already",
                                 loaded.shot.where("body.pixel_aspect"),
                                 loaded.now.body.pixel_aspect));
  }
  return {std::max(1, static_cast<int>(std::lround(desqueezed.width / squeeze))),
          desqueezed.height};
}

void write_for_shot(const std::string& name, const Frame& frame, const LoadedShot& loaded,
                    double pixel_aspect, const std::map<std::string, std::string>& more,
                    const std::vector<NamedPicture>& layers) {
  auto header = camera_header(loaded);
  const double aspect = pixel_aspect * loaded.now.body.pixel_aspect;
  if (aspect != 1.0) header["PixelAspectRatio"] = fmt::format("{:.9g}", aspect);
  if (frame.has_depth()) header["jolly_iris:depth"] = axial_metres;
  for (const auto& [key, value] : more) header[key] = value;
  const bool light = std::filesystem::path(name).extension() == ".exr" ||
                     std::filesystem::path(name).extension() == ".EXR";
  if (!light && !loaded.now.colour.display.empty()) {
    Frame shown = frame;
    shown.colour = displayed(std::move(shown.colour), loaded);
    return write_picture(name, shown, header);
  }
  if (light) {
    for (const auto& [key, value] : standard_header(loaded)) header.emplace(key, value);
  }
  if (layers.empty()) return write_picture(name, frame, header);
  write_layers(name, frame, layers, header);
}

}  // namespace jolly_iris
