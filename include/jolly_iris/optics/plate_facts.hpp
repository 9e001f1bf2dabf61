// What a picture file says about how it was taken. All of it is hearsay until a person agrees.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "jolly_iris/export.hpp"
#include "jolly_iris/optics/shot.hpp"
#include "jolly_iris/optics/units.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

struct PlateFacts {
  PixelSize pixels{};
  std::optional<std::string> camera{};    ///< maker and model as written
  std::optional<std::string> lens{};      ///< lens model as written
  std::optional<Length> focal{};          ///< focal length
  std::optional<double> equivalent_mm{};  ///< focal length equivalent on a 36 × 24 mm gate
  std::optional<Extent> gate{};           ///< from the focal plane's resolution: px a length
  std::optional<double> f_number{};
  std::optional<double> iso{};
  std::optional<Duration> exposure_time{};
  std::optional<double> fps{};
  std::optional<Length> distance{};      ///< to the subject; may be infinite
  std::optional<double> pixel_aspect{};  ///< a pixel's width against its height, where not 1
  std::optional<Transfer> transfer{};    ///< linear for EXR, else as the file says
  /// We wrote it for a shot: what it says of lens and take is what the shot file said, no witness.
  bool from_a_shot = false;
  std::vector<std::string> doubts{};  ///< what was written but cannot be believed
};

/// Whether it says anything of lens, take or gate.
bool says_camera(const PlateFacts& facts);

/// The gate that a focal length and its 36 × 24 mm equivalent imply for a picture of this shape:
/// same diagonal field of view. Source: CIPA DCG-001 (equivalence by the diagonal).
std::optional<Extent> gate_from_equivalent(const PlateFacts& facts);

}  // namespace jolly_iris
