#include "match_accept.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "jolly_iris/disk.hpp"
#include "match_text.hpp"
#include "text.hpp"

namespace jolly_iris::cli {

namespace {

std::string quoted(const std::string& text) { return fmt::format("\"{}\"", text); }

// The iris as far as the plate says it otherwise than the notes.
void add_iris(const PlateIris& seen, const LoadedShot& loaded, std::vector<SolvedValue>& values) {
  if (!seen.sure()) return;
  const Iris& noted = loaded.now.lens.iris;
  const bool other = noted.blades != seen.blades;
  if (other) {
    values.push_back({"lens.iris.blades", fmt::format("{}", seen.blades),
                      fmt::format("noted {}", noted.blades)});
  }
  if (seen.blades == 0) return;
  const double part = 360.0 / seen.blades;
  const double off = std::remainder(noted.rotation.degrees() - seen.rotation_deg.value, part);
  if (other || std::abs(off) > seen.rotation_deg.margin + 0.5) {
    values.push_back({"lens.iris.rotation",
                      quoted(fmt::format("{:.2f} deg", seen.rotation_deg.value)),
                      fmt::format("noted {:g} deg, ± {:.1f}", noted.rotation.degrees(),
                                  seen.rotation_deg.margin)});
  }
  const double c = seen.curvature.value;
  if (other && !loaded.shot.origins.contains("lens.iris.blade_radius")) {
    values.push_back({"lens.iris.blade_radius",
                      std::abs(c) <= seen.curvature.margin
                          ? quoted("straight")
                          : quoted(fmt::format("{:.3g} x", 1.0 / c)),
                      ""});
  }
}

}  // namespace

std::vector<SolvedValue> solved_values(const MatchResult& m, const LoadedShot& loaded,
                                       const SeenInPlate& plate) {
  std::vector<SolvedValue> values;
  const Shot& shot = loaded.now;
  const Notes& found = m.notes;
  const auto margin_of = [&](Unknown u) {
    for (const FoundUnknown& f : m.unknowns) {
      if (f.unknown == u && std::isfinite(f.margin)) {
        return fmt::format("± {}", value_text(u, f.margin));
      }
    }
    return std::string();
  };
  // What only the note says stays noted, unless a mistake in it was mended.
  const auto changed = [&](Unknown u, double a, double b) {
    const auto f = std::find_if(m.unknowns.begin(), m.unknowns.end(),
                                [&](const FoundUnknown& one) { return one.unknown == u; });
    const bool told = f != m.unknowns.end() && (f->determined || std::abs(f->moved) > 0.5);
    if (!told || !std::isfinite(f->margin)) return std::abs(a / b - 1.0) > 0.02;
    return std::abs(a - b) > 0.25 * f->margin;  // less is no news
  };
  if (changed(Unknown::focal, found.lens.focal.mm(), shot.lens.focal.mm())) {
    values.push_back(
        {"lens.focal", quoted(fmt::format("{:.5g} mm", found.lens.focal.mm())),
         fmt::format("noted {:g} mm, {}", shot.lens.focal.mm(), margin_of(Unknown::focal))});
  }
  if (found.lens.adapter != shot.lens.adapter) {
    values.push_back({"lens.adapter", fmt::format("{:g}", found.lens.adapter),
                      fmt::format("noted {:g}", shot.lens.adapter)});
  }
  if (changed(Unknown::squeeze, found.lens.squeeze, shot.lens.squeeze)) {
    values.push_back(
        {"lens.squeeze", fmt::format("{:.5g}", found.lens.squeeze),
         fmt::format("noted {:g}, {}", shot.lens.squeeze, margin_of(Unknown::squeeze))});
  }
  const Extent& gate = found.body.gate;
  if (changed(Unknown::gate, gate.width.mm(), shot.body.gate.width.mm()) ||
      changed(Unknown::gate, gate.height.mm(), shot.body.gate.height.mm())) {
    values.push_back({"body.gate",
                      quoted(fmt::format("{:.5g} x {:.5g} mm", gate.width.mm(), gate.height.mm())),
                      fmt::format("noted {:g} x {:g} mm, {} wide", shot.body.gate.width.mm(),
                                  shot.body.gate.height.mm(), margin_of(Unknown::gate))});
  }
  if (shot.body.window && !found.body.window && shot.body.photosites) {
    values.push_back(
        {"body.window",
         quoted(fmt::format("{} x {}", shot.body.photosites->width, shot.body.photosites->height)),
         "all of it was recorded"});
  }
  const Stop& stop = found.take.stop;
  if (changed(Unknown::stop, stop.value, shot.take.stop.value)) {
    values.push_back(
        {"take.stop",
         quoted(fmt::format("{}{:.4g}", stop.kind == Stop::Kind::f ? "f/" : "T", stop.value)),
         fmt::format("noted {}, {}", stop_text(shot.take.stop), margin_of(Unknown::stop))});
  }
  const Length noted_focus = loaded.answer.camera.focus;
  if (found.focus.is_infinite() != noted_focus.is_infinite() ||
      (found.focus.is_finite() && changed(Unknown::focus, found.focus.m(), noted_focus.m()))) {
    values.push_back(
        {"focus.at",
         quoted(found.focus.is_infinite() ? "infinity" : fmt::format("{:.5g} m", found.focus.m())),
         fmt::format("noted {}, {}", metres(noted_focus), margin_of(Unknown::focus))});
    if (shot.focus.offset.m() != 0.0) values.push_back({"focus.offset", quoted("0 m"), ""});
  }
  if (shot.scene && changed(Unknown::scale, found.scene_scale, 1.0)) {
    values.push_back({"scene.scale", fmt::format("{:.5g}", shot.scene->scale * found.scene_scale),
                      fmt::format("noted {:g}, {}", shot.scene->scale, margin_of(Unknown::scale))});
  }
  if (shot.scene && found.farther.m() != 0.0) {
    values.push_back(
        {"scene.back", quoted(fmt::format("{:.4g} m", (shot.scene->back + found.farther).m())),
         fmt::format("noted {:g} m, {}", shot.scene->back.m(), margin_of(Unknown::distance))});
  }
  const std::optional<double> ev = loaded.answer.ev100;
  if (ev && std::abs(found.brighter) > 0.05) {
    values.push_back({"take.ev", fmt::format("{:.3g}", *ev - found.brighter),
                      fmt::format("noted {:.3g}, {}", *ev, margin_of(Unknown::exposure))});
  }
  if (shot.take.white && found.take.white &&
      changed(Unknown::white, found.take.white->temperature.kelvin(),
              shot.take.white->temperature.kelvin())) {
    values.push_back({"take.white",
                      quoted(fmt::format("{:.0f} K", found.take.white->temperature.kelvin())),
                      fmt::format("noted {:.0f} K, {}", shot.take.white->temperature.kelvin(),
                                  margin_of(Unknown::white))});
  }
  add_iris(plate.found.iris, loaded, values);
  if (plate.found.barrel.known && shot.lens.barrel.empty()) {
    const BarrelRim rim = rim_of(plate.found.barrel, camera_of(found), plate.plate_size.height);
    values.push_back({"lens.barrel",
                      fmt::format("[{{ radius = \"{:.4g} mm\", ahead = \"{:.4g} mm\" }}]",
                                  rim.radius.mm(), rim.ahead.mm()),
                      "not noted"});
  }
  return values;
}

std::string accept(const std::string& shot_file, const MatchResult& found, const LoadedShot& loaded,
                   const SeenInPlate& plate, const std::string& reason) {
  const std::string file = solved_file_of(shot_file).string();
  const auto values = solved_values(found, loaded, plate);
  write_whole_file(file, solved_text(shot_file, reason, values));
  return fmt::format(
      "{:<28} {} values that lead over the notes from now on (--as-noted leaves them "
      "out)\n",
      file, values.size());
}

}  // namespace jolly_iris::cli
