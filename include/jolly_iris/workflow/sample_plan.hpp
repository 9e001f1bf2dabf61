// How many rays a pixel a render needs, from a noisy test of it: by how much things are blurred, at
// the worst places, over all of it, and what that costs in time.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "jolly_iris/export.hpp"
#include "jolly_iris/measure/render_noise.hpp"
#include "jolly_iris/workflow/defocus_run.hpp"
#include "jolly_iris/workflow/load.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

struct SamplePlanRequest {
  std::string picture{};            ///< the test, linear, as rendered: nothing has smoothed it
  std::string again{};              ///< the same with other random numbers; empty: there is none
  double noise = 0.02;              ///< wanted: standard deviation against the level, (0, 1)
  std::optional<double> rays{};     ///< a pixel, that the test had, ≥ 1
  std::optional<double> seconds{};  ///< that it took, > 0
  /// A darker level counts as this: three stops below mid-grey (ISO 12232's 0.18).
  double darkest = 0.0225;
  // what is how far away, as for defocus
  std::string depth{};
  std::string distance{};
  std::string blur{};
  Decoding decoding{};
};

/// What is blurred by so much.
struct SampleBand {
  double from_px = 0.0;
  double to_px = 0.0;        ///< infinity: all above
  double share = 0.0;        ///< of the picture
  double told = 0.0;         ///< share of that of which the noise is known
  double level = 0.0;        ///< median luminance
  double noise = 0.0;        ///< median, against the level
  double times = 0.0;        ///< the rays, for the wanted noise in the median place
  double times_worst = 0.0;  ///< in nineteen of twenty places
};

struct SamplePlace {
  NoisePlace at{};
  double times = 0.0;
  std::optional<Length> axial{};  ///< none: there is no depth
  std::string subject{};          ///< nearest to that distance and in the picture; empty: none
};

struct SamplePlan {
  SamplePlanRequest request{};
  PixelSize size{};  ///< of the test
  RenderNoise noise{};
  std::vector<double> times{};       ///< for each place; where it is not told, its band's worst
  std::vector<SampleBand> bands{};   ///< that there are, from sharp to blurred
  std::vector<SamplePlace> worst{};  ///< at most three, apart from each other
  double told = 0.0;                 ///< share of the picture
  double everywhere =
      0.0;  ///< times the rays so that nineteen of twenty places have what they need
  double where_needed = 0.0;  ///< on average, where each place gets what it needs
  std::vector<std::string> notes{};
  std::vector<std::string> warnings{};
};

/// @throws as defocus_picture for what is how far away; PictureError as render_noise;
///         OpticsError where the noise can be told nowhere, with what would settle it
SamplePlan plan_samples(const SamplePlanRequest& request, const LoadedShot& loaded,
                        std::vector<std::string>& files);

/// The times as a picture of one number a pixel, for renderers that take a map of them.
Picture sample_map(const SamplePlan& plan);

}  // namespace jolly_iris
