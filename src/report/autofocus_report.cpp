#include "report/autofocus_report.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "report/measured.hpp"
#include "report/text.hpp"

namespace jolly_iris::report {

namespace {

std::string at_text(double dioptres) {
  return dioptres > 1e-6 ? fmt::format("{:.3f} m", 1.0 / dioptres) : std::string("infinity");
}

}  // namespace

Solved say(const AutofocusKeys& keys, const std::string& on) {
  Solved out;
  double worst = 0.0;
  std::size_t at = 0;
  for (std::size_t i = 0; i < keys.frames.size(); ++i) {
    const double off = std::abs(keys.focus_dpt[i] - keys.wanted_dpt[i]);
    if (off <= worst) continue;
    worst = off;
    at = i;
  }
  out.text = fmt::format("Focus by itself after {}, frames {:g} to {:g}: {}, {}\n", on,
                         keys.frames.front(), keys.frames.back(),
                         counted(keys.moves.size(), "move"), counted(keys.keys, "key"));
  if (keys.own_keys > 0) {
    out.text +=
        fmt::format("{} of the shot lead, the rest joins them\n", counted(keys.own_keys, "key"));
  }
  if (!keys.moves.empty()) {
    out.text += fmt::format("\n{:>10} {:>9}  {:>11} {:>11}\n", "from frame", "to", "from", "to");
    for (const AutofocusMove& m : keys.moves) {
      out.text += fmt::format("{:>10.1f} {:>9.1f}  {:>11} {:>11}{}\n", m.begins, m.ends,
                              at_text(m.from_dpt), at_text(m.to_dpt), m.by_hand ? "  by hand" : "");
    }
  }
  if (worst > 0.0) {
    out.text +=
        fmt::format("\nFarthest from what it follows at frame {:g}: {} against {}\n",
                    keys.frames[at], at_text(keys.focus_dpt[at]), at_text(keys.wanted_dpt[at]));
  }
  out.text += "\n" + keys.toml;
  Json moves = Json::array();
  for (const AutofocusMove& m : keys.moves) {
    moves.push_back({{"begins", m.begins},
                     {"ends", m.ends},
                     {"from_dpt", m.from_dpt},
                     {"to_dpt", m.to_dpt},
                     {"by_hand", m.by_hand}});
  }
  out.json = Json{{"on", on}, {"own_keys", keys.own_keys}};
  out.json["moves"] = std::move(moves);
  out.json["frames"] = Json::array();
  for (std::size_t i = 0; i < keys.frames.size(); ++i) {
    out.json["frames"].push_back({{"frame", keys.frames[i]},
                                  {"wanted_dpt", keys.wanted_dpt[i]},
                                  {"focus_dpt", keys.focus_dpt[i]}});
  }
  out.json["toml"] = keys.toml;
  return out;
}

}  // namespace jolly_iris::report
