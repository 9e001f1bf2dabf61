// solve --level and --clip: how the camera stands, and what it leaves out.
#include <fmt/format.h>

#include <charconv>
#include <cmath>

#include "jolly_iris/clip.hpp"
#include "jolly_iris/errors.hpp"
#include "jolly_iris/lines.hpp"
#include "jolly_iris/nearest.hpp"
#include "jolly_iris/perspective.hpp"
#include "jolly_iris/solve.hpp"
#include "jolly_iris/undistort.hpp"
#include "solve_found.hpp"
#include "text.hpp"

namespace jolly_iris::cli {

namespace {

struct Leaning {
  Lean lean{};
  std::string said{};
  std::vector<std::string> notes{};
};

std::string lean_text(const Lean& lean) {
  const double tilt = lean.tilt.degrees();
  const double roll = lean.roll.degrees();
  std::string text = fmt::format("looks {:.2f} deg {}", std::abs(tilt), tilt < 0.0 ? "down" : "up");
  if (std::abs(roll) >= 0.005) {
    text += fmt::format(" and is rolled {:.2f} deg {}", std::abs(roll),
                        roll < 0.0 ? "counter-clockwise" : "clockwise");
  }
  return text;
}

std::vector<DrawnLine> drawn(const LoadedShot& loaded) {
  return loaded.now.plate ? loaded.now.plate->marks.lines : std::vector<DrawnLine>{};
}

bool has_place(const Shot& shot) { return shot.scene || shot.track || shot.take.tilt; }

// Bent edges tell a wrong lean. Where the shot file does not know the distortion, they may.
VirtualCamera straightened_by(VirtualCamera camera, const std::vector<DrawnLine>& lines) {
  if (camera.distortion.any()) return camera;
  try {
    camera.distortion = distortion_from_lines(camera, lines).distortion;
  } catch (const OpticsError&) {
    // Too few points to tell: they are taken as they are.
  }
  return camera;
}

Leaning leaning_of(const SolveOptions& options, const LoadedShot& loaded) {
  using From = SolveOptions::From;
  const bool by_camera =
      options.from == From::camera || (options.from == From::usual && has_place(loaded.now));
  const auto lines = drawn(loaded);
  Leaning by;
  if (by_camera) {
    by.lean = lean_of(loaded.answer.place);
    by.said = lean_text(by.lean) + (loaded.now.scene   ? ", as it stands in the scene"
                                    : loaded.now.track ? ", by its track"
                                                       : ", by take.tilt");
  }
  if (by_camera && options.from == From::camera) return by;
  try {
    const VirtualCamera camera = straightened_by(loaded.answer.camera, lines);
    const FoundPerspective found = perspective_from_lines(camera, lines);
    const std::string said =
        fmt::format("{} (± {:.2f} deg), by {} edges drawn in the plate{}", lean_text(found.lean),
                    found.tilt_deg.margin, found.lines.size(),
                    camera.distortion.any() ? ", without its distortion" : "");
    if (!by_camera) return {found.lean, said, {}};
    const double apart = found.tilt_deg.value - by.lean.tilt.degrees();
    if (std::abs(apart) > found.tilt_deg.margin + 0.05) {
      by.notes.push_back(
          fmt::format("The plate says otherwise: it {}. Take that instead with --by lines.", said));
    }
    return by;
  } catch (const OpticsError& e) {
    if (by_camera) return by;
    throw OpticsError(fmt::format("{}how the camera leans is not known: {}",
                                  loaded.shot.where("plate.line"), e.what()));
  }
}

std::array<double, 2> kept_place(const SolveOptions& options, const LoadedShot& loaded) {
  const VirtualCamera& camera = loaded.answer.camera;
  if (options.keep.empty()) return {0.5 * camera.pixels.width, 0.5 * camera.pixels.height};
  std::vector<std::string> names;
  const Scene* scene = loaded.scene ? &*loaded.scene : nullptr;
  for (const SubjectPlace& s : subjects_of(loaded.now, scene, loaded.answer.place, camera.focus)) {
    names.push_back(s.name);
    if (s.name != options.keep || !s.middle || !(s.axial.mm() > 0.0)) continue;
    return pixel_of_direction(camera, {s.middle->x(), s.middle->y(), s.middle->z()});
  }
  std::array<double, 2> px{};
  const char* at = options.keep.data();
  const char* end = at + options.keep.size();
  const auto x = std::from_chars(at, end, px[0]);
  const bool comma = x.ec == std::errc{} && x.ptr != end && *x.ptr == ',';
  const auto y = comma ? std::from_chars(x.ptr + 1, end, px[1]) : x;
  if (!comma || y.ec != std::errc{} || y.ptr != end) {
    throw UsageError(fmt::format(
        "--keep {}: is neither a subject with a place in front of the camera nor a place in the "
        "picture (write e.g. 960,540).{}",
        options.keep, did_you_mean(options.keep, names)));
  }
  return px;
}

// Which way a shift goes, in words: programs count it either way round.
std::string shift_text(Length shift, Length side, const char* plus, const char* minus,
                       const char* of) {
  if (std::abs(shift.mm()) < 5e-4) return "none";
  return fmt::format("{:.3f} mm {} = {:.4f} of the picture's {}", std::abs(shift.mm()),
                     shift.mm() > 0.0 ? plus : minus, std::abs(shift / side), of);
}

// What to type so that this very program takes the level camera.
void add_tries(Found& f, const LevelCamera& level, const LoadedShot& loaded) {
  const Lens& lens = loaded.now.lens;
  const bool plain = lens.converter == 1.0 && lens.close_up.dioptres() == 0.0 &&
                     lens.breathing.empty() && lens.squeeze == 1.0;
  if (!plain) {
    f.notes.push_back(
        "With what is mounted in front of this lens, type these numbers into the CG "
        "camera; no marked focal length stands for them.");
    return;
  }
  const Equivalent e = equivalent_on(level.camera, loaded.now.body, lens.adapter);
  const bool placed = loaded.now.scene || loaded.now.track;
  f.tries = {placed ? "scene.level=true" : "take.tilt=0 deg",
             fmt::format("lens.focal={:.8g} mm", e.focal.mm()),
             fmt::format("take.stop=f/{:.8g}", e.stop.value),
             fmt::format("lens.shift_up={:.8g} mm", level.camera.shift_up.mm()),
             fmt::format("lens.shift_right={:.8g} mm", level.camera.shift_right.mm())};
  f.tries.push_back(level.camera.focus.is_infinite()
                        ? "focus.at=infinity"
                        : fmt::format("focus.at={:.8g} m", level.camera.focus.m()));
}

std::string span_text(const ClipSpan& s) {
  return s.to.is_infinite() ? fmt::format("anything beyond {}", metres(s.from))
                            : fmt::format("anything from {} to {}", metres(s.from), metres(s.to));
}

}  // namespace

Found solve_level(const SolveOptions& options, const LoadedShot& loaded) {
  const VirtualCamera& camera = loaded.answer.camera;
  const Leaning by = leaning_of(options, loaded);
  const LevelCamera level = level_camera(camera, by.lean, kept_place(options, loaded));
  const VirtualCamera& c = level.camera;
  Found f;
  f.notes = by.notes;
  f.text = wrapped(
      fmt::format("The camera {}. Level, with its lens shifted, it shows the same with verticals "
                  "parallel; what is at ({:.0f}, {:.0f}) px keeps its place and size:",
                  by.said, level.kept[0], level.kept[1]),
      "", "");
  const auto row = [&](const char* name, const std::string& value) {
    f.text += fmt::format("  {:<16}{}\n", name, value);
  };
  row("focal length",
      fmt::format("{:.3f} mm instead of {:.3f} mm", c.focal.mm(), camera.focal.mm()));
  row("f-number", fmt::format("f/{:.4f}, the same opening of {:.2f} mm", c.f_number,
                              2.0 * c.aperture_radius.mm()));
  row("focus distance", metres(c.focus) + ", along the level axis");
  row("shift up", shift_text(c.shift_up, c.picture.height, "up", "down", "height"));
  row("shift right",
      shift_text(c.shift_right, c.picture.width, "to the right", "to the left", "width"));
  const double diagonal = std::hypot(c.picture.width.mm(), c.picture.height.mm());
  row("image circle",
      fmt::format("{:.1f} mm; unshifted it takes {:.1f} mm", level.image_circle.mm(), diagonal));
  f.json["tilt_deg"] = by.lean.tilt.degrees();
  f.json["roll_deg"] = by.lean.roll.degrees();
  f.json["focal_mm"] = c.focal.mm();
  f.json["f_number"] = c.f_number;
  f.json["focus_m"] = c.focus.is_infinite() ? Json(nullptr) : Json(c.focus.m());
  f.json["shift_up_mm"] = c.shift_up.mm();
  f.json["shift_right_mm"] = c.shift_right.mm();
  f.json["shift_up_of_height"] = c.shift_up / c.picture.height;
  f.json["shift_right_of_width"] = c.shift_right / c.picture.width;
  f.json["image_circle_mm"] = level.image_circle.mm();
  f.notes.push_back(
      "Up means that the picture shows more of what is above, as when the lens is moved up; a "
      "program that moves the sensor or the picture instead wants the other sign.");
  f.notes.push_back(
      "The focus plane stands upright then: what is above or below the kept place may be a little "
      "sharper or softer than before.");
  if (camera.distortion.any()) {
    f.notes.push_back("The plate's distortion is undone first: this is about straight pictures.");
  }
  add_tries(f, level, loaded);
  return f;
}

Found solve_clip(const SolveOptions& options, const LoadedShot& loaded) {
  if (!loaded.scene) {
    throw UsageError(loaded.shot.file +
                     ": has no scene to clip; write [scene] file = \"set.gltf\"");
  }
  const Clip clip = [&] {
    try {
      return clip_away(*loaded.scene, loaded.answer.place, loaded.answer.camera, options.clip);
    } catch (const UsageError& e) {
      throw UsageError(std::string("--clip: ") + e.what());
    }
  }();
  Found f;
  std::string names;
  for (const std::string& name : options.clip) names += (names.empty() ? "" : ", ") + name;
  f.text = fmt::format("Without {}, and with everything else that the picture shows:\n", names);
  const auto add = [&](const char* name, const char* key, const std::optional<ClipSpan>& span) {
    f.json[key] = span ? Json(span->distance.m()) : Json(nullptr);
    if (!span) return;
    f.text += fmt::format("  {:<16}{} = {} units of {}; {} does it\n", name, metres(span->distance),
                          in_units(span->distance, loaded.now.unit), unit_text(loaded.now.unit),
                          span_text(*span));
  };
  add("near clip", "near_m", clip.near);
  add("far clip", "far_m", clip.far);
  f.notes.push_back(
      "Along the view axis, from the camera's origin. What is clipped away throws no shadow and no "
      "light any more, unless the renderer keeps it for both.");
  return f;
}

}  // namespace jolly_iris::cli
