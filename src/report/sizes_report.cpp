#include "report/sizes_report.hpp"

#include <fmt/format.h>

#include <array>
#include <optional>

#include "jolly_iris/optics/picture_size.hpp"

namespace jolly_iris::report {

namespace {

std::string times(PixelSize size) { return fmt::format("{} x {}", size.width, size.height); }

std::optional<PixelSize> recorded_photosites(const Body& body) {
  return body.window ? body.window : body.photosites;
}

// "super 35 3-perf …": how wide gates become behind common squeezes.
std::string table_of_gates(Json& json) {
  constexpr std::array squeezes{1.33, 1.5, 1.8, 2.0};
  std::string text = "\nShapes of other gates, desqueezed\n";
  text += fmt::format("  {:<18}{:>14}", "gate", "mm");
  for (const double s : squeezes) text += fmt::format("{:>9}", fmt::format("{:g} x", s));
  text += '\n';
  json["gates"] = Json::array();
  for (const TradeFormat& f : trade_formats()) {
    text += fmt::format("  {:<18}{:>14}", f.name,
                        fmt::format("{:.2f} x {:.2f}", f.gate.width.mm(), f.gate.height.mm()));
    Json row{{"gate", f.name}};
    for (const double s : squeezes) {
      const double shape = s * (f.gate.width / f.gate.height);
      text += fmt::format("{:>9.2f}", shape);
      row["shapes"].push_back({{"squeeze", s}, {"shape", shape}});
    }
    text += '\n';
    json["gates"].push_back(row);
  }
  return text;
}

}  // namespace

SqueezeSizes squeeze_sizes(const LoadedShot& loaded) {
  const Body& body = loaded.now.body;
  const double squeeze = loaded.now.lens.squeeze;
  const Extent gate = recorded_gate(body);
  const auto photosites = recorded_photosites(body);
  const double whole = squeeze * (gate.width / gate.height);
  Json json{{"squeeze", squeeze}, {"shape", whole}};
  std::string text =
      fmt::format("A squeeze of {:g} x on a gate of {:.2f} x {:.2f} mm: desqueezed {:.2f} : 1\n",
                  squeeze, gate.width.mm(), gate.height.mm(), whole);
  if (photosites) {
    const PixelSize width = desqueezed_size(*photosites, squeeze);
    const PixelSize low = desqueezed_size(*photosites, squeeze, KeptSide::width);
    text += fmt::format("  {:<34}{}\n", "as recorded, squeezed", times(*photosites));
    text += fmt::format("  {:<34}{}\n", "desqueezed, its height kept", times(width));
    text += fmt::format("  {:<34}{}\n", "desqueezed, its width kept", times(low));
    json["recorded"] = {photosites->width, photosites->height};
    json["height_kept"] = {width.width, width.height};
    json["width_kept"] = {low.width, low.height};
  } else {
    text += "  (body.photosites would tell the sizes as recorded)\n";
  }
  text += fmt::format("\nCut out of it, as large as fits\n  {:<18}{:>12}{:>7}   {}\n",
                      "delivered as", "px", "shape",
                      photosites ? "of the gate           photosites for a px" : "of the gate");
  json["deliveries"] = Json::array();
  for (const ProposedSize& p : proposed_sizes(gate, squeeze, photosites)) {
    std::string sites;
    Json row{{"name", p.delivery.name},
             {"width", p.delivery.pixels.width},
             {"height", p.delivery.pixels.height},
             {"gate_wide", p.gate_width},
             {"gate_high", p.gate_height}};
    if (p.photosites_across) {
      sites = fmt::format("{:.2f} across, {:.2f} down", *p.photosites_across, *p.photosites_down);
      row["photosites_across"] = *p.photosites_across;
      row["photosites_down"] = *p.photosites_down;
    }
    std::string line = fmt::format(
        "  {:<18}{:>12}{:>7.2f}   {:<22}{}", p.delivery.name, times(p.delivery.pixels), p.shape,
        fmt::format("{:.0f} % wide, {:.0f} % high", 100.0 * p.gate_width, 100.0 * p.gate_height),
        sites);
    line.erase(line.find_last_not_of(' ') + 1);
    text += line + '\n';
    json["deliveries"].push_back(row);
  }
  text += table_of_gates(json);
  return {text, json};
}

}  // namespace jolly_iris::report
