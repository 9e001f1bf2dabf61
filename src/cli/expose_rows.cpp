// The exposure as rows, and how its parts are written.
#include <fmt/format.h>

#include <cmath>

#include "expose.hpp"
#include "text.hpp"

namespace jolly_iris::cli {

std::string partner_name(Partner partner) {
  return partner == Partner::iso  ? "ISO"
         : partner == Partner::nd ? "ND"
                                  : std::string(to_string(partner));
}

std::string stops_text(double stops) {
  return fmt::format("{:.2f} stop{}", std::abs(stops), std::abs(stops) <= 1.0 ? "" : "s");
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

Rows exposure_rows(const LoadedShot& loaded) {
  const Shot& shot = loaded.now;
  const Answer& a = loaded.answer;
  const Exposure& e = a.exposure;
  Rows rows;
  const auto row = [&](const char* name, const std::string& value, const std::string& more) {
    rows.push_back({name, value, more});
  };
  row("stop", stop_text(shot.take.stop),
      fmt::format("T{:.3f}{}", e.marked_t,
                  shot.take.stop.kind == Stop::Kind::t ? ""
                  : shot.lens.transmission
                      ? fmt::format(": the lens passes {:g} of the light", *shot.lens.transmission)
                      : ": transmission not known, taken as 1"));
  if (shot.lens.adapter != 1.0) {
    row("adapter", fmt::format("{:g} x", shot.lens.adapter),
        fmt::format("T{:.3f}: a reducer gathers the light, an extender spreads it", e.adapter_t));
  }
  if (std::abs(e.working_t / e.adapter_t - 1.0) > 1e-4) {
    row("focus", metres(a.camera.focus),
        fmt::format("T{:.3f}: focused this close, the lens is {:.2f} stop slower", e.working_t,
                    2.0 * std::log2(e.working_t / e.adapter_t)));
  }
  row("shutter", shot.take.shutter ? partner_text(Partner::shutter, shot.take) : "not known",
      !e.time ? ""
              : fmt::format("{}{}", time_text(*e.time),
                            a.shutter_angle && !shot.take.shutter->angle
                                ? fmt::format(", {:.4g} deg", a.shutter_angle->degrees())
                                : std::string()));
  row("sensitivity", e.iso ? fmt::format("ISO {:g}", *e.iso) : "not known", "");
  if (e.nd_stops > 0.0) {
    row("neutral density", fmt::format("{:.3g} stops", e.nd_stops),
        fmt::format("passes 1/{:.3g} of the light", std::exp2(e.nd_stops)));
  }
  if (e.ev100) {
    row("EV100", fmt::format("{:.3f}", *e.ev100),
        e.ev_is_given ? "as the take says; stop, shutter and ISO change only blur and smear"
                      : "log2(T^2/t) - log2(ISO/100) + ND");
    row("metered grey", fmt::format("{:.4g} cd/m2", metered_luminance(*e.ev100)),
        "a reflected-light meter calls it correct (ISO 2720, K 12.5)");
    const double q = lens_q(e.t_is_known);
    const double grey = value_per_candela(*e.ev100, Anchor::grey, q);
    const double full = value_per_candela(*e.ev100, Anchor::saturation, q);
    const bool by_grey = a.anchor == Anchor::grey;
    row("CG light", fmt::format("times {:.4g}", by_grey ? grey : full),
        by_grey ? "turns cd/m2 into picture values: that grey becomes 0.18"
                : fmt::format("turns cd/m2 into picture values: {:.4g} cd/m2 becomes 1 (ISO 12232)",
                              1.0 / full));
    row("other anchor", fmt::format("times {:.4g}", by_grey ? full : grey),
        by_grey
            ? fmt::format("anchor \"saturation\": {:.4g} cd/m2 becomes 1 (ISO 12232)", 1.0 / full)
            : "anchor \"grey\": a metered grey becomes 0.18 (ISO 2720)");
    row("CG's lights", std::string(to_string(a.light)),
        a.light == SceneLight::candela ? "so a render times that factor is exposed"
        : a.light == SceneLight::unscaled
            ? "they are in no unit and stay as they are: meter a render"
            : "scene.light = \"cd/m2\", or \"unscaled\" if in no unit");
  }
  if (a.cg_shutter) {
    const CgShutter& s = *a.cg_shutter;
    row("CG shutter", fmt::format("{:.4g} of a frame", s.open_fraction),
        fmt::format("centred {:+.4g} to {:+.4g}, or from the frame on 0 to {:.4g}{}",
                    s.centred.opens, s.centred.closes, s.from_frame.closes,
                    s.open_fraction > 1.0 ? ": longer than the frame" : ""));
  }
  if (a.white) {
    const Rgb g = white_gains(*a.white, shot.primaries);
    row("white", white_text(*a.white),
        fmt::format("{:.0f} mired; gains R {:.3f}, G 1, B {:.3f} in {}",
                    mired(a.white->temperature), g[0], g[2], to_string(shot.primaries)));
  }
  row("corners", fmt::format("{:.2f} stop darker", a.corner.stops),
      a.corner.measured ? std::string("as measured")
      : a.corner.barrel_known
          ? fmt::format("cos^4 {:.2f}, cut off by the barrel {:.2f}", *a.corner.natural,
                        *a.corner.barrel)
          : std::string("cos^4 alone; lens.barrel or lens.loss would tell the rest"));
  return rows;
}

}  // namespace jolly_iris::cli
