// Light that a lens spreads far beyond where it belongs: halo, spikes and streak, each as a kernel,
// and what they do to a picture.
//
//   const ScatterKernel k = halo_kernel(halo, camera, picture.size());
//   const Picture hazy = scattered(picture, {k}).picture;
//
// A share of every pixel's light is taken away from it and put where the kernel says. What would
// land beyond the frame is not taken, as if as much came in from there: so the picture keeps its
// light, and an even picture stays even up to its edges.
#pragma once

#include <memory>
#include <string>
#include <vector>

#include "jolly_iris/export.hpp"
#include "jolly_iris/optics/camera.hpp"
#include "jolly_iris/optics/execution.hpp"
#include "jolly_iris/optics/finish.hpp"
#include "jolly_iris/optics/sharpness.hpp"
#include "jolly_iris/picture/picture.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// Where light goes: the same seen from both sides, f(x, y) = f(−x, −y).
struct ScatterShape {
  int reach_x = 0;  ///< px
  int reach_y = 0;
  /// (2 reach_x + 1) × (2 reach_y + 1), row by row from the top; adds up to 1.
  std::vector<float> values{};

  float at(int x, int y) const {
    return values[static_cast<std::size_t>(y + reach_y) *
                      static_cast<std::size_t>(2 * reach_x + 1) +
                  static_cast<std::size_t>(x + reach_x)];
  }
};

struct ScatterKernel {
  std::string name{};  ///< "halo", "spikes", "streak"
  /// Of red, green and blue; often the same one.
  std::array<std::shared_ptr<const ScatterShape>, 3> shape{};
  Rgb fraction{};  ///< of the light that is spread, 0 … 1
};

/// @param size of the picture: its width shows what the camera's picture shows, as for defocus
/// @throws OpticsError (finish.halo…) for values out of their ranges
ScatterKernel halo_kernel(const Halo& halo, const VirtualCamera& camera, PixelSize size,
                          const Margin& margin = {});
/// @throws OpticsError (finish.streak…) for values out of their ranges
ScatterKernel streak_kernel(const Streak& streak, const VirtualCamera& camera, PixelSize size,
                            const Margin& margin = {});

struct SpikeSettings {
  /// Wavelengths in nm; empty: 400 … 700 every 10 nm, in equal light. A single one is grey.
  std::vector<double> wavelengths_nm{};
  /// Of the opening's field along a side: a power of two, 256 … 16384. 0: as many as the picture
  /// needs, 1024 … 4096.
  int samples = 0;
  int max_reach = 0;  ///< px; 0: as far as `samples` tell, and no farther than the picture
};

/// The diffraction of the camera's opening on the axis: blades, what blocks it, and its light
/// (dust, scratches). Each pixel holds the light that falls within it; the middle one is left out.
/// The outermost seventh fades to nothing; what is left out stays in the middle.
/// Source: Fraunhofer diffraction, light at x is |FT of the opening|² at x / λv (e.g. Hecht,
/// *Optics*, ch. 10), λ to RGB by colour_matching.
/// @throws OpticsError as Pupil, and (finish.spikes) where `times` takes more light than there is;
///         UsageError for settings out of their ranges
ScatterKernel spike_kernel(const Spikes& spikes, const VirtualCamera& camera, PixelSize size,
                           const Margin& margin = {}, const SpikeSettings& settings = {});

struct ScatterLayer {
  std::string name{};
  Picture added{};  ///< below zero where light was taken; alpha 0
};

struct Scattered {
  Picture picture{};
  std::vector<ScatterLayer> layers{};  ///< where asked for, one a kernel
};

/// All kernels at once, each of the picture as it was.
/// @param layers also what each kernel alone adds
/// @throws PictureError for colour that is not finite; OpticsError where all kernels together take
///         more light than there is; MemoryError; Cancelled
Scattered scattered(const Picture& picture, const std::vector<ScatterKernel>& kernels,
                    bool layers = false, const Execution& execution = {});

}  // namespace jolly_iris
