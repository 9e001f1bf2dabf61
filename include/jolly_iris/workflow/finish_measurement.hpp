// What a shot's plate tells of its finish, for `[finish]`.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "jolly_iris/export.hpp"
#include "jolly_iris/measure/finish_in_plate.hpp"
#include "jolly_iris/optics/execution.hpp"
#include "jolly_iris/optics/transfer.hpp"
#include "jolly_iris/workflow/load.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// The plate's smear against what the shot says of its shutter: where its camera moves.
struct ShutterByPlate {
  double expected_px = 0.0;  ///< by the shot's camera and shutter, where the lamps are
  double noted_s = 0.0;      ///< the shutter of the take
  Measured s{};              ///< the one that makes the smear as long as it is
};

struct FinishMeasurement {
  FinishInPlate found{};
  FileMarks marks{};
  double delivered_px = 1.0;       ///< how many px of the delivered picture a pixel of the plate is
  double lens_corner_stops = 0.0;  ///< what lens and barrel of the shot take at the corner
  std::optional<double> spikes_turned_deg{};  ///< against the shot's iris
  std::optional<ShutterByPlate> shutter{};
  Picture plate{};
  std::vector<std::string> notes{};
};

/// @throws UsageError for a shot without a plate; as read_plate and finish_in
FinishMeasurement measure_finish(const LoadedShot& loaded, std::vector<std::string>& files,
                                 const Execution& execution = {});

/// What was found as lines of a shot file: "[finish.halo]" …; empty where nothing was.
std::string finish_toml(const FinishMeasurement& found);

/// What a file did to its picture, by its values and its name.
/// @param transfer by which it was decoded; `curve` for Transfer::table
FileMarks marks_of(const Picture& picture, const std::string& file, Transfer transfer,
                   const Curve& curve = {});

}  // namespace jolly_iris
