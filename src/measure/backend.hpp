// What the module that links Ceres offers to the library that loads it on first use.
#pragma once

#include <vector>

#include "jolly_iris/discs.hpp"
#include "jolly_iris/lines.hpp"

namespace jolly_iris::measuring {

FoundDistortion distortion_from_lines(const VirtualCamera& camera,
                                      const std::vector<DrawnLine>& lines,
                                      const LineSettings& settings);
FoundPerspective perspective_from_lines(const VirtualCamera& camera,
                                        const std::vector<DrawnLine>& lines,
                                        const LineSettings& settings);

FoundDiscs discs_in_plate(const Picture& plate, const DiscHints& hints,
                          const DiscSettings& settings);

std::vector<std::array<double, 2>> outline_of(const PlateDisc& disc, const PlateIris& iris);

struct Backend {
  decltype(&distortion_from_lines) distortion;
  decltype(&perspective_from_lines) perspective;
  decltype(&discs_in_plate) discs;
  decltype(&measuring::outline_of) outline;
};

/// Loads it. @throws FileError
const Backend& backend();

/// Name of the module's only entry, which returns a Backend.
inline constexpr const char* entry_name = "jolly_iris_measure_backend";

}  // namespace jolly_iris::measuring
