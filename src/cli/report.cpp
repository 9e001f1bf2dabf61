#include <fmt/format.h>

#include <cmath>
#include <filesystem>
#include <nlohmann/json.hpp>
#include <ostream>

#include "jolly_iris/deviation.hpp"
#include "jolly_iris/dialect_file.hpp"
#include "jolly_iris/handoff.hpp"
#include "jolly_iris/usda.hpp"
#include "output.hpp"
#include "text.hpp"
#include "verbs.hpp"

namespace jolly_iris::cli {

namespace {

using Json = nlohmann::ordered_json;

DialectSetting setting_of(const LoadedShot& loaded) {
  DialectSetting setting{loaded.shot.unit, loaded.answer.camera.pixels, {}};
  // What is in focus may stand off the axis; then its radial distance is longer.
  for (const SubjectBlur& s : loaded.answer.subjects) {
    if (loaded.now.focus.on == s.name && !loaded.now.move && s.radial.mm() > 0.0) {
      setting.off_axis = Angle::from_radians(std::acos(std::min(1.0, s.axial / s.radial)));
    }
  }
  return setting;
}

// Beside the tool, wherever it is installed: bin/ and share/ have one parent.
std::filesystem::path shipped_dialects() {
  std::error_code error;
  const auto tool = std::filesystem::read_symlink("/proc/self/exe", error);
  return tool.parent_path().parent_path() / "share" / "jolly_iris" / "dialects";
}

std::string said(double value) {
  if (std::isinf(value)) return "infinity";
  return fmt::format("{:.6g}", value);
}

void report_in_dialect(const ReportOptions& options, const LoadedShot& loaded, const Streams& io,
                       std::vector<std::string>& files) {
  const auto file = find_dialect(options.dialect, shipped_dialects());
  files.push_back(file.string());
  const Dialect dialect = read_dialect(file);
  const auto values = said_in(dialect, as_cg_camera(loaded.answer.camera), setting_of(loaded));
  Json json{{"dialect", dialect.name}, {"fields", Json::array()}};
  std::size_t width = 0;
  for (const DialectValue& v : values) width = std::max(width, width_of(v.label));
  std::string text = tried_line(loaded.shot);
  for (const DialectValue& v : values) {
    json["fields"].push_back({{"name", v.label},
                              {"value", std::isinf(v.value) ? Json(nullptr) : Json(v.value)},
                              {"unit", v.unit}});
    text += fmt::format("{}  {}{}{}\n", padded(v.label, width), said(v.value),
                        v.unit.empty() ? "" : " ", v.unit);
  }
  say(options.shot.form, io, json.dump(2) + "\n", text);
}

PlacedCamera read_camera(const std::string& file, const LoadedShot& loaded,
                         std::vector<std::string>& files) {
  files.push_back(file);
  const VirtualCamera& wanted = loaded.answer.camera;
  if (std::filesystem::path(file).extension() == ".toml") {
    const TypedCamera typed = read_typed(file);
    PlacedCamera found{meant_by(typed.dialect, typed.values, setting_of(loaded), wanted.picture),
                       {}};
    found.camera.said = fmt::format("typed in '{}'", typed.dialect.name);
    return found;
  }
  const bool usda = std::filesystem::path(file).extension() == ".usda";
  Scene scene = usda ? read_usda(file, loaded.answer.frame) : read_scene(file);
  if (loaded.answer.frame && !scene.channels.empty()) {
    pose_at_frame(scene, loaded.shot, *loaded.answer.frame);
  }
  std::optional<std::string> name;
  for (const SceneCamera& camera : scene.cameras) {
    if (loaded.shot.scene && camera.name == loaded.shot.scene->camera) name = camera.name;
  }
  return camera_in(scene, name, wanted.picture);
}

void report_against(const ReportOptions& options, const LoadedShot& loaded, const Streams& io,
                    std::vector<std::string>& files) {
  const PlacedCamera found = read_camera(options.against, loaded, files);
  const auto differences = deviations(found, loaded.now, loaded.answer);
  const VirtualCamera& wanted = loaded.answer.camera;
  const RealLens real = real_lens_of(found.camera, wanted, loaded.now.lens, wanted.focus);
  std::string text = tried_line(loaded.shot);
  text += fmt::format("The camera {} amounts to a lens of {:.4g} mm{} on this body{}.\n",
                      found.camera.said, real.focal.mm(),
                      real.stop ? fmt::format(" at f/{:.3g}", *real.stop) : "",
                      loaded.now.lens.adapter != 1.0
                          ? fmt::format(" with its {:g} x adapter", loaded.now.lens.adapter)
                          : "");
  text += fmt::format("Noted were {:.4g} mm at {}.\n", loaded.now.lens.focal.mm(),
                      stop_text(loaded.now.take.stop));
  Json json{{"focal_mm", real.focal.mm()}, {"deviations", Json::array()}};
  if (real.stop) json["f_number"] = *real.stop;
  for (const Deviation& d : differences) {
    json["deviations"].push_back({{"said", d.said}, {"amount", d.amount}, {"reason", d.reason}});
    text += wrapped(d.said + (d.reason.empty() ? "." : ": " + d.reason + "."), "- ", "  ");
  }
  if (differences.empty()) text += "It equals the shot's camera in all that it tells.\n";
  say(options.shot.form, io, json.dump(2) + "\n", text);
}

}  // namespace

void report(const ReportOptions& options, const Streams& io, std::vector<std::string>& files) {
  LoadedShot loaded = load(options.shot, files);
  const std::optional<PlateEntry>& plate = loaded.shot.plate;
  if (plate && !plate->file.empty() && !std::filesystem::exists(plate->file)) {
    io.err << "warning: " << loaded.shot.where("plate.file") << plate->file << " is not there\n";
  }
  if (options.frames.asked) {
    report_frames(options, loaded, io);
  } else if (!options.dialect.empty()) {
    report_in_dialect(options, loaded, io, files);
  } else if (!options.against.empty()) {
    report_against(options, loaded, io, files);
  } else {
    say(options.shot.form, io, answer_json(loaded.answer), report_text(loaded));
  }
}

}  // namespace jolly_iris::cli
