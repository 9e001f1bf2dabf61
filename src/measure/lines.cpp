#include "jolly_iris/lines.hpp"

#include "backend.hpp"
#include "jolly_iris/module.hpp"

namespace jolly_iris {

namespace {

const measuring::Backend& backend() {
  static const auto* loaded = static_cast<const measuring::Backend*>(
      module_entry("libjolly_iris_ceres.so", measuring::entry_name));
  return *loaded;
}

}  // namespace

FoundDistortion distortion_from_lines(const VirtualCamera& camera,
                                      const std::vector<DrawnLine>& lines,
                                      const LineSettings& settings) {
  return backend().distortion(camera, lines, settings);
}

FoundPerspective perspective_from_lines(const VirtualCamera& camera,
                                        const std::vector<DrawnLine>& lines,
                                        const LineSettings& settings) {
  return backend().perspective(camera, lines, settings);
}

}  // namespace jolly_iris
