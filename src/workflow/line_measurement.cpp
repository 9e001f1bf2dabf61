#include "jolly_iris/workflow/line_measurement.hpp"

#include <fmt/format.h>

#include <cmath>

#include "jolly_iris/optics/errors.hpp"

namespace jolly_iris {

LineMeasurement measure_lines(const LoadedShot& loaded, const LineSettings& settings) {
  if (!loaded.now.plate || loaded.now.plate->marks.lines.empty()) {
    throw UsageError(loaded.shot.file +
                     ": has no edges drawn in its plate; draw some on the shot's page, "
                     "or write [[plate.line]] points = [[x, y], [x, y]]");
  }
  const std::vector<DrawnLine>& lines = loaded.now.plate->marks.lines;
  VirtualCamera camera = loaded.answer.camera;
  LineMeasurement both;
  try {
    both.distortion = distortion_from_lines(camera, lines, settings);
    // What the shot file says leads; else what was just found.
    both.straightened_by_found = !camera.distortion.any();
    if (both.straightened_by_found) camera.distortion = both.distortion->distortion;
    const Measured& corner = both.distortion->corner_px;
    both.distorts = std::abs(corner.value) > corner.margin;
  } catch (const OpticsError& e) {
    both.no_distortion = e.what();
  }
  try {
    both.perspective = perspective_from_lines(camera, lines, settings);
  } catch (const OpticsError& e) {
    both.no_perspective = e.what();
  }
  const std::string where = loaded.shot.where("plate.line");
  if (!both.distortion && !both.perspective) {
    throw OpticsError(fmt::format("{}the drawn edges tell nothing. Distortion: {}. Perspective: {}",
                                  where, both.no_distortion, both.no_perspective));
  }
  if (settings.focal && !both.perspective) throw OpticsError(where + both.no_perspective);
  return both;
}

}  // namespace jolly_iris
