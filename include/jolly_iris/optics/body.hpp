// The real camera: what its sensor recorded, and the picture it delivered.
#pragma once

#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "jolly_iris/export.hpp"
#include "jolly_iris/optics/units.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// What a delivered picture of another shape than the gate keeps of it.
enum class FitMode {
  gate_width,   ///< the picture's width shows the gate's whole width
  gate_height,  ///< the picture's height shows the gate's whole height
  whole_gate,   ///< nothing is lost: the picture has bars beside or above the gate
  no_bars       ///< nothing is added: the picture is cut out of the gate
};

/// "gate width", "gate height", "whole gate", "no bars".
std::string_view to_string(FitMode keeps);

/// Which luminance stands for which picture value.
enum class Anchor {
  grey,       ///< what a reflected-light meter calls correct becomes 0.18
  saturation  ///< what ISO 12232 calls saturated becomes 1
};

/// "grey", "saturation".
std::string_view to_string(Anchor anchor);

/// The real camera: the recorded area of its sensor and the picture it delivers.
struct Body {
  std::string name{};
  Extent gate{};                          ///< width × height of all `photosites`, > 0
  PixelSize pixels{};                     ///< the delivered (desqueezed) picture, > 0
  std::optional<PixelSize> photosites{};  ///< photosites across the gate, if known
  std::optional<PixelSize> window{};      ///< photosites that were recorded; none: all of them
  FitMode keeps = FitMode::gate_width;
  double pixel_aspect = 1.0;       ///< width of a delivered pixel against its height, > 0
  std::optional<Length> flange{};  ///< lens mount to sensor plane, if known
  Anchor anchor = Anchor::grey;    ///< of its picture values
};

/// A gate the trade knows by name.
struct TradeFormat {
  std::string_view name;
  Extent gate;
};

/// All of them, still formats first. Each has its source beside it in trade_formats.cpp.
const std::vector<TradeFormat>& trade_formats();

/// The gate of a trade format, e.g. "super 35"; letter case does not count.
/// @throws QuantityError for a name that is not known, with the nearest one
Extent gate_of_format(std::string_view name);

/// What was recorded: the gate, shrunk by the window where one is set.
/// @throws OpticsError (body.window) for a window without photosites, or larger than they are
Extent recorded_gate(const Body& body);

/// Width against height of the delivered picture as it is looked at: pixels × pixel aspect.
double picture_shape(const Body& body);

/// How much of a (desqueezed) gate's plane the delivered picture shows, by what it keeps.
Extent shown_by_picture(const Body& body, const Extent& desqueezed_gate);

}  // namespace jolly_iris
