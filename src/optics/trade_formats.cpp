#include <fmt/format.h>

#include <algorithm>

#include "jolly_iris/optics/body.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "optics/nearest.hpp"

namespace jolly_iris {

namespace {
Extent mm(double width, double height) { return {Length::from_mm(width), Length::from_mm(height)}; }

std::string lowered(std::string_view text) {
  std::string out;
  for (const char c : text) {
    out += c >= 'A' && c <= 'Z' ? static_cast<char>(c - 'A' + 'a') : c;
  }
  return out;
}
}  // namespace

const std::vector<TradeFormat>& trade_formats() {
  static const std::vector<TradeFormat> formats{
      // Still: ISO 1007 (135 film, 36 × 24). "aps-c" is the usual digital sensor that is sold under
      // that name; the frame it is named after, the classic one of 24 mm film (IX240), is larger,
      // 25.1 × 16.7 mm. The Four Thirds standard's imaging area; the usual area of sensors sold as
      // "1 inch" type; 120 film's frames (ISO 732 gives the film; frames are those of common
      // cameras).
      {"full frame", mm(36.0, 24.0)},
      {"half frame", mm(24.0, 18.0)},
      {"aps-c", mm(23.6, 15.7)},
      {"four thirds", mm(17.3, 13.0)},
      {"one inch", mm(13.2, 8.8)},
      {"6 x 4.5", mm(56.0, 41.5)},
      {"6 x 6", mm(56.0, 56.0)},
      {"6 x 7", mm(56.0, 70.0)},
      // Cine film, camera apertures: SMPTE ST 59 (35 mm: academy, full = super 35; by
      // perforations), ST 7 (16 mm), ST 201 (super 16), ST 157 (super 8), ST 215 (65 mm).
      {"super 35", mm(24.89, 18.66)},
      {"super 35 3-perf", mm(24.89, 13.87)},
      {"super 35 2-perf", mm(24.89, 9.35)},
      {"academy", mm(21.95, 16.00)},
      {"16 mm", mm(10.26, 7.49)},
      {"super 16", mm(12.52, 7.41)},
      {"super 8", mm(5.79, 4.01)},
      {"65 mm 5-perf", mm(52.63, 23.01)},
      // Video tubes' heirs, 16:9 areas (their diagonals: 11, 8 and 6 mm; ITU-R BT.709's shape).
      {"two thirds inch", mm(9.59, 5.39)},
      {"half inch", mm(6.97, 3.92)},
      {"third inch", mm(5.23, 2.94)},
  };
  return formats;
}

Extent gate_of_format(std::string_view name) {
  const std::string wanted = lowered(name);
  std::vector<std::string> names;
  for (const TradeFormat& f : trade_formats()) {
    if (f.name == wanted) return f.gate;
    names.emplace_back(f.name);
  }
  throw QuantityError(
      fmt::format("'{}' is neither a width x height (write e.g. 25.9 x 14.6 mm) nor a trade format "
                  "we know.{}",
                  name, did_you_mean(wanted, names)));
}

}  // namespace jolly_iris
