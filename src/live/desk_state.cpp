// Everything that a page shows besides pictures.
#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <filesystem>

#include "jolly_iris/workflow/sequence.hpp"
#include "live/controls.hpp"
#include "live/desk.hpp"
#include "optics/value_text.hpp"

namespace jolly_iris::live {

namespace {

Json finite(double v) { return std::isfinite(v) ? Json(v) : Json(nullptr); }

Json subjects_of_page(const Answer& a) {
  Json list = Json::array();
  const auto add = [&](const SubjectBlur& s) {
    list.push_back({{"name", s.name},
                    {"m", finite(s.axial.m())},
                    {"distance", short_metres_text(s.axial)},
                    {"px", s.coc_px},
                    {"sharp", s.sharp},
                    {"partly", s.partly_sharp}});
  };
  for (const SubjectBlur& s : a.subjects) {
    if (s.in_picture) add(s);
  }
  add(a.infinity);
  return list;
}

Json facts_of(const Answer& a) {
  const VirtualCamera& c = a.camera;
  Json rows = Json::array();
  const auto row = [&](const char* name, const std::string& value) {
    rows.push_back(Json::array({name, value}));
  };
  row("focal length", fmt::format("{:.2f} mm", c.focal.mm()));
  row("f-number", fmt::format("f/{:.3g}", c.f_number));
  row("focus", fmt::format("{} ({})", short_metres_text(c.focus), a.focus_description));
  row("field of view", fmt::format("{:.1f} x {:.1f} deg", c.horizontal_picture_view().degrees(),
                                   c.vertical_picture_view().degrees()));
  row("opening", fmt::format("{:.2f} mm across", 2.0 * c.aperture_radius.mm()));
  row("sharp", a.nothing_sharp ? std::string("nothing is")
                               : fmt::format("{} to {}", short_metres_text(a.sharp.near),
                                             short_metres_text(a.sharp.far)));
  row("hyperfocal", short_metres_text(a.hyperfocal));
  if (a.ev100) row("exposure", fmt::format("EV {:.2f} at ISO 100", *a.ev100));
  return rows;
}

Json guesses_of(const Answer& a) {
  Json list = Json::array();
  for (const auto& [key, origin] : a.origins) {
    if (origin.source != Origin::Source::guessed) continue;
    list.push_back({{"key", key}, {"text", origin.text}, {"why", origin.why}});
  }
  return list;
}

}  // namespace

Json Desk::state() {
  const LoadedShot& loaded = shot_.loaded();
  const Answer& a = loaded.answer;
  Json j;
  j["serial"] = serial_;
  j["version"] = version_;
  j["file"] = std::filesystem::path(loaded.shot.file).filename().string();
  j["variant"] = loaded.shot.variant;
  j["source"] = look_.source();
  const PixelSize size = look_.size(loaded);
  j["size"] = Json::array({size.width, size.height});
  j["pixels"] = Json::array({a.camera.pixels.width, a.camera.pixels.height});
  j["has_scene"] = loaded.scene.has_value();
  j["has_plate"] = loaded.now.plate && !loaded.now.plate->file.empty();
  j["plate"] = plate_saved_;
  j["controls"] = controls_of(shot_, look_.is_traced());
  j["values"] = Json::array();
  for (const LiveValue& v : shot_.values()) {
    j["values"].push_back({{"key", v.key}, {"text", v.text}, {"in_file", v.in_file}});
  }
  j["subjects"] = subjects_of_page(a);
  j["facts"] = facts_of(a);
  j["notes"] = a.notes;
  j["guesses"] = guesses_of(a);
  j["limit_px"] = a.coc_limit / a.camera.pixel_pitch();
  j["focus_m"] = finite(a.camera.focus.m());
  j["near_m"] = finite(a.sharp.near.m());
  j["far_m"] = finite(a.sharp.far.m());
  j["can_undo"] = shot_.can_undo();
  j["can_redo"] = shot_.can_redo();
  j["tries"] = Json::array();
  for (const LiveTry& t : shot_.tries()) {
    const bool same = t.values.size() == shot_.values().size() &&
                      std::equal(t.values.begin(), t.values.end(), shot_.values().begin(),
                                 [](const LiveValue& x, const LiveValue& y) {
                                   return x.key == y.key && x.text == y.text;
                                 });
    Json values = Json::array();
    for (const LiveValue& v : t.values) values.push_back(v.key + " = " + v.text);
    j["tries"].push_back({{"name", t.name}, {"now", same}, {"values", values}});
  }
  j["conflicts"] = Json::array();
  for (const LiveConflict& c : shot_.conflicts()) {
    j["conflicts"].push_back({{"key", c.key}, {"in_hand", c.in_hand}, {"in_file", c.in_file}});
  }
  const auto range = frames_of_shot(loaded);
  j["frames"] = nullptr;
  if (range) {
    j["frames"] = {{"first", range->first},
                   {"last", range->last},
                   {"now", a.frame ? Json(*a.frame) : Json(range->first)},
                   {"pulled", !loaded.shot.pulls.empty()}};
  }
  j["looks"] = looks_;
  const auto look = loaded.shot.origins.find("lens.look");
  j["look"] = look == loaded.shot.origins.end() ? std::string() : look->second.text;
  Json advised = Json::array();
  for (const LiveValue& v : advice_.values) {
    advised.push_back({{"key", v.key}, {"text", v.text}, {"why", v.in_file}});
  }
  j["match"] = {{"asked", advice_.asked},
                {"running", advice_.running},
                {"trouble", advice_.trouble},
                {"said", advice_.said},
                {"values", advised}};
  j["trouble"] = file_trouble_;
  j["told"] = told_;
  return j;
}

}  // namespace jolly_iris::live
