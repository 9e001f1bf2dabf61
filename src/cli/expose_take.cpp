// What the numbers of the day mean for light, and what changing them costs.
#include <fmt/format.h>

#include <cmath>
#include <nlohmann/json.hpp>

#include "expose.hpp"
#include "jolly_iris/errors.hpp"
#include "jolly_iris/exposure_hold.hpp"
#include "jolly_iris/handoff.hpp"
#include "jolly_iris/smear.hpp"
#include "output.hpp"
#include "text.hpp"

namespace jolly_iris::cli {

namespace {

using Json = nlohmann::ordered_json;

std::string factor_text(double factor) {
  return fmt::format("{:.{}f} x", factor, factor < 10.0 ? 2 : 1);
}

std::string noise_text(double stops) {
  if (std::abs(stops) < 0.005) return "same";
  return fmt::format("{:+.2f} stops", stops);
}

// ---- trades ------------------------------------------------------------------------------------

struct TradeRow {
  std::string change{};
  std::optional<Trade> trade{};
  std::string refused{};
  Partner pays = Partner::iso;
};

TradeRow trade_row(const Lens& lens, const Take& was, const Take& now, Partner pays,
                   const std::string& change) {
  TradeRow row{change, {}, {}, pays};
  try {
    row.trade = hold_exposure(lens, was, now, pays);
  } catch (const OpticsError& e) {
    row.refused = e.what();
  }
  return row;
}

// One stop wider and one narrower, each paid by each of the others.
std::vector<TradeRow> usual_trades(const Shot& shot) {
  std::vector<TradeRow> rows;
  for (const double factor : {std::sqrt(0.5), std::sqrt(2.0)}) {
    Take now = shot.take;
    now.stop.value = nearest_f_number(now.stop.value * factor);
    if (!opens_to(shot.lens, now.stop)) {  // then as far as it opens, if that is any wider
      now.stop = widest_as(shot.lens, now.stop.kind);
      if (now.stop.value > 0.97 * shot.take.stop.value) continue;
    }
    for (const Partner pays : {Partner::iso, Partner::shutter, Partner::nd}) {
      rows.push_back(trade_row(shot.lens, shot.take, now, pays, stop_text(now.stop)));
    }
  }
  return rows;
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
                        factor_text(t.blur_times), factor_text(t.smear_times),
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
  j["smear_times"] = t.smear_times;
  j["blur_times"] = t.blur_times;
  return j;
}

// ---- smear -------------------------------------------------------------------------------------

// px a second of the subject that was asked for.
std::optional<double> speed_of(const ExposeOptions& options, LoadedShot& loaded) {
  if (options.of.empty()) return std::nullopt;
  Scene* scene = loaded.scene ? &*loaded.scene : nullptr;
  if (options.metres_per_second) {
    for (const SubjectBlur& s : loaded.answer.subjects) {
      if (s.name != options.of) continue;
      return speed_in_picture(loaded.answer.camera, *options.metres_per_second, s.axial);
    }
  }
  // It also says which names there are.
  const double frame = loaded.answer.frame.value_or(0.0);
  return speed_in_picture(loaded.shot, scene, options.of, frame);
}

std::string smear_text(const std::string& name, double px_per_second, Duration time) {
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

// What --set changed, held by --pay.
std::string pay_text(const ExposeOptions& options, const Take& was, const Trade& t,
                     std::optional<double> speed) {
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
  if (std::abs(t.smear_times - 1.0) > 0.005) {
    price += fmt::format("motion smears {} as far; ", factor_text(t.smear_times));
  }
  if (std::abs(t.noise_stops) > 0.005) {
    price +=
        fmt::format("{:.2f} stops {} sensitivity, so {} noise; ", std::abs(t.noise_stops),
                    t.noise_stops > 0.0 ? "more" : "less", t.noise_stops > 0.0 ? "more" : "less");
  }
  if (price.empty()) price = "none; ";
  row("price", price.substr(0, price.size() - 2));
  if (speed) {
    row("before", smear_text(options.of, *speed, *shutter_time(was)));
    if (*speed > 0.0) row("then", smear_text(options.of, *speed, *shutter_time(t.nearest)));
  }
  text += "\nTo paste below [take], beside the change:\n\n" + paste_of(t.pays, t.nearest) + "\n";
  return text;
}

// The take as the file has it, at the same frame.
Take untried(const ExposeOptions& options, const LoadedShot& loaded,
             std::vector<std::string>& files) {
  ShotOptions plain = options.shot;
  std::erase_if(plain.tried, [](const Tried& t) { return t.key.starts_with("take."); });
  if (plain.tried.size() == options.shot.tried.size()) {
    throw UsageError(
        "--pay holds the exposure for a change of the take; say which: --set take.stop=f/1.8");
  }
  const LoadedShot was = load(plain, files);
  const Take& take = was.now.take;
  const bool changes_ev = take.ev || loaded.now.take.ev;
  if (changes_ev) {
    throw UsageError(loaded.shot.where("take.ev") +
                     "a given ev holds by itself: stop, shutter and ISO change nothing of the "
                     "brightness, so nobody has to pay");
  }
  return take;
}

}  // namespace

std::pair<std::string, std::string> take_said(const ExposeOptions& options, LoadedShot& loaded,
                                              std::vector<std::string>& files) {
  const Shot& shot = loaded.now;
  const Answer& a = loaded.answer;
  std::string text = tried_line(loaded.shot);
  text += a.ev100 ? fmt::format("EXPOSURE: EV100 {:.2f}\n", *a.ev100)
                  : std::string("EXPOSURE: not known\n");
  for (const auto& [name, value, more] : exposure_rows(loaded)) {
    text += more.empty()
                ? fmt::format("  {:<18}{}\n", name, value)
                : wrapped(more, fmt::format("  {:<18}{:<20}", name, value), std::string(40, ' '));
  }
  Json json = Json::parse(answer_json(a));
  Json out{{"exposure", json["exposure"]}};
  if (options.gains) {
    const White w = white_of_gains(*options.gains, shot.primaries);
    text += fmt::format("\nWHITE: these gains make {} neutral: {:.0f} mired, in {}\n",
                        white_text(w), mired(w.temperature), to_string(shot.primaries));
    out["white_of_gains"] = {
        {"kelvin", w.temperature.kelvin()}, {"tint", w.tint}, {"mired", mired(w.temperature)}};
  }
  const auto speed = speed_of(options, loaded);
  if (speed) {
    out["smear"] = {{"of", options.of}, {"px_per_second", *speed}};
    if (a.shutter) out["smear"]["px"] = *speed * a.shutter->seconds();
  }
  if (options.pay) {
    const Take was = untried(options, loaded, files);
    const Trade trade = hold_exposure(shot.lens, was, shot.take, *options.pay);
    text += pay_text(options, was, trade, speed);
    out["trade"] = trade_json({"", trade, {}, *options.pay});
  } else {
    if (speed && a.shutter)
      text += "\n" + wrapped(smear_text(options.of, *speed, *a.shutter), "", "  ");
    if (a.exposure.by_numbers && !a.exposure.ev_is_given) {
      const auto rows = usual_trades(shot);
      text += trades_text(rows);
      for (const TradeRow& row : rows) out["trades"].push_back(trade_json(row));
    } else if (!a.exposure.ev_is_given) {
      text += "\n" + wrapped(!shot.take.iso       ? "take.iso is not known: write e.g. iso = 800"
                             : !shot.take.shutter ? "take.shutter is not known: write e.g. "
                                                    "shutter = \"1/48 s\""
                                                  : "a shutter angle needs take.fps",
                             "", "  ");
    }
  }
  return {text, out.dump(2, ' ', false, Json::error_handler_t::replace) + "\n"};
}

}  // namespace jolly_iris::cli
