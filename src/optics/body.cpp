#include "jolly_iris/optics/body.hpp"

#include <fmt/format.h>

#include "jolly_iris/optics/errors.hpp"
#include "optics/enum_name.hpp"

namespace jolly_iris {

std::string_view to_string(FitMode keeps) {
  return name_of<FitMode::no_bars>(keeps, {"gate width", "gate height", "whole gate", "no bars"});
}

std::string_view to_string(Anchor anchor) {
  return anchor == Anchor::saturation ? "saturation" : "grey";
}

Extent recorded_gate(const Body& body) {
  if (!body.window) return body.gate;
  if (!body.photosites) {
    throw OpticsError(
        "a window says which photosites were recorded, but not of how many; give body.photosites "
        "= \"5240 x 2956\", all of them across the gate",
        "body.window");
  }
  const PixelSize& all = *body.photosites;
  const PixelSize& read = *body.window;
  if (read.width > all.width || read.height > all.height) {
    throw OpticsError(fmt::format("the window of {} x {} is larger than all photosites, {} x {}",
                                  read.width, read.height, all.width, all.height),
                      "body.window");
  }
  return {body.gate.width * (static_cast<double>(read.width) / all.width),
          body.gate.height * (static_cast<double>(read.height) / all.height)};
}

double picture_shape(const Body& body) {
  return body.pixels.width * body.pixel_aspect / body.pixels.height;
}

Extent shown_by_picture(const Body& body, const Extent& gate) {
  const double shape = picture_shape(body);
  const Extent by_width{gate.width, gate.width / shape};
  const Extent by_height{gate.height * shape, gate.height};
  const bool wider_than_gate = shape > gate.width / gate.height;
  switch (body.keeps) {
    case FitMode::gate_height:
      return by_height;
    case FitMode::whole_gate:
      return wider_than_gate ? by_height : by_width;
    case FitMode::no_bars:
      return wider_than_gate ? by_width : by_height;
    case FitMode::gate_width:
      break;
  }
  return by_width;
}

}  // namespace jolly_iris
