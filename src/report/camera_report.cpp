#include "report/camera_report.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "report/measured.hpp"
#include "report/text.hpp"

namespace jolly_iris::report {

std::string spoken_text(const SpokenCamera& spoken) {
  std::size_t width = 0;
  for (const DialectValue& v : spoken.values) width = std::max(width, width_of(v.label));
  std::string text;
  for (const DialectValue& v : spoken.values) {
    text += fmt::format("{}  {}{}{}\n", padded(v.label, width),
                        std::isinf(v.value) ? "infinity" : fmt::format("{:.6g}", v.value),
                        v.unit.empty() ? "" : " ", v.unit);
  }
  return text;
}

Json spoken_json(const SpokenCamera& spoken) {
  Json json{{"dialect", spoken.dialect}, {"fields", Json::array()}};
  for (const DialectValue& v : spoken.values) {
    json["fields"].push_back({{"name", v.label},
                              {"value", std::isinf(v.value) ? Json(nullptr) : Json(v.value)},
                              {"unit", v.unit}});
  }
  return json;
}

std::string deviations_text(const CameraDeviations& found, const LoadedShot& loaded) {
  const RealLens& real = found.lens;
  std::string text =
      fmt::format("The camera {} amounts to a lens of {:.4g} mm{} on this body{}.\n", found.who,
                  real.focal.mm(), real.stop ? fmt::format(" at f/{:.3g}", *real.stop) : "",
                  loaded.now.lens.adapter != 1.0
                      ? fmt::format(" with its {:g} x adapter", loaded.now.lens.adapter)
                      : "");
  text += fmt::format("Noted were {:.4g} mm at {}.\n", loaded.now.lens.focal.mm(),
                      stop_text(loaded.now.take.stop));
  for (const Deviation& d : found.deviations) {
    text += wrapped(d.message + (d.reason.empty() ? "." : ": " + d.reason + "."), "- ", "  ");
  }
  if (found.deviations.empty()) text += "It equals the shot's camera in all that it tells.\n";
  return text;
}

Json deviations_json(const CameraDeviations& found) {
  Json json{{"focal_mm", found.lens.focal.mm()}, {"deviations", Json::array()}};
  if (found.lens.stop) json["f_number"] = *found.lens.stop;
  for (const Deviation& d : found.deviations) {
    json["deviations"].push_back({{"said", d.message}, {"amount", d.amount}, {"reason", d.reason}});
  }
  return json;
}

}  // namespace jolly_iris::report
