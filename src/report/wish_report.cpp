#include "report/wish_report.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "jolly_iris/optics/solve.hpp"
#include "report/measured.hpp"
#include "report/text.hpp"

namespace jolly_iris::report {

namespace {

std::string reached_text(const Wish& wish, const WishReached& r) {
  if (wish.kind == Wish::Kind::same_size) return fmt::format("{:.3f} times as large", r.px);
  return fmt::format("{:.2f} px", r.px);
}

std::string missed_text(const Wish& wish, const WishReached& r) {
  if (r.met) return "fulfilled";
  if (wish.kind == Wish::Kind::same_size) {
    return fmt::format("gives way by {:+.1f} %", 100.0 * r.missed);
  }
  return fmt::format("gives way by {:+.2f} px", r.missed);
}

Json wish_json(const WishSolution& s, std::size_t i) {
  const Wish& w = s.problem.wishes[i];
  const WishReached& r = s.found.wishes[i];
  Json one{{"said", s.said[i]}, {"subject", s.problem.subjects[w.subject].name}, {"met", r.met}};
  if (w.kind == Wish::Kind::same_size) {
    one["size_ratio"] = r.px;
    one["missed_ratio"] = r.missed;
  } else {
    one["coc_px"] = r.px;
    one["missed_px"] = r.missed;
  }
  return one;
}

std::string stop_text_of(const Stop& stop) {
  return fmt::format("{}{:.4g}", stop.kind == Stop::Kind::t ? "T" : "f/", stop.value);
}

std::string focus_text(Length focus) {
  return focus.is_infinite() ? "infinity" : fmt::format("{:.4f} m", focus.m());
}

void add_numbers(const WishSolution& s, Json& json) {
  json["stop"] = s.found.stop.value;
  json["focus_m"] = metres_json(s.found.focus);
  json["focal_mm"] = s.found.focal.mm();
  json["camera_back_m"] = s.found.back.m();
  json["all_met"] = s.found.all_met();
  json["wishes"] = Json::array();
  for (std::size_t i = 0; i < s.said.size(); ++i) json["wishes"].push_back(wish_json(s, i));
}

// What of it all is not as now.
std::string changes_text(const WishSolution& s, const LoadedShot& loaded) {
  const WishProblem& p = s.problem;
  std::string text;
  const auto row = [&](const char* name, const std::string& value) {
    text += fmt::format("  {:<14}{}\n", name, value);
  };
  if (p.free.stop) {
    row("stop",
        fmt::format("{} instead of {}", stop_text_of(s.found.stop), stop_text_of(p.take.stop)));
  }
  if (p.free.focus) {
    row("focus", fmt::format("{} instead of {}", focus_text(s.found.focus), focus_text(p.focus)));
  }
  if (p.free.focal) {
    row("focal length", fmt::format("{:.4g} mm instead of {:.4g} mm", s.found.focal.mm(),
                                    loaded.now.lens.focal.mm()));
  }
  if (p.free.camera) {
    row("camera", fmt::format("{} {}", metres_text(Length::from_m(std::abs(s.found.back.m()))),
                              s.found.back.mm() < 0.0 ? "closer" : "farther back"));
  }
  for (const std::size_t i : p.free.subjects) {
    row("moves", fmt::format("{} to {} from the camera", p.subjects[i].name,
                             metres_text(s.found.subjects[i])));
  }
  return text;
}

}  // namespace

Solved say(const WishSolution& s, const LoadedShot& loaded) {
  Solved f;
  std::size_t width = 4;
  for (const std::string& said : s.said) width = std::max(width, width_of(said));
  f.text = s.found.all_met() ? "All wishes at once:\n"
                             : "Not all wishes at once; the nearest to them:\n";
  f.text += changes_text(s, loaded);
  f.text += "\n  " + padded("wish", width) + "  reached\n";
  for (std::size_t i = 0; i < s.said.size(); ++i) {
    const Wish& w = s.problem.wishes[i];
    f.text += "  " + padded(s.said[i], width) + "  " +
              padded(reached_text(w, s.found.wishes[i]), 20) + "  " +
              missed_text(w, s.found.wishes[i]) + '\n';
  }
  for (const std::string& limit : s.limits) f.text += "  " + padded(limit, width) + "  kept\n";
  add_numbers(s, f.json);
  if (s.found.at_widest) {
    f.notes.push_back(
        fmt::format("The stop is as wide as it may be: {}.",
                    s.problem.widest ? "a wish limits it" : "the lens opens no farther"));
  }
  if (s.found.at_smallest) {
    f.notes.emplace_back(s.limited_by_iso
                             ? "The stop is as small as that ISO allows at this shutter."
                             : "The stop is as small as it may be.");
  }
  if (s.iso && loaded.now.take.iso && std::abs(std::log2(*s.iso / *loaded.now.take.iso)) > 0.05) {
    f.json["iso"] = *s.iso;
    f.notes.push_back(fmt::format(
        "As bright as now that is ISO {:.0f} instead of {:.0f}, or {:.2f} stops by "
        "shutter, ND or the lights.",
        *s.iso, *loaded.now.take.iso, std::abs(std::log2(*s.iso / *loaded.now.take.iso))));
  }
  const std::string doubt = real_lens_doubt(s.found.stop.value);
  if (!doubt.empty()) f.notes.push_back(doubt + ".");
  if (!s.found.all_met()) {
    f.notes.emplace_back(
        "How far each wish is missed counts against its own size, and the sum of squares is the "
        "least there is. More freedom may do it: --free stop,focus,focal,camera,NAME.");
  }
  return f;
}

Solved say(const std::vector<WishSolution>& frames, const LoadedShot& loaded) {
  Solved f;
  f.json["frames"] = Json::array();
  if (frames.empty()) return f;
  f.text = fmt::format("{:>8}{:>10}{:>12}", "frame", "stop", "focus");
  for (const std::string& said : frames.front().said) f.text += "  " + said;
  f.text += '\n';
  std::size_t missed = 0;
  for (const WishSolution& s : frames) {
    f.text += fmt::format("{:>8g}{:>10}{:>12}", s.frame.value_or(0.0), stop_text_of(s.found.stop),
                          focus_text(s.found.focus));
    for (std::size_t i = 0; i < s.said.size(); ++i) {
      const std::string reached = reached_text(s.problem.wishes[i], s.found.wishes[i]) +
                                  (s.found.wishes[i].met ? "" : " *");
      f.text += "  " + padded(reached, width_of(s.said[i]));
    }
    f.text += '\n';
    if (!s.found.all_met()) ++missed;
    Json one{{"frame", s.frame ? Json(*s.frame) : Json(nullptr)}};
    add_numbers(s, one);
    f.json["frames"].push_back(one);
  }
  f.json["frames_missed"] = missed;
  if (missed > 0) {
    f.notes.push_back(fmt::format("* gives way: in {} of {} frames not all wishes are fulfilled.",
                                  missed, frames.size()));
  }
  (void)loaded;
  return f;
}

Solved say(const BlurWays& ways, const LoadedShot& loaded) {
  Solved f;
  f.text = fmt::format("{} at {} is blurred by {:.2f} px; {:.4g} px are wanted. Ways to it:\n",
                       ways.at, metres_text(ways.z), ways.now_px, ways.wanted_px);
  f.json["now_px"] = ways.now_px;
  f.json["wanted_px"] = ways.wanted_px;
  f.json["ways"] = Json::array();
  const auto name = [](BlurWay::Kind kind) {
    switch (kind) {
      case BlurWay::Kind::wider:
        return "wider";
      case BlurWay::Kind::longer:
        return "longer";
      case BlurWay::Kind::closer:
        return "closer";
      case BlurWay::Kind::farther:
        return "farther";
      case BlurWay::Kind::body:
        return "body";
    }
    return "";
  };
  for (const BlurWay& w : ways.ways) {
    f.text += fmt::format("  {:<9}{}\n", name(w.kind), w.possible ? w.what : "no: " + w.price);
    if (w.possible) f.text += wrapped(w.price, "           price: ", "           ");
    Json tries = Json::array();
    std::string sets;
    for (const Override& o : w.overrides) {
      tries.push_back(o.key + "=" + o.text);
      sets += fmt::format(" --set \"{}={}\"", o.key, o.text);
    }
    if (!sets.empty()) f.text += "           try it:" + sets + '\n';
    f.json["ways"].push_back({{"way", name(w.kind)},
                              {"possible", w.possible},
                              {"what", w.what},
                              {"price", w.price},
                              {"try", tries}});
  }
  (void)loaded;
  return f;
}

}  // namespace jolly_iris::report
