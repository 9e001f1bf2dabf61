#include <fmt/format.h>

#include <cmath>
#include <nlohmann/json.hpp>
#include <ostream>

#include "jolly_iris/errors.hpp"
#include "jolly_iris/lines.hpp"
#include "jolly_iris/undistort.hpp"
#include "output.hpp"
#include "text.hpp"
#include "verbs.hpp"

namespace jolly_iris::cli {

namespace {

using Json = nlohmann::ordered_json;

// Both questions are asked; what cannot be told says why.
struct Both {
  std::optional<FoundDistortion> distortion{};
  std::string no_distortion{};
  std::optional<FoundPerspective> perspective{};
  std::string no_perspective{};
  bool straightened_by_found = false;
};

Both measured(const MeasureOptions& options, const LoadedShot& loaded) {
  const std::vector<DrawnLine>& lines = loaded.now.plate->marks.lines;
  LineSettings settings{options.drawn_px, options.focal};
  VirtualCamera camera = loaded.answer.camera;
  Both both;
  try {
    both.distortion = distortion_from_lines(camera, lines, settings);
    // What the shot file says leads; else what was just found.
    both.straightened_by_found = !camera.distortion.any();
    if (both.straightened_by_found) camera.distortion = both.distortion->distortion;
  } catch (const OpticsError& e) {
    both.no_distortion = e.what();
  }
  try {
    both.perspective = perspective_from_lines(camera, lines, settings);
  } catch (const OpticsError& e) {
    both.no_perspective = e.what();
  }
  return both;
}

std::string toml_of(const Distortion& d) {
  std::string text = "[lens.distortion]\n";
  const char* names[] = {"k1", "k2", "k3"};
  for (std::size_t i = 0; i < 3; ++i) {
    if (d.k[i] != 0.0) text += fmt::format("{} = {:.6g}\n", names[i], d.k[i]);
  }
  for (std::size_t i = 0; i < 2; ++i) {
    if (d.p[i] != 0.0) text += fmt::format("p{} = {:.6g}\n", i + 1, d.p[i]);
  }
  if (d.wide) {
    text +=
        fmt::format("wide = [{:.6g}, {:.6g}, {:.6g}]\n", (*d.wide)[0], (*d.wide)[1], (*d.wide)[2]);
  }
  return text + fmt::format("radius = \"{:.6g} mm\"\n", d.radius->mm());
}

Json json_of(const Measured& m) { return {{"value", m.value}, {"margin", m.margin}}; }

Json json_of(const std::vector<LineFit>& lines) {
  Json list = Json::array();
  for (const LineFit& l : lines) {
    list.push_back({{"name", l.name},
                    {"runs", to_string(l.runs)},
                    {"points", l.points},
                    {"off_px", l.off_px}});
  }
  return list;
}

Json json_of(const Both& both) {
  Json json;
  if (both.distortion) {
    const FoundDistortion& d = *both.distortion;
    Json found{{"k", d.distortion.k},
               {"p", d.distortion.p},
               {"radius_mm", d.distortion.radius->mm()},
               {"terms", d.terms},
               {"corner_px", json_of(d.corner_px)},
               {"off_px", d.off_px},
               {"off_before_px", d.off_before_px},
               {"lines", json_of(d.lines)}};
    if (d.distortion.wide) found["wide"] = *d.distortion.wide;
    json["distortion"] = found;
  } else {
    json["no_distortion"] = both.no_distortion;
  }
  if (both.perspective) {
    const FoundPerspective& p = *both.perspective;
    json["tilt_deg"] = json_of(p.tilt_deg);
    json["roll_deg"] = json_of(p.roll_deg);
    if (p.focal_mm) json["focal_mm"] = json_of(*p.focal_mm);
    json["off_px"] = p.off_px;
    json["lines"] = json_of(p.lines);
  } else {
    json["no_perspective"] = both.no_perspective;
  }
  return json;
}

std::string distortion_text(const Both& both, const LoadedShot& loaded) {
  if (!both.distortion) return wrapped("Distortion: " + both.no_distortion + ".", "", "  ");
  const FoundDistortion& d = *both.distortion;
  VirtualCamera c = loaded.answer.camera;
  c.distortion = d.distortion;
  const DistortionFigures figures = figures_of_distortion(c);
  if (std::abs(d.corner_px.value) <= d.corner_px.margin) {
    return wrapped(
        fmt::format("Distortion: none that these edges show; the corner moves by {:+.1f} "
                    "± {:.1f} px. They are {:.2f} px off straight.",
                    d.corner_px.value, d.corner_px.margin, d.off_before_px),
        "", "  ");
  }
  std::string text = wrapped(
      fmt::format("Distortion: {}, {:.2f} % at the corner ({:+.1f} ± {:.1f} px), by {}. The "
                  "edges were {:.2f} px off straight, {:.2f} px without it.",
                  figures.kind, std::abs(figures.corner_percent), d.corner_px.value,
                  d.corner_px.margin, d.terms, d.off_before_px, d.off_px),
      "", "  ");
  if (!both.straightened_by_found) {
    const double noted = figures_of_distortion(loaded.answer.camera).corner_px;
    text +=
        wrapped(fmt::format("The shot file's coefficients move that corner by {:+.1f} px{}.", noted,
                            std::abs(noted - d.corner_px.value) > d.corner_px.margin
                                ? ": the plate says otherwise"
                                : ", which agrees"),
                "", "  ");
  }
  return text;
}

std::string perspective_text(const Both& both, const LoadedShot& loaded) {
  if (!both.perspective) return wrapped("Perspective: " + both.no_perspective + ".", "", "  ");
  const FoundPerspective& p = *both.perspective;
  std::string text = fmt::format(
      "Perspective: the camera looks {:.2f} ± {:.2f} deg {} and is rolled {:.2f} ± {:.2f} deg "
      "{}.\n",
      std::abs(p.tilt_deg.value), p.tilt_deg.margin, p.tilt_deg.value < 0.0 ? "down" : "up",
      std::abs(p.roll_deg.value), p.roll_deg.margin,
      p.roll_deg.value < 0.0 ? "counter-clockwise" : "clockwise");
  for (const VanishingPoint& v : p.vanishing) {
    text += v.widths > 1000.0
                ? fmt::format("  {} edges are parallel in the picture\n", to_string(v.runs))
                : fmt::format(
                      "  {} edges meet {:.1f} picture widths from the middle, at ({:.0f}, "
                      "{:.0f}) px\n",
                      to_string(v.runs), v.widths, v.px[0], v.px[1]);
  }
  const Shot& shot = loaded.now;
  if (shot.scene || shot.track || shot.take.tilt) {
    const double noted = lean_of(loaded.answer.place).tilt.degrees();
    const double apart = noted - p.tilt_deg.value;
    text += fmt::format(
        "  the CG camera looks {:.2f} deg {}: {}\n", std::abs(noted), noted < 0.0 ? "down" : "up",
        std::abs(apart) <= p.tilt_deg.margin
            ? std::string("that agrees")
            : fmt::format("{:.2f} deg too far {}", std::abs(apart), apart > 0.0 ? "up" : "down"));
  }
  if (p.focal_mm) {
    const double noted = loaded.answer.camera.focal.mm();
    text += fmt::format(
        "Focal length: {:.2f} ± {:.2f} mm, as a pinhole camera is given it; noted is {:.2f} mm "
        "({:+.1f} %).\n",
        p.focal_mm->value, p.focal_mm->margin, noted, 100.0 * (noted / p.focal_mm->value - 1.0));
  }
  return text;
}

std::string table_of(const Both& both) {
  std::vector<LineFit> lines = both.distortion ? both.distortion->lines : std::vector<LineFit>{};
  for (const LineFit& l : both.perspective ? both.perspective->lines : std::vector<LineFit>{}) {
    const auto same = [&](const LineFit& other) { return other.name == l.name; };
    if (std::none_of(lines.begin(), lines.end(), same)) lines.push_back(l);
  }
  std::size_t width = 4;
  for (const LineFit& l : lines) width = std::max(width, width_of(l.name));
  std::string text =
      fmt::format("\n  {}  {:<9}{:>7}{:>9}\n", padded("edge", width), "runs", "points", "off px");
  for (const LineFit& l : lines) {
    text += fmt::format("  {}  {:<9}{:>7}{:>9.2f}\n", padded(l.name, width), to_string(l.runs),
                        l.points, l.off_px);
  }
  return text;
}

}  // namespace

void measure(const MeasureOptions& options, const Streams& io, std::vector<std::string>& files) {
  const LoadedShot loaded = load(options.shot, files);
  const bool has_picture = loaded.now.plate && !loaded.now.plate->file.empty();
  const bool has_lines = loaded.now.plate && !loaded.now.plate->marks.lines.empty();
  if (options.discs && !has_picture) {
    throw UsageError(loaded.shot.file +
                     ": names no plate to find discs in; write [plate] file = \"plate.exr\"");
  }
  if (options.discs || (has_picture && !has_lines && !options.focal)) {
    return measure_discs(options, loaded, io, files);
  }
  if (!options.overlay.empty()) {
    throw UsageError("--overlay draws discs; ask for them with --discs");
  }
  if (!has_lines) {
    throw UsageError(loaded.shot.file +
                     ": has no edges drawn in its plate; draw some on the shot's page "
                     "(jolly-iris page), or write [[plate.line]] points = [[x, y], [x, y]]");
  }
  const Both both = measured(options, loaded);
  if (!both.distortion && !both.perspective) {
    throw OpticsError(fmt::format("{}the drawn edges tell nothing. Distortion: {}. Perspective: {}",
                                  loaded.shot.where("plate.line"), both.no_distortion,
                                  both.no_perspective));
  }
  if (options.focal && !both.perspective) {
    throw OpticsError(loaded.shot.where("plate.line") + both.no_perspective);
  }
  Json json = json_of(both);
  std::string text = tried_line(loaded.shot) + distortion_text(both, loaded) +
                     perspective_text(both, loaded) + table_of(both);
  std::string paste;
  const bool shows = both.distortion &&
                     std::abs(both.distortion->corner_px.value) > both.distortion->corner_px.margin;
  if (shows && both.straightened_by_found) paste += toml_of(both.distortion->distortion);
  const Shot& shot = loaded.now;
  if (both.perspective && !shot.scene && !shot.track && !shot.take.tilt) {
    paste += fmt::format("[take]\ntilt = \"{:.3f} deg\"\n", both.perspective->tilt_deg.value);
  }
  if (!paste.empty()) text += "\nTo paste into the shot or lens file:\n\n" + paste;
  json["toml"] = paste;
  say(options.shot.form, io, json.dump(2) + "\n", text);
}

}  // namespace jolly_iris::cli
