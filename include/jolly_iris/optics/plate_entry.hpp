// What a shot says of its plate.
#pragma once

#include <optional>
#include <string>

#include "jolly_iris/export.hpp"
#include "jolly_iris/optics/colour_config.hpp"
#include "jolly_iris/optics/plate_marks.hpp"
#include "jolly_iris/optics/transfer.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// The plate, how its numbers stand for light, and what was drawn on it.
struct PlateEntry {
  std::string file{};  ///< may be empty: only marks; "####" stands for the frame's number
  std::optional<Transfer> transfer{};
  Curve curve{};         ///< for Transfer::table
  ManagedSpace space{};  ///< for Transfer::managed
  PlateMarks marks{};    ///< what was drawn on it
};

}  // namespace jolly_iris
