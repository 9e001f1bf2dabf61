#include "optics/value_text.hpp"

#include <fmt/format.h>

#include <cmath>

namespace jolly_iris {

std::string metres_text(Length l) {
  if (l.is_infinite()) return "infinity";
  return fmt::format("{:.{}f} m", l.m(), l.m() < 100.0 ? 3 : 1);
}

std::string short_metres_text(Length l) {
  return l.is_infinite() ? "infinity" : fmt::format("{:.4g} m", l.m());
}

std::string time_text(Duration time) {
  const double t = time.seconds();
  return t < 0.5 ? fmt::format("1/{:.4g} s", 1.0 / t) : fmt::format("{:.3g} s", t);
}

std::string stop_text(const Stop& stop) {
  return fmt::format("{}{:g}", stop.kind == Stop::Kind::f ? "f/" : "T", stop.value);
}

std::string partner_text(Partner partner, const Take& take) {
  switch (partner) {
    case Partner::stop:
      return take.stop.kind == Stop::Kind::f ? fmt::format("f/{:.3g}", take.stop.value)
                                             : fmt::format("T{:.3g}", take.stop.value);
    case Partner::shutter:
      if (take.shutter && take.shutter->angle) {
        return fmt::format("{:.4g} deg", take.shutter->angle->degrees());
      }
      return take.shutter ? time_text(*take.shutter->time) : "";
    case Partner::iso:
      return take.iso ? fmt::format("ISO {:.4g}", *take.iso) : "";
    case Partner::nd:
      break;
  }
  return fmt::format("ND {:.3g} stops", take.nd_stops);
}

std::string white_text(const White& white) {
  if (std::abs(white.tint) < 1.5e-4) return fmt::format("{:.0f} K", white.temperature.kelvin());
  return fmt::format("{:.0f} K tint {:+.4f}", white.temperature.kelvin(), white.tint);
}

}  // namespace jolly_iris
