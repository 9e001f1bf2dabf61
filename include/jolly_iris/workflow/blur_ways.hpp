// "The background is not blurry enough": every way to it, side by side, each with its price.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "jolly_iris/export.hpp"
#include "jolly_iris/optics/blur_size.hpp"
#include "jolly_iris/workflow/load.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// One way.
struct BlurWay {
  enum class Kind {
    wider,    ///< another stop
    longer,   ///< another lens from farther away, the thing in focus as large as now
    closer,   ///< the same lens from nearer, still focused on the same thing
    farther,  ///< the thing that shall be blurred stands farther away
    body      ///< a larger gate with a lens that frames alike, at the same f-number
  };
  Kind kind = Kind::wider;
  bool possible = false;
  std::string what{};                 ///< "f/1.5 instead of f/2.2"
  std::string price{};                ///< or, where it is not possible, why not
  std::vector<Override> overrides{};  ///< to try it; empty where only somebody's scene can
};

struct BlurWays {
  std::string at{};
  Length z{};
  double wanted_px = 0.0;
  double now_px = 0.0;
  std::vector<BlurWay> ways{};  ///< all five, in that order
};

/// @param at a subject or a distance, behind what is in focus
/// @throws UsageError for a name that there is not; OpticsError where what shall be blurred is in
///         focus, or in front of it
BlurWays ways_to_blur(const LoadedShot& loaded, const BlurSize& blur, const std::string& at);

}  // namespace jolly_iris
