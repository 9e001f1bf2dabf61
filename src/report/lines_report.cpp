#include "report/lines_report.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "jolly_iris/optics/undistort.hpp"
#include "report/measured.hpp"
#include "report/text.hpp"

namespace jolly_iris::report {

namespace {

std::string toml_of(const Distortion& d) {
  std::string text = "[lens.distortion]\n";
  const char* names[] = {"k1", "k2", "k3"};
  for (std::size_t i = 0; i < 3; ++i) {
    if (d.k[i] != 0.0) text += fmt::format("{} = {:.6g}\n", names[i], d.k[i]);
  }
  for (std::size_t i = 0; i < 2; ++i) {
    if (d.p[i] != 0.0) text += fmt::format("p{} = {:.6g}\n", i + 1, d.p[i]);
  }
  if (d.width) {
    text += fmt::format("wide = [{:.6g}, {:.6g}, {:.6g}]\n", (*d.width)[0], (*d.width)[1],
                        (*d.width)[2]);
  }
  return text + fmt::format("radius = \"{:.6g} mm\"\n", d.radius->mm());
}

// What a shot or lens file takes over.
std::string paste_of(const LineMeasurement& both, const LoadedShot& loaded) {
  std::string paste;
  if (both.distorts && both.straightened_by_found) paste += toml_of(both.distortion->distortion);
  const Shot& shot = loaded.now;
  if (both.perspective && !shot.scene && !shot.track && !shot.take.tilt) {
    paste += fmt::format("[take]\ntilt = \"{:.3f} deg\"\n", both.perspective->tilt_deg.value);
  }
  return paste;
}

Json fits_json(const std::vector<LineFit>& lines) {
  Json list = Json::array();
  for (const LineFit& l : lines) {
    list.push_back({{"name", l.name},
                    {"runs", to_string(l.runs)},
                    {"points", l.points},
                    {"off_px", l.residual_px}});
  }
  return list;
}

}  // namespace

Json lines_json(const LineMeasurement& both, const LoadedShot& loaded) {
  Json json;
  if (both.distortion) {
    const FoundDistortion& d = *both.distortion;
    Json found{{"k", d.distortion.k},
               {"p", d.distortion.p},
               {"radius_mm", d.distortion.radius->mm()},
               {"terms", d.terms},
               {"corner_px", json_of(d.corner_px)},
               {"off_px", d.residual_px},
               {"off_before_px", d.residual_before_px},
               {"lines", fits_json(d.lines)}};
    if (d.distortion.width) found["wide"] = *d.distortion.width;
    json["distortion"] = found;
  } else {
    json["no_distortion"] = both.no_distortion;
  }
  if (both.perspective) {
    const FoundPerspective& p = *both.perspective;
    json["tilt_deg"] = json_of(p.tilt_deg);
    json["roll_deg"] = json_of(p.roll_deg);
    if (p.focal_mm) json["focal_mm"] = json_of(*p.focal_mm);
    json["off_px"] = p.residual_px;
    json["lines"] = fits_json(p.lines);
  } else {
    json["no_perspective"] = both.no_perspective;
  }
  json["toml"] = paste_of(both, loaded);
  return json;
}

namespace {

std::string distortion_text(const LineMeasurement& both, const LoadedShot& loaded) {
  if (!both.distortion) return wrapped("Distortion: " + both.no_distortion + ".", "", "  ");
  const FoundDistortion& d = *both.distortion;
  VirtualCamera c = loaded.answer.camera;
  c.distortion = d.distortion;
  const DistortionFigures figures = figures_of_distortion(c);
  if (std::abs(d.corner_px.value) <= d.corner_px.margin) {
    return wrapped(
        fmt::format("Distortion: none that these edges show; the corner moves by {:+.1f} "
                    "± {:.1f} px. They are {:.2f} px off straight.",
                    d.corner_px.value, d.corner_px.margin, d.residual_before_px),
        "", "  ");
  }
  std::string text = wrapped(
      fmt::format("Distortion: {}, {:.2f} % at the corner ({:+.1f} ± {:.1f} px), by {}. The "
                  "edges were {:.2f} px off straight, {:.2f} px without it.",
                  figures.kind, std::abs(figures.corner_percent), d.corner_px.value,
                  d.corner_px.margin, d.terms, d.residual_before_px, d.residual_px),
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

std::string perspective_text(const LineMeasurement& both, const LoadedShot& loaded) {
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

std::string table_of(const LineMeasurement& both) {
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
                        l.points, l.residual_px);
  }
  return text;
}

}  // namespace

std::string lines_text(const LineMeasurement& both, const LoadedShot& loaded) {
  std::string text =
      distortion_text(both, loaded) + perspective_text(both, loaded) + table_of(both);
  const std::string paste = paste_of(both, loaded);
  if (!paste.empty()) text += "\nTo paste into the shot or lens file:\n\n" + paste;
  return text;
}

}  // namespace jolly_iris::report
