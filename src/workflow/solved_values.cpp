// What a match found, as values that lead over the notes.

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "disk/disk.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/workflow/camera_match.hpp"
#include "optics/value_text.hpp"

namespace jolly_iris {

namespace {

std::string quoted(const std::string& text) { return fmt::format("\"{}\"", text); }

// Opening radius over blade radius, as the notes have it at this opening.
double noted_curvature(const Iris& iris, const VirtualCamera& camera) {
  switch (iris.blade_radius.kind) {
    case BladeRadius::Kind::straight:
      return 0.0;
    case BladeRadius::Kind::multiple:
      return 1.0 / iris.blade_radius.times;
    case BladeRadius::Kind::length:
      break;
  }
  return camera.aperture_radius / iris.blade_radius.length;
}

// The iris as far as the plate says it otherwise than the notes.
void add_iris(const PlateIris& seen, const LoadedShot& loaded, const VirtualCamera& camera,
              std::vector<SolvedValue>& values) {
  if (!seen.sure()) return;
  const Iris& noted = loaded.now.lens.iris;
  const bool other = noted.blades != seen.blades;
  if (other) {
    values.push_back({"lens.iris.blades", fmt::format("{}", seen.blades),
                      fmt::format("noted {}", noted.blades)});
  }
  if (seen.blades == 0) return;
  const double turned = seen.rotation_near(noted.rotation.degrees());
  if (other || std::abs(turned - noted.rotation.degrees()) > seen.rotation_deg.margin + 0.5) {
    values.push_back({"lens.iris.rotation", quoted(fmt::format("{:.2f} deg", turned)),
                      fmt::format("noted {:g} deg, ± {:.1f}", noted.rotation.degrees(),
                                  seen.rotation_deg.margin)});
  }
  const double c = seen.curvature.value;
  const bool is_noted = loaded.shot.origins.contains("lens.iris.blade_radius");
  const double bend = noted_curvature(noted, camera);
  if (is_noted ? std::abs(c - bend) > seen.curvature.margin + 0.05 : other) {
    values.push_back({"lens.iris.blade_radius",
                      std::abs(c) <= seen.curvature.margin
                          ? quoted("straight")
                          : quoted(fmt::format("{:.3g} x", 1.0 / c)),
                      is_noted ? fmt::format("noted {:.2f} as curvature, seen {:.2f} ± {:.2f}",
                                             bend, c, seen.curvature.margin)
                               : ""});
  }
}

}  // namespace

std::optional<SqueezePoint> squeeze_row(const MatchedPlate& plate) {
  const CameraEstimate& found = plate.best.estimate;
  const Lens& noted = plate.loaded.now.lens;
  if (!found.lens.squeeze_now || !focus_of(found).is_finite()) return std::nullopt;
  for (const FittedParameter& p : plate.best.parameters) {
    if (p.parameter != Parameter::squeeze || !p.determined) continue;
    Lens as_noted = noted;
    as_noted.squeeze = found.lens.squeeze;
    const double off = *found.lens.squeeze_now - squeeze_at_focus(as_noted, focus_of(found));
    if (std::abs(off) < p.margin) return std::nullopt;  // that is no news
    return SqueezePoint{mark_from_focus(found.lens, focus_of(found)), *found.lens.squeeze_now};
  }
  return std::nullopt;
}

std::vector<SolvedValue> solved_values(const MatchedPlate& plate) {
  const MatchResult& m = plate.best;
  const LoadedShot& loaded = plate.loaded;
  std::vector<SolvedValue> values;
  const Shot& shot = loaded.now;
  const CameraEstimate& found = m.estimate;
  const auto margin_of = [&](Parameter u) {
    for (const FittedParameter& f : m.parameters) {
      if (f.parameter == u && std::isfinite(f.margin)) {
        return fmt::format("± {}", value_text(u, f.margin));
      }
    }
    return std::string();
  };
  // What only the note says stays noted, unless a mistake in it was mended.
  const auto changed = [&](Parameter u, double a, double b) {
    const auto f = std::find_if(m.parameters.begin(), m.parameters.end(),
                                [&](const FittedParameter& one) { return one.parameter == u; });
    const bool determined = f != m.parameters.end() && (f->determined || std::abs(f->moved) > 0.5);
    if (!determined || !std::isfinite(f->margin)) return std::abs(a / b - 1.0) > 0.02;
    return std::abs(a - b) > 0.25 * f->margin;  // less is no news
  };
  if (changed(Parameter::focal, found.lens.focal.mm(), shot.lens.focal.mm())) {
    values.push_back(
        {"lens.focal", quoted(fmt::format("{:.5g} mm", found.lens.focal.mm())),
         fmt::format("noted {:g} mm, {}", shot.lens.focal.mm(), margin_of(Parameter::focal))});
  }
  if (found.lens.adapter != shot.lens.adapter) {
    values.push_back({"lens.adapter", fmt::format("{:g}", found.lens.adapter),
                      fmt::format("noted {:g}", shot.lens.adapter)});
  }
  if (found.lens.squeeze != shot.lens.squeeze &&
      changed(Parameter::squeeze, found.lens.squeeze, shot.lens.squeeze)) {
    values.push_back(
        {"lens.squeeze", fmt::format("{:.5g}", found.lens.squeeze),
         fmt::format("noted {:g}, {}", shot.lens.squeeze, margin_of(Parameter::squeeze))});
  }
  if (const auto row = squeeze_row(plate)) {
    values.push_back(
        {"lens.squeezes",
         fmt::format("[{{ mark = \"{:.4g} m\", squeeze = {:.4g} }}]", row->mark.m(), row->squeeze),
         fmt::format("noted {:.4g}, {}", squeeze_at_focus(shot.lens, focus_of(found)),
                     margin_of(Parameter::squeeze))});
  }
  if (found.body.pixel_aspect != shot.body.pixel_aspect) {
    values.push_back({"body.pixel_aspect", fmt::format("{:.5g}", found.body.pixel_aspect),
                      fmt::format("noted {:g}", shot.body.pixel_aspect)});
  }
  const Extent& gate = found.body.gate;
  if (changed(Parameter::gate, gate.width.mm(), shot.body.gate.width.mm()) ||
      changed(Parameter::gate, gate.height.mm(), shot.body.gate.height.mm())) {
    values.push_back({"body.gate",
                      quoted(fmt::format("{:.5g} x {:.5g} mm", gate.width.mm(), gate.height.mm())),
                      fmt::format("noted {:g} x {:g} mm, {} wide", shot.body.gate.width.mm(),
                                  shot.body.gate.height.mm(), margin_of(Parameter::gate))});
  }
  if (shot.body.window && !found.body.window && shot.body.photosites) {
    values.push_back(
        {"body.window",
         quoted(fmt::format("{} x {}", shot.body.photosites->width, shot.body.photosites->height)),
         "all of it was recorded"});
  }
  const Stop& stop = found.take.stop;
  if (changed(Parameter::stop, stop.value, shot.take.stop.value)) {
    values.push_back(
        {"take.stop",
         quoted(fmt::format("{}{:.4g}", stop.kind == Stop::Kind::f ? "f/" : "T", stop.value)),
         fmt::format("noted {}, {}", stop_text(shot.take.stop), margin_of(Parameter::stop))});
  }
  const Length noted_focus = loaded.answer.camera.focus;
  if (focus_of(found).is_infinite() != noted_focus.is_infinite() ||
      (focus_of(found).is_finite() &&
       changed(Parameter::focus, focus_of(found).m(), noted_focus.m()))) {
    values.push_back(
        {"focus.at",
         quoted(focus_of(found).is_infinite() ? "infinity"
                                              : fmt::format("{:.5g} m", focus_of(found).m())),
         fmt::format("noted {}, {}", metres_text(noted_focus), margin_of(Parameter::focus))});
    if (shot.focus.offset.m() != 0.0) values.push_back({"focus.offset", quoted("0 m"), ""});
  }
  if (shot.scene && changed(Parameter::scale, found.scene_scale, 1.0)) {
    values.push_back(
        {"scene.scale", fmt::format("{:.5g}", shot.scene->scale * found.scene_scale),
         fmt::format("noted {:g}, {}", shot.scene->scale, margin_of(Parameter::scale))});
  }
  if (shot.scene && found.farther.m() != 0.0) {
    values.push_back(
        {"scene.back", quoted(fmt::format("{:.4g} m", (shot.scene->back + found.farther).m())),
         fmt::format("noted {:g} m, {}", shot.scene->back.m(), margin_of(Parameter::distance))});
  }
  const std::optional<double> ev = loaded.answer.ev100;
  if (ev && std::abs(found.brighter) > 0.05) {
    values.push_back({"take.ev", fmt::format("{:.3g}", *ev - found.brighter),
                      fmt::format("noted {:.3g}, {}", *ev, margin_of(Parameter::exposure))});
  }
  if (shot.take.white && found.take.white &&
      changed(Parameter::white, found.take.white->temperature.kelvin(),
              shot.take.white->temperature.kelvin())) {
    values.push_back({"take.white",
                      quoted(fmt::format("{:.0f} K", found.take.white->temperature.kelvin())),
                      fmt::format("noted {:.0f} K, {}", shot.take.white->temperature.kelvin(),
                                  margin_of(Parameter::white))});
  }
  add_iris(plate.seen.found.iris, loaded, camera_of(found), values);
  if (plate.seen.found.vignetting.known && shot.lens.vignetting.empty()) {
    const VignettingRim rim =
        rim_of(plate.seen.found.vignetting, camera_of(found), plate.seen.plate_size.height);
    values.push_back({"lens.barrel",
                      fmt::format("[{{ radius = \"{:.4g} mm\", ahead = \"{:.4g} mm\" }}]",
                                  rim.radius.mm(), rim.ahead.mm()),
                      "not noted"});
  }
  return values;
}

std::vector<std::string> write_solved(const CameraMatch& match) {
  if (match.ranking.none) {
    throw OpticsError(fmt::format("nothing explains the plate, so {} is not written",
                                  solved_file_of(match.plates.front().shot_file).string()));
  }
  const std::string reason =
      match.corrected
          ? "Taken for the likeliest mistake: " + match.ranking.ranked.front().mistakes.front() +
                "."
      : match.ranking.notes_agree ? "The notes agree with it; these are a little nearer."
                                  : "What was doubted is as the plate says it.";
  std::vector<std::string> written;
  for (const MatchedPlate& plate : match.plates) {
    written.push_back(solved_file_of(plate.shot_file).string());
    write_whole_file(written.back(), solved_text(plate.shot_file, reason, solved_values(plate)));
  }
  return written;
}

}  // namespace jolly_iris
