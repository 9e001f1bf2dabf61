// Picture sizes of squeezed and desqueezed frames, and which delivered sizes a gate can fill.
#pragma once

#include <optional>
#include <string_view>
#include <vector>

#include "jolly_iris/export.hpp"
#include "jolly_iris/optics/units.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// Which of a picture's two pixel counts stays when it is squeezed or desqueezed.
enum class KeptSide { height, width };

/// The size of a desqueezed picture: squeeze times as wide, or that many times less high.
/// @param squeeze ≥ 1
PixelSize desqueezed_size(PixelSize squeezed, double squeeze, KeptSide kept = KeptSide::height);
/// The other way: so many times narrower, or higher.
PixelSize squeezed_size(PixelSize desqueezed, double squeeze, KeptSide kept = KeptSide::height);

/// A size that finished pictures commonly have.
struct DeliverySize {
  std::string_view name;
  PixelSize pixels;
};
/// All of them: cinema (SMPTE ST 428-1), UHD (ITU-R BT.2020), HD (ITU-R BT.709), and within those
/// the widths 2.39 and 2.
const std::vector<DeliverySize>& delivery_sizes();

/// One of them cut out of a gate, as large as fits.
struct ProposedSize {
  DeliverySize delivery{};
  double shape = 1.0;        ///< width against height
  double gate_width = 1.0;   ///< share of the gate's width that it shows, (0, 1]
  double gate_height = 1.0;  ///< and of its height
  /// Photosites for one of its pixels; below 1 it is enlarged. None: their number is not known.
  std::optional<double> photosites_across{};
  std::optional<double> photosites_down{};
};

/// What can be delivered of a gate behind a lens, as large as fits each.
/// @param gate as recorded, not desqueezed
/// @param squeeze ≥ 1; 1: none
/// @param photosites that were recorded, if known
std::vector<ProposedSize> proposed_sizes(const Extent& gate, double squeeze,
                                         const std::optional<PixelSize>& photosites);

}  // namespace jolly_iris
