#include "report/exposure_report.hpp"

#include <fmt/format.h>

#include <cmath>

#include "files/answer_json.hpp"
#include "report/measured.hpp"
#include "report/text.hpp"

namespace jolly_iris::report {

std::vector<std::array<std::string, 3>> exposure_rows(const LoadedShot& loaded) {
  const Shot& shot = loaded.now;
  const Answer& a = loaded.answer;
  const Exposure& e = a.exposure;
  std::vector<std::array<std::string, 3>> rows;
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
    row("focus", metres_text(a.camera.focus),
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
      : a.corner.vignetting_known
          ? fmt::format("cos^4 {:.2f}, cut off by the barrel {:.2f}", *a.corner.natural,
                        *a.corner.vignetting)
          : std::string("cos^4 alone; lens.barrel or lens.loss would tell the rest"));
  return rows;
}

namespace {

std::string factor_text(double factor) {
  return fmt::format("{:.{}f} x", factor, factor < 10.0 ? 2 : 1);
}

std::string noise_text(double stops) {
  if (std::abs(stops) < 0.005) return "same";
  return fmt::format("{:+.2f} stops", stops);
}

std::string trades_text(const std::vector<TradeRow>& rows) {
  std::string text =
      fmt::format("\nEQUALLY BRIGHT, and its price\n  {:<8}{:<16}{:<16}{:<13}{:<9}{:<9}{}\n",
                  "stop", "paid by", "to set", "off", "discs", "smear", "noise");
  for (const TradeRow& row : rows) {
    if (!row.trade) {
      // What would have to be is in the sentence; the table stays short.
      text += wrapped(row.refused,
                      fmt::format("  {:<8}{:<16}cannot: ", row.change, partner_name(row.pays)),
                      std::string(26, ' '));
      continue;
    }
    const Trade& t = *row.trade;
    text += fmt::format("  {:<8}{:<16}{:<16}{:<13}{:<9}{:<9}{}\n", row.change,
                        partner_text(t.pays, t.exact), partner_text(t.pays, t.nearest),
                        std::abs(t.left_stops) < 0.005 ? std::string("none")
                                                       : fmt::format("{:+.2f} stop", t.left_stops),
                        factor_text(t.blur_times), factor_text(t.motion_blur_times),
                        noise_text(t.noise_stops));
  }
  return text;
}

Json trade_json(const TradeRow& row) {
  Json j{{"change", row.change}, {"pays", to_string(row.pays)}};
  if (!row.trade) {
    j["refused"] = row.refused;
    return j;
  }
  const Trade& t = *row.trade;
  j["light_stops"] = t.light_stops;
  j["exact"] = partner_text(t.pays, t.exact);
  j["nearest"] = partner_text(t.pays, t.nearest);
  j["left_stops"] = t.left_stops;
  j["noise_stops"] = t.noise_stops;
  j["smear_times"] = t.motion_blur_times;
  j["blur_times"] = t.blur_times;
  return j;
}

std::string motion_blur_text(const std::string& name, double px_per_second, Duration time) {
  const double px = px_per_second * time.seconds();
  if (px_per_second == 0.0) {
    return fmt::format(
        "{} does not move here, so it smears by nothing; say how fast it goes: --speed \"1 m/s\"",
        name);
  }
  return fmt::format("{} smears by {:.1f} px: it goes {:.0f} px a second, for {}", name, px,
                     px_per_second, time_text(time));
}

std::string paste_of(Partner partner, const Take& take) {
  switch (partner) {
    case Partner::stop:
      return fmt::format("stop = \"{}\"", stop_text(take.stop));
    case Partner::shutter:
      return fmt::format("shutter = \"{}\"", partner_text(partner, take));
    case Partner::iso:
      return fmt::format("iso = {:g}", *take.iso);
    case Partner::nd:
      break;
  }
  return fmt::format("nd = \"{:.4g} stops\"", take.nd_stops);
}

// What was tried, held by who pays.
std::string pay_text(const TakeExposure& e) {
  const Trade& t = *e.paid->trade;
  const Take& was = e.was;
  const std::optional<double>& speed = e.px_per_second;
  std::string text = fmt::format("\nHELD: the change makes the picture {} {}; {} pays\n",
                                 stops_text(t.light_stops),
                                 t.light_stops < 0.0 ? "darker" : "brighter", partner_name(t.pays));
  const auto row = [&](const char* name, const std::string& value) {
    text += wrapped(value, fmt::format("  {:<16}", name), std::string(18, ' '));
  };
  row("was", partner_text(t.pays, was));
  row("exactly", partner_text(t.pays, t.exact));
  row("to set", fmt::format("{}: {}", partner_text(t.pays, t.nearest),
                            std::abs(t.left_stops) < 0.005
                                ? std::string("as bright as before")
                                : fmt::format("{:.2f} stop {} than before", std::abs(t.left_stops),
                                              t.left_stops > 0.0 ? "brighter" : "darker")));
  std::string price;
  if (std::abs(t.blur_times - 1.0) > 0.005) {
    price += fmt::format("discs are {} as large; ", factor_text(t.blur_times));
  }
  if (std::abs(t.motion_blur_times - 1.0) > 0.005) {
    price += fmt::format("motion smears {} as far; ", factor_text(t.motion_blur_times));
  }
  if (std::abs(t.noise_stops) > 0.005) {
    price +=
        fmt::format("{:.2f} stops {} sensitivity, so {} noise; ", std::abs(t.noise_stops),
                    t.noise_stops > 0.0 ? "more" : "less", t.noise_stops > 0.0 ? "more" : "less");
  }
  if (price.empty()) price = "none; ";
  row("price", price.substr(0, price.size() - 2));
  if (speed) {
    row("before", motion_blur_text(e.of, *speed, *shutter_time(was)));
    if (*speed > 0.0) row("then", motion_blur_text(e.of, *speed, *shutter_time(t.nearest)));
  }
  text += "\nTo paste below [take], beside the change:\n\n" + paste_of(t.pays, t.nearest) + "\n";
  return text;
}

}  // namespace

Json white_json(const White& w) {
  return {{"kelvin", w.temperature.kelvin()}, {"tint", w.tint}, {"mired", mired(w.temperature)}};
}

std::string take_text(const TakeExposure& e, const LoadedShot& loaded) {
  const Shot& shot = loaded.now;
  const Answer& a = loaded.answer;
  std::string text = a.ev100 ? fmt::format("EXPOSURE: EV100 {:.2f}\n", *a.ev100)
                             : std::string("EXPOSURE: not known\n");
  for (const auto& [name, value, more] : exposure_rows(loaded)) {
    text += more.empty()
                ? fmt::format("  {:<18}{}\n", name, value)
                : wrapped(more, fmt::format("  {:<18}{:<20}", name, value), std::string(40, ' '));
  }
  if (e.white_of_gains) {
    const White& w = *e.white_of_gains;
    text += fmt::format("\nWHITE: these gains make {} neutral: {:.0f} mired, in {}\n",
                        white_text(w), mired(w.temperature), to_string(shot.primaries));
  }
  if (e.paid) return text + pay_text(e);
  if (e.px_per_second && a.shutter) {
    text += "\n" + wrapped(motion_blur_text(e.of, *e.px_per_second, *a.shutter), "", "  ");
  }
  if (a.exposure.ev_is_given) return text;
  if (!a.exposure.by_numbers) {
    return text + "\n" +
           wrapped(!shot.take.iso ? "take.iso is not known: write e.g. iso = 800"
                   : !shot.take.shutter
                       ? "take.shutter is not known: write e.g. shutter = \"1/48 s\""
                       : "a shutter angle needs take.fps",
                   "", "  ");
  }
  return text + trades_text(e.usual);
}

Json take_json(const TakeExposure& e, const LoadedShot& loaded) {
  Json out{{"exposure", exposure_json(loaded.answer)}};
  if (e.white_of_gains) out["white_of_gains"] = white_json(*e.white_of_gains);
  if (e.px_per_second) {
    out["smear"] = {{"of", e.of}, {"px_per_second", *e.px_per_second}};
    if (loaded.answer.shutter) {
      out["smear"]["px"] = *e.px_per_second * loaded.answer.shutter->seconds();
    }
  }
  if (e.paid) out["trade"] = trade_json(*e.paid);
  for (const TradeRow& row : e.usual) out["trades"].push_back(trade_json(row));
  return out;
}

}  // namespace jolly_iris::report
