#include "live/controls.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <functional>
#include <optional>

#include "jolly_iris/optics/white.hpp"
#include "optics/value_text.hpp"

namespace jolly_iris::live {

namespace {

// How a slider's way goes with the value, and what the page writes.
enum class Law {
  linear,     // number, between prefix and suffix
  factor,     // the same, evenly in factors
  stop,       // evenly in stops; in thirds unless free
  dioptres,   // a distance, evenly in blur
  mired,      // kelvin, evenly in reciprocal megakelvin
  curvature,  // a blade radius by 1 / times: 0 is straight, 1 round
  whole       // whole numbers
};

const char* name_of(Law law) {
  switch (law) {
    case Law::linear:
      return "linear";
    case Law::factor:
      return "factor";
    case Law::stop:
      return "stop";
    case Law::dioptres:
      return "dioptres";
    case Law::mired:
      return "mired";
    case Law::curvature:
      return "curvature";
    case Law::whole:
      return "whole";
  }
  return "linear";
}

struct Control {
  const char* section;
  const char* key;
  const char* label;
  Law law;
  double min;
  double max;
  const char* prefix;
  const char* suffix;
  int digits;  // significant
  std::function<std::optional<double>(const LoadedShot&)> value;
};

double curvature_of(const LoadedShot& l) {
  const BladeRadius& r = l.now.lens.iris.blade_radius;
  switch (r.kind) {
    case BladeRadius::Kind::straight:
      return 0.0;
    case BladeRadius::Kind::multiple:
      return 1.0 / r.times;
    case BladeRadius::Kind::length:
      return l.answer.camera.aperture_radius / r.length;
  }
  return 0.0;
}

double percent_of_width(const BlurSize& size, const LoadedShot& l) {
  return 100.0 * (on_gate(size, l.answer.camera) / l.answer.camera.picture.width);
}

// Of what is not there, nothing else can be turned.
bool belongs_to_nothing(const std::string& key, const Finish& finish) {
  return (key == "finish.halo.reach" && !finish.halo) ||
         (key == "finish.streak.direction" && !finish.streak);
}

// What lenses and bodies have, generously; the shot file takes more.
std::vector<Control> all_controls(const LoadedShot& loaded) {
  const Lens& lens = loaded.now.lens;
  const double focal = lens.focal.mm();
  const double nearest =
      lens.close_focus ? lens.close_focus->m() : std::max(0.1, 6.0 * lens.focal.m());
  // Wider than the lens opens, the shot refuses.
  const double widest = lens.widest ? widest_as(lens, loaded.now.take.stop.kind).value : 0.7;
  const bool by_t = loaded.now.take.stop.kind == Stop::Kind::t;
  const auto of_lens = [](auto member) {
    return [member](const LoadedShot& l) -> std::optional<double> { return member(l.now.lens); };
  };
  const auto of_take = [](auto member) {
    return [member](const LoadedShot& l) -> std::optional<double> { return member(l.now.take); };
  };
  const auto of_scene = [](auto member) {
    return [member](const LoadedShot& l) -> std::optional<double> {
      if (!l.now.scene) return std::nullopt;
      return member(*l.now.scene);
    };
  };
  const Length focus = loaded.answer.camera.focus;
  const double reach = focus.is_infinite() ? 10.0 : focus.m();
  return {
      {"take", "take.stop", "stop", Law::stop, widest, 32, by_t ? "T" : "f/", "", 3,
       of_take([](const Take& t) { return t.stop.value; })},
      {"focus", "focus.at", "focus", Law::dioptres, 0, 1.0 / nearest, "", " m", 5,
       [](const LoadedShot& l) -> std::optional<double> {
         const Length f = l.answer.camera.focus;
         return f.is_infinite() ? 0.0 : 1.0 / f.m();
       }},
      {"lens", "lens.focal", "focal length", Law::factor, focal / 4, focal * 4, "", " mm", 4,
       of_lens([](const Lens& l) { return l.focal.mm(); })},
      {"lens", "lens.adapter", "adapter", Law::factor, 0.5, 2, "", "", 3,
       of_lens([](const Lens& l) { return l.adapter; })},
      {"lens", "lens.squeeze", "squeeze", Law::linear, 1, 2, "", "", 3,
       of_lens([](const Lens& l) { return l.squeeze; })},
      {"iris", "lens.iris.blades", "blades", Law::whole, 0, 16, "", "", 2,
       of_lens([](const Lens& l) { return l.iris.blades; })},
      {"iris", "lens.iris.blade_radius", "blade radius", Law::curvature, -0.6, 1, "", " x", 4,
       [](const LoadedShot& l) -> std::optional<double> { return curvature_of(l); }},
      {"iris", "lens.iris.rotation", "rotation", Law::linear, -180, 180, "", " deg", 4,
       of_lens([](const Lens& l) { return l.iris.rotation.degrees(); })},
      {"iris", "lens.iris.rim", "rim", Law::linear, -3, 3, "", "", 3,
       of_lens([](const Lens& l) { return l.iris.edge_falloff; })},
      {"iris", "lens.iris.rings", "rings", Law::whole, 0, 24, "", "", 2,
       of_lens([](const Lens& l) { return l.iris.rings; })},
      {"iris", "lens.iris.uneven", "uneven", Law::linear, 0, 0.2, "", "", 2,
       of_lens([](const Lens& l) { return l.iris.uneven; })},
      {"iris", "lens.iris.obstruction", "obstruction", Law::linear, 0, 0.9, "", "", 2,
       of_lens([](const Lens& l) { return l.iris.obstruction; })},
      {"faults", "lens.faults.spherical", "spherical", Law::linear, -0.3, 0.3, "", " mm", 3,
       of_lens([](const Lens& l) { return l.aberrations.spherical.mm(); })},
      {"faults", "lens.faults.curvature", "curvature", Law::linear, -0.5, 0.5, "", " dpt", 3,
       of_lens([](const Lens& l) { return l.aberrations.curvature.dioptres(); })},
      {"faults", "lens.faults.focus_red", "focus of red", Law::linear, -0.1, 0.1, "", " dpt", 3,
       of_lens([](const Lens& l) { return l.aberrations.focus_shift[0].dioptres(); })},
      {"faults", "lens.faults.focus_blue", "focus of blue", Law::linear, -0.1, 0.1, "", " dpt", 3,
       of_lens([](const Lens& l) { return l.aberrations.focus_shift[2].dioptres(); })},
      {"camera", "scene.back", "farther back", Law::linear, -0.8 * reach, 4.0 * reach, "", " m", 4,
       of_scene([](const SceneEntry& s) { return s.back.m(); })},
      {"camera", "scene.right", "to the right", Law::linear, -reach, reach, "", " m", 4,
       of_scene([](const SceneEntry& s) { return s.right.m(); })},
      {"camera", "scene.up", "up", Law::linear, -reach, reach, "", " m", 4,
       of_scene([](const SceneEntry& s) { return s.up.m(); })},
      {"camera", "scene.orbit", "orbit", Law::linear, -90, 90, "", " deg", 4,
       of_scene([](const SceneEntry& s) { return s.orbit.degrees(); })},
      {"camera", "scene.orbit_up", "orbit up", Law::linear, -45, 60, "", " deg", 4,
       of_scene([](const SceneEntry& s) { return s.orbit_up.degrees(); })},
      {"light", "take.iso", "ISO", Law::factor, 50, 12800, "", "", 3,
       [](const LoadedShot& l) { return l.now.take.iso; }},
      {"light", "take.nd", "ND", Law::linear, 0, 10, "", " stops", 2,
       of_take([](const Take& t) { return t.nd_stops; })},
      {"light", "take.white", "white", Law::mired, 2500, 12000, "", " K", 4,
       [](const LoadedShot& l) -> std::optional<double> {
         if (!l.now.take.white) return std::nullopt;
         return l.now.take.white->temperature.kelvin();
       }},
      {"finish", "finish.halo.share", "halo", Law::linear, 0, 20, "", " %", 3,
       [](const LoadedShot& l) -> std::optional<double> {
         const auto& h = l.now.finish.halo;
         if (!h) return 0.0;
         return 100.0 * std::max({h->fraction[0], h->fraction[1], h->fraction[2]});
       }},
      {"finish", "finish.halo.reach", "its reach", Law::factor, 0.02, 5, "", " %", 3,
       [](const LoadedShot& l) -> std::optional<double> {
         if (!l.now.finish.halo) return std::nullopt;
         return percent_of_width(l.now.finish.halo->reach, l);
       }},
      {"finish", "finish.spikes.times", "spikes times", Law::factor, 0.01, 1000, "", "", 3,
       [](const LoadedShot& l) -> std::optional<double> {
         if (!l.now.finish.spikes) return std::nullopt;
         return l.now.finish.spikes->times;
       }},
      {"finish", "finish.streak.share", "streak", Law::linear, 0, 20, "", " %", 3,
       [](const LoadedShot& l) -> std::optional<double> {
         return l.now.finish.streak ? 100.0 * l.now.finish.streak->fraction : 0.0;
       }},
      {"finish", "finish.streak.direction", "its direction", Law::linear, -90, 90, "", " deg", 3,
       [](const LoadedShot& l) -> std::optional<double> {
         if (!l.now.finish.streak) return std::nullopt;
         return l.now.finish.streak->direction.degrees();
       }},
      {"finish", "finish.corners", "corners", Law::linear, -1, 4, "", " stops", 3,
       [](const LoadedShot& l) -> std::optional<double> {
         return l.now.finish.corners ? l.now.finish.corners->stops : 0.0;
       }},
      {"finish", "finish.cast", "cast, mired", Law::linear, -120, 120, "", "", 3,
       [](const LoadedShot& l) -> std::optional<double> {
         return l.now.finish.cast ? l.now.finish.cast->mired : 0.0;
       }},
      {"finish", "finish.grain.grey", "grain", Law::linear, 0, 0.05, "", "", 3,
       [](const LoadedShot& l) -> std::optional<double> {
         return l.now.finish.grain ? l.now.finish.grain->grey[1] : 0.0;
       }},
      {"cheat", "cheat.blur", "blur times", Law::factor, 0.25, 4, "", "", 3,
       [](const LoadedShot& l) -> std::optional<double> { return l.now.blur_override.blur; }},
  };
}

bool is_focus(const std::string& key) { return key.starts_with("focus.") && key != "focus.offset"; }

}  // namespace

Json controls_of(const LiveShot& shot, bool look_follows) {
  const LoadedShot& loaded = shot.loaded();
  Json list = Json::array();
  // A picture that was given shows what it shows; a scene can be looked at from elsewhere.
  const bool may_move = look_follows && loaded.now.scene.has_value();
  for (const Control& c : all_controls(loaded)) {
    if (std::string_view(c.section) == "camera" && !may_move) continue;
    const std::optional<double> value = c.value(loaded);
    const std::optional<double> noted = c.value(shot.as_in_file());
    Json one{{"section", c.section},  {"key", c.key},       {"label", c.label},
             {"law", name_of(c.law)}, {"prefix", c.prefix}, {"suffix", c.suffix},
             {"digits", c.digits}};
    // A value beyond the usual range is shown as it is.
    one["min"] = value ? std::min(c.min, *value) : c.min;
    one["max"] = value ? std::max(c.max, *value) : c.max;
    one["value"] = value ? Json(*value) : Json(nullptr);
    one["noted"] = noted ? Json(*noted) : Json(nullptr);
    bool changed = false;
    for (const LiveValue& v : shot.values()) {
      changed = changed || v.key == c.key || (is_focus(c.key) && is_focus(v.key));
    }
    one["changed"] = changed;
    one["of_nothing"] = belongs_to_nothing(c.key, loaded.now.finish);
    const auto origin = loaded.answer.origins.find(c.key);
    one["guessed"] =
        origin != loaded.answer.origins.end() && origin->second.source == Origin::Source::guessed;
    list.push_back(one);
  }
  return list;
}

}  // namespace jolly_iris::live
