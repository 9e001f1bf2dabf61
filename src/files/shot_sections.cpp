#include "shot_sections.hpp"
#include "lens_glass.hpp"

#include <fmt/format.h>

#include <array>
#include <cmath>
#include <filesystem>
#include <limits>

#include "jolly_iris/optics/quantity.hpp"
#include "jolly_iris/optics/range.hpp"
#include "jolly_iris/optics/white.hpp"

namespace jolly_iris {

namespace {

std::string positive_extent(const Extent& e) {
  if (!(e.width.mm() > 0.0 && e.height.mm() > 0.0)) {
    return "has a side that is not above zero; write e.g. 25.9 x 14.6 mm";
  }
  return range::gate_mm.holds(e.width.mm()) && range::gate_mm.holds(e.height.mm())
             ? ""
             : "is no gate: sides are " + words_of(range::gate_mm, "mm");
}

// What focal lengths are.
std::string a_focal(const Length& l) {
  if (!(l.mm() > 0.0)) return above_zero(l);
  return range::focal_mm.holds(l.mm())
             ? ""
             : "is no focal length: they are " + words_of(range::focal_mm, "mm");
}

std::string a_shift(const Length& l) {
  return range::shift_mm.holds(l.mm())
             ? ""
             : "is too far: lenses move " + words_of(range::shift_mm, "mm");
}

Length parse_unit(std::string_view text) {
  // "cm" is how people say it; "0.353 mm" is for scenes that count in something odd.
  try {
    return parse_length(fmt::format("1 {}", text));
  } catch (const QuantityError&) {
    return parse_length(text);
  }
}

void read_name_and_file(ShotReader& in, const std::string& section, std::string& name) {
  in.text(section);
  in.text(section + ".file");
  if (const auto v = in.text(section + ".name")) name = *v;
}

void read_projection(ShotReader& in) {
  const std::string key = "lens.projection";
  const auto v = in.choice<bool>(key, {{"rectilinear", true},
                                       {"fisheye", false},
                                       {"panorama", false},
                                       {"orthographic", false},
                                       {"stereo pair", false}});
  if (v && !*v) {
    const TomlValue& value = in.tree().at(key);
    throw OpticsError(
        fmt::format("{}: {}: a {} camera is out of scope: blur and framing are computed for one "
                    "rectilinear lens",
                    value.place, key, value.text),
        key);
  }
}

void read_attachments(ShotReader& in, Lens& lens) {
  lens.zoom = in.quantity<ZoomRange>("lens.zoom", parse_zoom);
  if (const auto v = in.number("lens.converter", range::adapter, "a factor",
                               "write e.g. 1.4 for a tele converter")) {
    lens.converter = *v;
  }
  const std::function<std::string(const Power&)> not_below = [](const Power& p) {
    return p.dioptres() >= 0.0 ? "" : "is below zero; a close-up attachment has 0 dioptres or more";
  };
  if (const auto v = in.quantity<Power>("lens.close_up", parse_power, not_below)) {
    lens.close_up = *v;
  }
  lens.close_focus = in.quantity<Length>("lens.close_focus", parse_length, above_zero);
  if (const auto v = in.quantity<Length>("lens.shift_right", parse_length, a_shift))
    lens.shift_right = *v;
  if (const auto v = in.quantity<Length>("lens.shift_up", parse_length, a_shift))
    lens.shift_up = *v;
}

// Measured tables: one table of TOML a row, from near to far.
void read_tables(ShotReader& in, Lens& lens) {
  for (std::size_t i = 0; in.has_section(fmt::format("lens.breathing[{}].", i)); ++i) {
    const std::string base = fmt::format("lens.breathing[{}]", i);
    BreathingPoint point;
    in.require(base + ".mark", "mark = \"0.6 m\"");
    if (const auto v = in.quantity<Length>(base + ".mark", parse_distance, above_zero)) {
      point.mark = *v;
    }
    point.focal = in.quantity<Length>(base + ".focal", parse_length, a_focal);
    point.field = in.quantity<Angle>(base + ".field", parse_angle);
    if (in.has(base + ".focal") == in.has(base + ".field")) {
      in.mistake(base + ".mark",
                 "this row of the breathing needs one of focal = \"61 mm\" (the focal length that "
                 "it frames like) and field = \"22 deg\" (horizontal)");
    }
    lens.breathing.push_back(point);
  }
  lens.breathing_at = in.quantity<Length>("lens.breathing_at", parse_length, above_zero);
  if (lens.zoom && !lens.breathing.empty() && !in.has("lens.breathing_at")) {
    in.mistake("lens.zoom",
               "a zoom's breathing was measured at one focal length; say at which: "
               "breathing_at = \"83 mm\"");
  }
  for (std::size_t i = 0; in.has_section(fmt::format("lens.squeezes[{}].", i)); ++i) {
    const std::string base = fmt::format("lens.squeezes[{}]", i);
    SqueezePoint point;
    in.require(base + ".mark", "mark = \"1 m\"");
    in.require(base + ".squeeze", "squeeze = 1.87");
    if (const auto v = in.quantity<Length>(base + ".mark", parse_distance, above_zero)) {
      point.mark = *v;
    }
    if (const auto v = in.number(base + ".squeeze", range::squeeze, "a squeeze", "1 is none")) {
      point.squeeze = *v;
    }
    lens.squeezes.push_back(point);
  }
}

void read_distortion(ShotReader& in, Distortion& distortion) {
  const std::string base = "lens.distortion.";
  const std::string wanted = "a coefficient within ±100 (0.03 draws corners in by about 3 %)";
  for (std::size_t i = 0; i < 3; ++i) {
    if (const auto v = in.number(fmt::format("{}k{}", base, i + 1), -100.0, 100.0, wanted)) {
      distortion.k[i] = *v;
    }
  }
  for (std::size_t i = 0; i < 2; ++i) {
    if (const auto v = in.number(fmt::format("{}p{}", base, i + 1), -1.0, 1.0,
                                 "a decentring within ±1; real lenses stay under 0.01")) {
      distortion.p[i] = *v;
    }
  }
  if (const auto v = in.numbers(base + "wide", 1, 3,
                                "a list of one to three coefficients, k1 to k3 across; write e.g. "
                                "[0.05, -0.01]")) {
    distortion.width.emplace();
    for (std::size_t i = 0; i < v->size(); ++i) (*distortion.width)[i] = (*v)[i];
  }
  distortion.radius = in.quantity<Length>(base + "radius", parse_length, above_zero);
  if (in.has(base + "radius") && !distortion.any()) {
    in.mistake(base + "radius", "says what r = 1 is, but there is no coefficient; write k1 = 0.03");
  }
}

void read_lens(ShotReader& in, const std::string& file, Lens& lens) {
  read_name_and_file(in, "lens", lens.name);
  in.text("lens.look");  // laid over the lens's file already
  if (!in.has("lens.glass")) in.require("lens.focal", "focal = \"53 mm\"");
  if (const auto v = in.quantity<Length>("lens.focal", parse_length, a_focal)) lens.focal = *v;
  const std::string fraction = "a share of the light, more than 0 and at most 1";
  if (const auto v =
          in.number("lens.adapter", range::adapter, "a factor", "write e.g. 0.76 for a reducer")) {
    lens.adapter = *v;
  }
  if (const auto v = in.number("lens.adapter_transmission", smallest_above_zero, 1.0, fraction)) {
    lens.adapter_transmission = *v;
  }
  lens.transmission = in.number("lens.transmission", smallest_above_zero, 1.0, fraction);
  if (const auto v = in.number("lens.squeeze", range::squeeze, "a squeeze", "1 is none")) {
    lens.squeeze = *v;
  }
  if (const auto v = in.choice<SqueezeAt>(
          "lens.squeeze_at", {{"front", SqueezeAt::front}, {"rear", SqueezeAt::rear}})) {
    lens.squeeze_at = *v;
  }
  lens.pupil = in.quantity<Length>("lens.pupil", parse_length, a_shift);
  read_attachments(in, lens);
  read_tables(in, lens);
  read_distortion(in, lens.distortion);
  read_projection(in);
  lens.widest = in.quantity<Stop>("lens.widest", parse_stop);
  read_opening(in, file, lens);
  read_lens_glass(in, file, lens);
}

void read_white(ShotReader& in, Take& take) {
  const std::function<std::string(const Temperature&)> within = [](const Temperature& t) {
    return t.kelvin() >= warmest_white_K && t.kelvin() <= coolest_white_K
               ? ""
               : "is no white; whites go from 1000 K to 25000 K";
  };
  const auto white = in.quantity<Temperature>("take.white", parse_temperature, within);
  const auto tint = in.number("take.tint", -max_tint, max_tint,
                              "a tint within ±0.05: the distance from the white locus in CIE 1960 "
                              "uv, + greener");
  if (white) take.white = White{*white, tint.value_or(0.0)};
  if (in.has("take.tint") && !in.has("take.white")) {
    in.mistake("take.tint", "needs the temperature that it belongs to: white = \"5600 K\"");
  }
}

void read_take(ShotReader& in, Take& take) {
  in.require("take.stop", "stop = \"f/2\" or \"T2.1\"");
  if (const auto v = in.quantity<Stop>("take.stop", parse_stop)) take.stop = *v;
  take.mark = in.quantity<Length>("take.mark", parse_distance, above_zero);
  take.iso = in.number("take.iso", range::iso, "an ISO above zero,", "write e.g. 800");
  take.shutter = in.quantity<Shutter>("take.shutter", parse_shutter);
  take.fps = in.number("take.fps", range::fps, "a frame rate above zero,", "write e.g. 24");
  if (const auto v = in.quantity<double>("take.nd", parse_density)) take.nd_stops = *v;
  take.ev = in.number("take.ev", -50.0, 50.0, "an exposure value at ISO 100; write e.g. 9.5");
  read_white(in, take);
  take.height = in.quantity<Length>("take.height", parse_length);
  take.tilt = in.quantity<Angle>("take.tilt", parse_angle);
}

void read_points(ShotReader& in, const std::string& file, SceneEntry& entry) {
  if (const auto v = in.text("scene.points")) entry.points = beside(file, *v);
  if (const auto v = in.quantity<Length>("scene.point_size", parse_length, above_zero)) {
    entry.point_size = *v;
  }
  if (const auto v = in.choice<bool>("scene.points_up", {{"y", false}, {"z", true}})) {
    entry.points_z_up = *v;
  }
  for (const char* key : {"scene.point_size", "scene.points_up"}) {
    if (in.has(key) && !in.has("scene.points")) {
      in.mistake(key, "is about a cloud of points; write scene.points = \"scan.ply\"");
    }
  }
}

void read_scene(ShotReader& in, const std::string& file, Shot& shot) {
  const auto scene = in.text("scene.file");
  SceneEntry entry;
  entry.camera = in.text("scene.camera");
  entry.aim = in.text("scene.aim");
  if (const auto v = in.number("scene.scale", range::factor, "a factor above zero,",
                               "0.01 makes the scene a hundred times smaller")) {
    entry.scale = *v;
  }
  if (const auto v = in.choice<CameraOrigin>("scene.origin", {{"pupil", CameraOrigin::pupil},
                                                              {"sensor", CameraOrigin::sensor},
                                                              {"mount", CameraOrigin::mount}})) {
    entry.origin = *v;
  }
  if (const auto v = in.quantity<Length>("scene.back", parse_length)) entry.back = *v;
  if (const auto v = in.quantity<Length>("scene.right", parse_length)) entry.right = *v;
  if (const auto v = in.quantity<Length>("scene.up", parse_length)) entry.up = *v;
  if (const auto v = in.text("scene.around")) entry.around = *v;
  if (const auto v = in.quantity<Angle>("scene.orbit", parse_angle)) entry.orbit = *v;
  if (const auto v = in.quantity<Angle>("scene.orbit_up", parse_angle)) entry.orbit_up = *v;
  const bool orbits = entry.orbit != Angle{} || entry.orbit_up != Angle{};
  if (orbits && entry.around.empty()) {
    in.mistake(
        entry.orbit != Angle{} ? "scene.orbit" : "scene.orbit_up",
        "goes around something: write scene.around = a subject, or a distance along the view");
  }
  if (const auto v = in.choice<SceneLight>(
          "scene.light", {{"cd/m2", SceneLight::candela}, {"unscaled", SceneLight::unscaled}})) {
    shot.light = *v;
  }
  if (const auto v = in.truth("scene.level")) entry.level = *v;
  const auto track = in.text("scene.track");
  if (track) shot.track = Track{beside(file, *track), {}};
  if (scene) entry.file = beside(file, *scene);
  read_points(in, file, entry);
  if (scene || track) {
    shot.scene = entry;
  } else {
    for (const char* key :
         {"scene.camera", "scene.aim", "scene.origin", "scene.back", "scene.right", "scene.up",
          "scene.around", "scene.orbit", "scene.orbit_up", "scene.level", "scene.points"}) {
      if (!in.has(key)) continue;
      in.mistake(key, std::string(key) == "scene.points"
                          ? "are seen by a camera, but none is given: write scene.file (a glTF or "
                            "usda with a camera) or scene.track"
                          : "is about a camera in a scene, but scene.file (or scene.track) is "
                            "missing");
      break;
    }
  }
  if (track && entry.camera) {
    in.mistake("scene.camera", "and scene.track both say where the camera is; give one of them");
  }
}

void read_depth(ShotReader& in, const std::string& file, Shot& shot) {
  if (!in.has_section("depth.")) return;
  DepthEntry entry;
  if (const auto v = in.text("depth.file")) entry.file = beside(file, *v);
  if (const auto v =
          in.choice<DepthCode::Kind>("depth.kind", {{"axial", DepthCode::Kind::axial},
                                                    {"radial", DepthCode::Kind::radial},
                                                    {"inverse", DepthCode::Kind::inverse},
                                                    {"normalised", DepthCode::Kind::normalised}})) {
    entry.code.kind = *v;
  }
  if (const auto v = in.quantity<Length>("depth.unit", parse_unit, above_zero))
    entry.code.unit = *v;
  entry.code.near = in.quantity<Length>("depth.near", parse_length);
  entry.code.far = in.quantity<Length>("depth.far", parse_length, above_zero);
  if (const auto v = in.choice<bool>("depth.white", {{"near", true}, {"far", false}})) {
    entry.code.white_is_near = *v;
  }
  entry.distance = in.quantity<Length>("depth.distance", parse_distance, above_zero);
  const bool normalised = entry.code.kind == DepthCode::Kind::normalised;
  if (normalised && !(entry.code.near && entry.code.far && *entry.code.near < *entry.code.far)) {
    in.mistake("depth.kind",
               "a normalised depth picture needs what its ends stand for, near before "
               "far: near = \"0.5 m\" and far = \"40 m\"");
  }
  for (const char* key : {"depth.near", "depth.far", "depth.white"}) {
    if (!normalised && in.has(key)) {
      in.mistake(key, "belongs to kind = \"normalised\"; the others need no ends");
    }
  }
  shot.depth = entry;
}

void read_blur_override(ShotReader& in, BlurOverride& blur_override) {
  if (const auto v =
          in.number("cheat.blur", smallest_above_zero, 1e3, "a factor above zero, up to 1000")) {
    blur_override.blur = *v;
  }
  blur_override.from = in.quantity<Length>("cheat.sharp_from", parse_length, above_zero);
  blur_override.to = in.quantity<Length>("cheat.sharp_to", parse_distance, above_zero);
  blur_override.at_most = in.quantity<BlurSize>("cheat.at_most", parse_blur_size);
}

struct Coding {
  std::optional<Transfer> transfer{};
  Curve curve{};
  ManagedSpace space{};
};

// Which colour config holds. A body's holds for all plates that say nothing, as with transfers.
ColourConfig read_colour(ShotReader& in, const std::string& file) {
  ColourConfig colour;
  for (const char* key : {"body.ocio", "plate.ocio"}) {
    const auto value = in.tree().find(key);
    if (const auto v = in.text(key)) colour.file = beside(file_of(value->second, file), *v);
  }
  if (const auto v = in.text("plate.working")) colour.working = *v;
  if (const auto v = in.text("plate.display")) colour.display = *v;
  if (const auto v = in.text("plate.view")) colour.view = *v;
  if (!colour.view.empty() && colour.display.empty()) {
    in.mistake("plate.view", "a view is one of a display; write plate.display as well");
  }
  return colour;
}

// One of the known transfers, a table's file, or a space of a colour config. A body's holds for all
// plates that say nothing.
Coding read_transfer(ShotReader& in, const std::string& file, const ColourConfig& colour) {
  in.know("plate.transfer");
  const std::string key = in.has("plate.transfer") ? "plate.transfer" : "body.transfer";
  const auto value = in.tree().find(key);
  if (value != in.tree().end() && value->second.text.ends_with(".csv")) {
    const auto name = in.text(key);
    if (!name) return {};
    return {Transfer::table, Curve{beside(file_of(value->second, file), *name), {}}, {}};
  }
  if (value != in.tree().end() && value->second.text.starts_with(managed_prefix)) {
    const auto name = in.text(key);
    if (!name) return {};
    return {Transfer::managed, {}, {name->substr(std::string_view(managed_prefix).size()), colour}};
  }
  const auto transfer = in.choice<Transfer>(key, {{"linear", Transfer::linear},
                                                  {"sRGB", Transfer::srgb},
                                                  {"Rec.709", Transfer::rec709},
                                                  {"ACEScct", Transfer::acescct}});
  return {transfer, {}, {}};
}

void read_files(ShotReader& in, const std::string& file, Shot& shot) {
  read_scene(in, file, shot);
  const auto plate = in.text("plate.file");
  shot.colour = read_colour(in, file);
  const Coding coding = read_transfer(in, file, shot.colour);
  if (plate) {
    shot.plate = PlateEntry{beside(file, *plate), coding.transfer, coding.curve, coding.space, {}};
  }
  if (const auto v = in.choice<Primaries>(
          "plate.primaries", {{"Rec.709", Primaries::rec709}, {"ACEScg", Primaries::acescg}})) {
    shot.primaries = *v;
  }
  PlateMarks marks = read_marks(in, shot.body.pixels);
  if (marks.any()) {
    if (!shot.plate) shot.plate.emplace();
    shot.plate->marks = std::move(marks);
  }
  read_depth(in, file, shot);
}

}  // namespace

std::string file_of(const TomlValue& value, const std::string& otherwise) {
  const auto column = value.place.rfind(':');
  if (column == std::string::npos || column == 0) return otherwise;
  const auto line = value.place.rfind(':', column - 1);
  return line == std::string::npos ? otherwise : value.place.substr(0, line);
}

void read_body(ShotReader& in, Body& body) {
  read_name_and_file(in, "body", body.name);
  in.require("body.gate", "gate = \"25.9 x 14.6 mm\" (width x height of the recorded area)");
  in.require("body.pixels", "pixels = \"3840 x 2160\"");
  if (const auto v = in.quantity<Extent>("body.gate", parse_gate, positive_extent)) {
    body.gate = *v;
  }
  if (const auto v = in.quantity<PixelSize>("body.pixels", parse_pixel_size)) body.pixels = *v;
  body.photosites = in.quantity<PixelSize>("body.photosites", parse_pixel_size);
  body.window = in.quantity<PixelSize>("body.window", parse_pixel_size);
  if (const auto v = in.choice<FitMode>("body.keeps", {{"gate width", FitMode::gate_width},
                                                       {"gate height", FitMode::gate_height},
                                                       {"whole gate", FitMode::whole_gate},
                                                       {"no bars", FitMode::no_bars}})) {
    body.keeps = *v;
  }
  if (const auto v = in.number("body.pixel_aspect", 0.05, 20.0,
                               "a pixel's width against its height; write e.g. 2 for a picture "
                               "that is still squeezed")) {
    body.pixel_aspect = *v;
  }
  if (const auto v = in.choice<Anchor>(
          "body.anchor", {{"grey", Anchor::grey}, {"saturation", Anchor::saturation}})) {
    body.anchor = *v;
  }
  in.know("body.transfer");  // of its plates: read with them
  in.know("body.ocio");
  body.flange = in.quantity<Length>("body.flange", parse_length, above_zero);
}

std::string beside(const std::string& file, const std::string& name) {
  return (std::filesystem::path(file).parent_path() / name).string();
}

void read_sections(ShotReader& in, const std::string& file, Shot& shot) {
  if (const auto v = in.text("variant")) shot.variant = *v;
  if (const auto v = in.quantity<Length>("unit", parse_unit, above_zero)) shot.unit = *v;
  if (const auto v = in.quantity<Criterion>("criterion", parse_criterion)) shot.criterion = *v;
  read_body(in, shot.body);
  read_lens(in, file, shot.lens);
  if (!shot.lens.glass.empty()) shot.files.push_back(shot.lens.glass);
  read_take(in, shot.take);
  read_focus(in, "focus", shot.focus);
  read_subjects(in, shot.subjects);
  read_files(in, file, shot);
  read_blur_override(in, shot.blur_override);
  read_finish(in, file, shot.finish);
}

}  // namespace jolly_iris
