#include <fmt/format.h>

#include <cmath>
#include <functional>

#include "jolly_iris/files/usda.hpp"
#include "jolly_iris/optics/errors.hpp"

namespace jolly_iris {

namespace {

// A prim's name has letters, digits and underscores, and no digit first.
std::string prim_name(const std::string& name) {
  std::string out;
  for (const char c : name) {
    const bool letter = (c >= 'a' && c <= 'z') || (c >= 'A' && c <= 'Z') || c == '_';
    const bool digit = c >= '0' && c <= '9';
    if (out.empty() && digit) out += '_';
    out += letter || digit ? c : '_';
  }
  return out.empty() ? "camera" : out;
}

std::string number(double v) { return fmt::format("{:.9g}", v); }

// Rows act on row vectors, so our columns are its rows; lengths in the stage's units.
std::string matrix_text(const Answer& a) {
  std::string rows;
  for (std::size_t row = 0; row < 4; ++row) {
    const Vec3 v = row < 3 ? a.place.linear.column(row) : a.place.translation / a.unit.m();
    rows += fmt::format("{}({}, {}, {}, {})", row == 0 ? "" : ", ", number(v.x), number(v.y),
                        number(v.z), number(row < 3 ? 0.0 : 1.0));
  }
  return "( " + rows + " )";
}

class Writer {
 public:
  explicit Writer(const std::vector<Answer>& frames) : frames_(frames) {}

  // An attribute: one value where nothing changes, else a sample a frame.
  void attribute(const std::string& type, const std::string& name,
                 const std::function<std::string(const Answer&)>& text) {
    const std::string first = text(frames_.front());
    bool changes = false;
    for (const Answer& a : frames_) changes = changes || text(a) != first;
    out += fmt::format("    {} {} = {}\n", type, name, first);
    if (!changes) return;
    out += fmt::format("    {} {}.timeSamples = {{\n", type, name);
    for (const Answer& a : frames_) {
      out += fmt::format("        {}: {},\n", number(a.frame.value_or(0.0)), text(a));
    }
    out += "    }\n";
  }

  std::string out{};

 private:
  const std::vector<Answer>& frames_;
};

}  // namespace

std::string camera_usda(const std::vector<Answer>& frames, const std::string& name,
                        std::optional<double> fps) {
  if (frames.empty()) throw UsageError("a camera without a single frame cannot be written");
  const std::string prim = prim_name(name);
  Writer w(frames);
  w.out = fmt::format(
      "#usda 1.0\n(\n    defaultPrim = \"{}\"\n    metersPerUnit = {}\n    upAxis "
      "= \"Y\"\n",
      prim, number(frames.front().unit.m()));
  if (frames.size() > 1) {
    w.out += fmt::format(
        "    startTimeCode = {}\n    endTimeCode = {}\n    timeCodesPerSecond = "
        "{}\n",
        number(frames.front().frame.value_or(0.0)), number(frames.back().frame.value_or(0.0)),
        number(fps.value_or(24.0)));
  }
  w.out += fmt::format(")\n\ndef Camera \"{}\"\n{{\n", prim);
  // The schema counts these in tenths of a scene unit.
  const auto tenths = [](Length l, const Answer& a) { return number(10.0 * (l / a.unit)); };
  using A = const Answer&;
  w.attribute("token", "projection", [](A) { return std::string("\"perspective\""); });
  w.attribute("float", "focalLength", [&](A a) { return tenths(a.camera.focal, a); });
  w.attribute("float", "horizontalAperture",
              [&](A a) { return tenths(a.camera.picture.width, a); });
  w.attribute("float", "verticalAperture", [&](A a) { return tenths(a.camera.picture.height, a); });
  w.attribute("float", "horizontalApertureOffset",
              [&](A a) { return tenths(a.camera.shift_right, a); });
  w.attribute("float", "verticalApertureOffset", [&](A a) { return tenths(a.camera.shift_up, a); });
  w.attribute("float", "fStop", [](A a) { return number(a.camera.f_number); });
  w.attribute("float", "focusDistance", [](A a) {
    // 0 means "no focus distance" to the schema; infinity is written as very far.
    return number(a.camera.focus.is_infinite() ? 1e8 : a.camera.focus / a.unit);
  });
  w.attribute("float2", "clippingRange", [](A a) {
    return fmt::format("({}, {})", number(Length::from_m(0.01) / a.unit),
                       number(Length::from_m(1e5) / a.unit));
  });
  if (frames.front().shutter && fps) {
    const auto open = [&](A a) {  // a share of the frame
      return a.shutter.value_or(Duration{}).seconds() * *fps;
    };
    w.attribute("double", "shutter:open", [&](A a) { return number(-open(a) / 2.0); });
    w.attribute("double", "shutter:close", [&](A a) { return number(open(a) / 2.0); });
  }
  if (frames.front().light == SceneLight::candela && frames.front().value_per_candela) {
    // Stops; 0 changes nothing to the schema.
    w.attribute("float", "exposure",
                [](A a) { return number(std::log2(a.value_per_candela.value_or(1.0))); });
  }
  w.attribute("matrix4d", "xformOp:transform", matrix_text);
  w.out += "    uniform token[] xformOpOrder = [\"xformOp:transform\"]\n}\n";
  const auto aspect = [](A a) { return a.camera.pixel_pitch_x() / a.camera.pixel_pitch(); };
  bool square = true;
  for (const Answer& a : frames) square = square && std::abs(aspect(a) - 1.0) < 1e-6;
  if (!square) {
    // The camera's aperture has the shape of what the picture shows, not of its pixels: the
    // schema's render settings say so (UsdRender).
    const PixelSize& px = frames.front().camera.pixels;
    w.out += fmt::format("\ndef RenderSettings \"{}_settings\"\n{{\n    rel camera = </{}>\n", prim,
                         prim);
    w.out += fmt::format("    uniform int2 resolution = ({}, {})\n", px.width, px.height);
    w.attribute("float", "pixelAspectRatio", [&](A a) { return number(aspect(a)); });
    w.out += "}\n";
  }
  return w.out;
}

}  // namespace jolly_iris
