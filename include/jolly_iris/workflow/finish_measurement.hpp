// What a shot's plate tells of its finish, for `[finish]`.
#pragma once

#include <string>
#include <vector>

#include "jolly_iris/export.hpp"
#include "jolly_iris/measure/grain_in_plate.hpp"
#include "jolly_iris/measure/halo_in_plate.hpp"
#include "jolly_iris/workflow/load.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

struct FinishMeasurement {
  GrainFinding grain{};
  HaloFinding halo{};
  double file_steps = 0.0;    ///< of the plate's file from 0 to 1; 0: finer than can be seen
  double delivered_px = 1.0;  ///< how many px of the delivered picture a pixel of the plate is
  std::vector<std::string> notes{};
};

/// @throws UsageError for a shot without a plate; as read_plate, grain_in and halo_in
FinishMeasurement measure_finish(const LoadedShot& loaded, std::vector<std::string>& files);

/// What was found as lines of a shot file: "[finish.halo]" …; empty where nothing was.
std::string finish_toml(const FinishMeasurement& found);

}  // namespace jolly_iris
