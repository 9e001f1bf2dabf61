#include "jolly_iris/workflow/solutions.hpp"

#include <fmt/format.h>

#include <charconv>
#include <cmath>

#include "jolly_iris/files/shot_file.hpp"
#include "jolly_iris/optics/blur_override.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/optics/seen_blur.hpp"
#include "jolly_iris/optics/sharpness.hpp"
#include "optics/nearest.hpp"

namespace jolly_iris {

namespace {

// The camera at such a stop, whether the lens opens so far or not.
VirtualCamera camera_at(const Shot& shot, const Stop& stop, Length focus) {
  Lens lens = shot.lens;
  if (!opens_to(lens, stop)) lens.widest = stop;
  Take take = shot.take;
  take.stop = stop;
  return resolve(shot.body, lens, take, focus);
}

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

// How the camera leans, and who says so.
LevelSolution leaning(const LoadedShot& loaded, LeanFrom from) {
  const Shot& shot = loaded.now;
  const bool has_place = shot.scene || shot.track || shot.take.tilt;
  LevelSolution s;
  s.from = from == LeanFrom::camera || (from == LeanFrom::usual && has_place) ? LeanFrom::camera
                                                                              : LeanFrom::lines;
  const bool by_camera = s.from == LeanFrom::camera;
  if (by_camera) s.lean = lean_of(loaded.answer.place);
  if (from == LeanFrom::camera) return s;
  const auto lines = shot.plate ? shot.plate->marks.lines : std::vector<DrawnLine>{};
  try {
    const VirtualCamera camera = straightened_by(loaded.answer.camera, lines);
    s.lines = perspective_from_lines(camera, lines);
    s.lines_straightened = camera.distortion.any();
  } catch (const OpticsError& e) {
    if (by_camera) return s;
    throw OpticsError(fmt::format("{}how the camera leans is not known: {}",
                                  loaded.shot.where("plate.line"), e.what()));
  }
  if (!by_camera) s.lean = s.lines->lean;
  const double apart = s.lines->tilt_deg.value - s.lean.tilt.degrees();
  s.plate_disagrees = by_camera && std::abs(apart) > s.lines->tilt_deg.margin + 0.05;
  return s;
}

std::array<double, 2> kept_place(const LoadedShot& loaded, const std::string& keep) {
  const VirtualCamera& camera = loaded.answer.camera;
  if (keep.empty()) return {0.5 * camera.pixels.width, 0.5 * camera.pixels.height};
  std::vector<std::string> names;
  const Scene* scene = loaded.scene ? &*loaded.scene : nullptr;
  for (const SubjectPlace& s : subjects_of(loaded.now, scene, loaded.answer.place, camera.focus)) {
    names.push_back(s.name);
    if (s.name != keep || !s.middle || !(s.axial.mm() > 0.0)) continue;
    return pixel_of_direction(camera, {s.middle->x, s.middle->y, s.middle->z});
  }
  std::array<double, 2> px{};
  const char* end = keep.data() + keep.size();
  const auto x = std::from_chars(keep.data(), end, px[0]);
  const bool comma = x.ec == std::errc{} && x.ptr != end && *x.ptr == ',';
  const auto y = comma ? std::from_chars(x.ptr + 1, end, px[1]) : x;
  if (!comma || y.ec != std::errc{} || y.ptr != end) {
    throw UsageError(fmt::format(
        "'{}' is neither a subject with a place in front of the camera nor a place in the picture "
        "(write e.g. 960,540).{}",
        keep, did_you_mean(keep, names)));
  }
  return px;
}

Override number(const char* key, const char* before, double value, const char* after, int figures) {
  return {key, fmt::format("{}{:.{}g}{}", before, value, figures, after)};
}

Override focus_at(Length focus, int figures) {
  if (focus.is_infinite()) return {"focus.at", "infinity"};
  return number("focus.at", "", focus.m(), " m", figures);
}

// A stop, and, where the lens does not open so far, one that does.
void add_stop(const Stop& stop, const Lens& lens, std::vector<Override>& out) {
  out.push_back(number("take.stop", "f/", stop.value, "", 6));
  if (!opens_to(lens, stop)) out.push_back(number("lens.widest", "f/", stop.value, "", 6));
}

}  // namespace

namespace {

// Where the picture shows a subject, from the axis; a distance is in the middle.
GatePlace place_of(const std::vector<SubjectPlace>& subjects, const std::string& name,
                   const VirtualCamera& camera) {
  for (const SubjectPlace& s : subjects) {
    if (s.name != name || !s.middle || !(s.middle->z < 0.0)) continue;
    const double k = camera.focal.m() / -s.middle->z;
    return {Length::from_m(k * s.middle->x), Length::from_m(k * s.middle->y)};
  }
  return {};
}

// A lens with faults, or a cheat, blurs by more than the circle of confusion that a hold is
// computed with: it is closed down until the report counts both as sharp.
void close_until_sharp(const LoadedShot& loaded, const std::string& a, const std::string& b,
                       HoldSolution& s) {
  constexpr double by = 1.01;
  constexpr double smallest = 64.0;  // beyond, diffraction blurs more
  const Shot& shot = loaded.now;
  const Scene* scene = loaded.scene ? &*loaded.scene : nullptr;
  const std::vector<SubjectPlace> places =
      subjects_of(shot, scene, loaded.answer.place, s.found.focus);
  const auto sharp = [&](double n) {
    Stop stop = s.found.stop;
    stop.value = n;
    const VirtualCamera camera =
        with_blur_override(camera_at(shot, stop, s.found.focus), shot.blur_override);
    const SeenBlur seen(camera);
    const Length limit = coc_limit(shot.criterion, shot.body, camera) * (1.0 + 1e-9);
    return std::abs(seen.of(s.near, place_of(places, a, camera)).mm()) <= limit.mm() &&
           std::abs(seen.of(s.far, place_of(places, b, camera)).mm()) <= limit.mm();
  };
  double n = s.found.stop.value;
  const double plain = n;
  while (n < smallest && !sharp(n)) n *= by;
  if (!sharp(n)) {
    throw OpticsError(fmt::format(
        "no stop down to f/{:g} makes both sharp: the lens's faults, or the cheat, blur by more "
        "than the criterion",
        smallest));
  }
  if (n == plain) return;
  s.closed_for_faults = true;
  s.found.f_number *= n / plain;
  s.found.stop.value = n;
}

}  // namespace

HoldSolution solve_hold(const LoadedShot& loaded, const std::string& a, const std::string& b) {
  const Shot& shot = loaded.now;
  HoldSolution s;
  s.near = distance_named(loaded, a);
  s.far = distance_named(loaded, b);
  s.found = hold(shot.body, shot.lens, shot.take, shot.criterion, s.near, s.far);
  close_until_sharp(loaded, a, b, s);
  s.camera = camera_at(shot, s.found.stop, s.found.focus);
  return s;
}

BlurSolution solve_blur(const LoadedShot& loaded, const BlurSize& blur, const std::string& at,
                        bool by_lens) {
  const Shot& shot = loaded.now;
  BlurSolution s;
  s.now = without_blur_override(loaded.answer.camera);
  s.at = at.empty() ? "infinity" : at;
  s.z = distance_named(loaded, s.at);
  s.coc = on_gate(blur, s.now);
  if (by_lens) {
    s.lens = lens_for_blur(shot.body, shot.lens, shot.take, s.now.focus, s.z - s.now.focus, s.coc);
  } else {
    s.stop = stop_for_blur(shot.body, shot.lens, shot.take, s.now.focus, s.z, s.coc);
    s.camera = camera_at(shot, *s.stop, s.now.focus);
  }
  return s;
}

BodySolution solve_body(const LoadedShot& loaded, const std::string& file, double adapter,
                        std::vector<std::string>& files) {
  BodySolution s{file, read_body_file(file), adapter, {}};
  files.push_back(file);
  s.found = equivalent_on(without_blur_override(loaded.answer.camera), s.body, adapter);
  return s;
}

LevelSolution solve_level(const LoadedShot& loaded, LeanFrom from, const std::string& keep) {
  LevelSolution s = leaning(loaded, from);
  s.level = level_camera(loaded.answer.camera, s.lean, kept_place(loaded, keep));
  const Lens& lens = loaded.now.lens;
  const bool plain = lens.converter == 1.0 && lens.close_up.dioptres() == 0.0 &&
                     lens.breathing.empty() && lens.squeeze == 1.0;
  if (plain) s.lens = equivalent_on(s.level.camera, loaded.now.body, lens.adapter);
  return s;
}

Clip solve_clip(const LoadedShot& loaded, const std::vector<std::string>& nodes) {
  if (!loaded.scene) {
    throw UsageError(loaded.shot.file +
                     ": has no scene to clip; write [scene] file = \"set.gltf\"");
  }
  return clip_away(*loaded.scene, loaded.answer.place, loaded.answer.camera, nodes);
}

std::vector<Override> overrides_for(const HoldSolution& s, const LoadedShot& loaded) {
  // Rounded to the side on which both are sharp: five figures of the stop, upwards.
  std::vector<Override> out{focus_at(s.found.focus, 9)};
  Stop stop = s.found.stop;
  const double step = std::pow(10.0, std::floor(std::log10(stop.value)) - 4.0);
  stop.value = step * std::ceil(stop.value * (1.0 + 1e-5) / step);
  add_stop(stop, loaded.now.lens, out);
  return out;
}

std::vector<Override> overrides_for(const BlurSolution& s, const LoadedShot& loaded) {
  std::vector<Override> out;
  if (s.stop) add_stop(*s.stop, loaded.now.lens, out);
  if (s.lens) {
    out.push_back(number("lens.focal", "", s.lens->focal.mm(), " mm", 6));
    out.push_back(number("focus.at", "", s.lens->distance.m(), " m", 9));
    // The camera itself moves by as much as what is in focus gets farther.
    if (loaded.now.scene) {
      const Length back = loaded.now.scene->back + (s.lens->distance - s.now.focus);
      out.push_back(number("scene.back", "", back.m(), " m", 9));
    }
  }
  return out;
}

std::vector<Override> overrides_for(const BodySolution& s, const LoadedShot& loaded) {
  std::vector<Override> out{{"body", s.file}};
  add_stop(s.found.stop, loaded.now.lens, out);
  out.push_back(number("lens.focal", "", s.found.focal.mm(), " mm", 6));
  if (loaded.now.lens.adapter != s.adapter) {
    out.push_back({"lens.adapter", fmt::format("{:g}", s.adapter)});
  }
  return out;
}

std::vector<Override> overrides_for(const LevelSolution& s, const LoadedShot& loaded) {
  if (!s.lens) return {};
  const bool placed = loaded.now.scene || loaded.now.track;
  std::vector<Override> out;
  out.push_back(placed ? Override{"scene.level", "true"} : Override{"take.tilt", "0 deg"});
  out.push_back(number("lens.focal", "", s.lens->focal.mm(), " mm", 8));
  out.push_back(number("take.stop", "f/", s.lens->stop.value, "", 8));
  out.push_back(number("lens.shift_up", "", s.level.camera.shift_up.mm(), " mm", 8));
  out.push_back(number("lens.shift_right", "", s.level.camera.shift_right.mm(), " mm", 8));
  out.push_back(focus_at(s.level.camera.focus, 8));
  return out;
}

}  // namespace jolly_iris
