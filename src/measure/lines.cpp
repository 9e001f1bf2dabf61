#include "jolly_iris/lines.hpp"

#include "backend.hpp"

namespace jolly_iris {

FoundDistortion distortion_from_lines(const VirtualCamera& camera,
                                      const std::vector<DrawnLine>& lines,
                                      const LineSettings& settings) {
  return measuring::backend().distortion(camera, lines, settings);
}

FoundPerspective perspective_from_lines(const VirtualCamera& camera,
                                        const std::vector<DrawnLine>& lines,
                                        const LineSettings& settings) {
  return measuring::backend().perspective(camera, lines, settings);
}

}  // namespace jolly_iris
