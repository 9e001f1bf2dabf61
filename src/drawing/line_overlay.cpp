// A plate with the edges that somebody drew in it.
#include <fmt/format.h>

#include "drawing/result_sheets.hpp"
#include "jolly_iris/picture_files/picture_file.hpp"
#include "report/text.hpp"

namespace jolly_iris {

MarkedPicture line_overlay(const LineMeasurement& lines, const LoadedShot& loaded,
                           std::vector<std::string>& notes, std::vector<std::string>& files) {
  const std::string& file = plate_file(loaded, "to draw its edges in");
  files.push_back(file);
  MarkedPicture out;
  Frame plate = read_plate(*loaded.now.plate);
  out.picture = std::move(plate.colour);
  notes = std::move(plate.notes);
  const double to_plate = static_cast<double>(out.picture.width()) / loaded.now.body.pixels.width;
  const std::vector<DrawnLine>& drawn = loaded.now.plate->marks.lines;
  const std::vector<LineFit>* fits = lines.perspective  ? &lines.perspective->lines
                                     : lines.distortion ? &lines.distortion->lines
                                                        : nullptr;
  for (std::size_t i = 0; i < drawn.size(); ++i) {
    PictureMark mark;
    for (const auto& p : drawn[i].points) {
      mark.outline.push_back({p[0] * to_plate, p[1] * to_plate});
    }
    // There and back again: a line, not an area.
    for (std::size_t k = drawn[i].points.size(); k-- > 1;) {
      mark.outline.push_back(
          {drawn[i].points[k - 1][0] * to_plate, drawn[i].points[k - 1][1] * to_plate});
    }
    mark.label = drawn[i].name.empty() ? fmt::format("line {}", i + 1) : drawn[i].name;
    if (fits != nullptr) {
      for (const LineFit& f : *fits) {
        if (f.name == mark.label) mark.label += fmt::format(": {:.2f} px", f.residual_px);
      }
    }
    out.marks.push_back(std::move(mark));
  }
  out.title =
      fmt::format("{}: {}", report::file_name(file), report::counted(drawn.size(), "drawn edge"));
  out.subtitle = lines.perspective
                     ? fmt::format(
                           "the camera looks {:+.2f} ± {:.2f} deg up, rolled {:+.2f} ± "
                           "{:.2f} deg",
                           lines.perspective->tilt_deg.value, lines.perspective->tilt_deg.margin,
                           lines.perspective->roll_deg.value, lines.perspective->roll_deg.margin)
                     : lines.no_perspective;
  out.foot = fits == nullptr ? "Edges as they were drawn."
                             : "Edges as they were drawn; behind each: how far its points are off "
                               "what was fitted, root mean square.";
  return out;
}

}  // namespace jolly_iris
