#include "report/carry_report.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>

#include "files/csv_table.hpp"
#include "report/measured.hpp"
#include "report/text.hpp"

namespace jolly_iris::report {

namespace {

std::string measure_text(const MasterBlur& blur, BlurMeasure measure) {
  switch (measure) {
    case BlurMeasure::pixels:
      return fmt::format("{} px", blur_text(blur.value));
    case BlurMeasure::picture:
      return fmt::format("{:+.3f} % of the picture's width", 100.0 * blur.value);
    case BlurMeasure::subject:
      break;
  }
  return fmt::format("{:+.2f} % of the subject's size", 100.0 * blur.value);
}

std::string frame_text(const std::optional<double>& frame) {
  return frame ? fmt::format("{:g}", *frame) : "-";
}

constexpr std::array laws{CarryLaw::blur, CarryLaw::size, CarryLaw::line};

std::string value_text(const CarriedValue& v) {
  return v.value ? fmt::format("{:.4g}", *v.value) : "-";
}

}  // namespace

std::string carry_text(const Carried& carried, BlurMeasure measure) {
  std::string out;
  if (carried.blur) {
    out += fmt::format("{}: {} is blurred by {} px, {}\n\n", carried.master, carried.of,
                       blur_text(carried.blur->px), measure_text(*carried.blur, measure));
  }
  std::size_t name = 4;
  for (const CarriedShot& s : carried.shots) name = std::max(name, width_of(s.name));
  if (carried.blur) {
    out += fmt::format("{}  {:>6} {:>9} {:>9}  {:<8} {:>9} {:>7}\n", padded("shot", name), "frame",
                       "now px", "wanted", "stop", "gets px", "light");
  }
  for (const CarriedShot& s : carried.shots) {
    if (!s.problem.empty()) {
      out += wrapped(s.problem, padded(s.name, name) + "  ", "    ");
      continue;
    }
    for (const CarriedFrame& f : s.frames) {
      out += fmt::format("{}  {:>6} {:>9} {:>9}  {:<8} {:>9} {:>7}{}\n", padded(s.name, name),
                         frame_text(f.frame), blur_text(f.now_px), blur_text(f.wanted_px),
                         f.stop ? fmt::format("f/{:.3g}", f.stop->value) : "-",
                         f.stop ? blur_text(f.gets_px) : "-",
                         f.ev_off ? signed_text(*f.ev_off, 2) : "-",
                         f.note.empty() ? "" : "  " + f.note);
    }
    const std::string indent(name + 2, ' ');
    for (const CarriedKey& k : s.keys) {
      if (k.key == "take.stop") continue;
      out += (s.frames.empty() && &k == &s.keys.front() ? padded(s.name, name) + "  " : indent) +
             fmt::format("{} = {}\n", k.key, k.text);
    }
    for (const std::string& note : s.notes) out += wrapped(note, indent, indent + "  ");
  }
  if (carried.blur) out += "\nlight: stops that the new stop adds (+) or takes\n";
  return out;
}

Json carry_json(const Carried& carried, BlurMeasure measure) {
  Json out = Json::object();
  out["master"] = carried.master;
  if (carried.blur) {
    static constexpr std::array names{"pixels", "picture", "subject"};
    out["blur"] = {{"of", carried.of},
                   {"px", carried.blur->px},
                   {"in", names.at(static_cast<std::size_t>(measure))},
                   {"value", carried.blur->value}};
  }
  Json shots = Json::array();
  for (const CarriedShot& s : carried.shots) {
    Json frames = Json::array();
    for (const CarriedFrame& f : s.frames) {
      frames.push_back({{"frame", f.frame ? Json(*f.frame) : Json()},
                        {"now_px", f.now_px},
                        {"wanted_px", f.wanted_px},
                        {"gets_px", f.stop ? Json(f.gets_px) : Json()},
                        {"stop", f.stop ? Json(stop_text(*f.stop)) : Json()},
                        {"light_stops", f.ev_off ? Json(*f.ev_off) : Json()},
                        {"note", f.note}});
    }
    Json keys = Json::object();
    for (const CarriedKey& k : s.keys) keys[k.key] = k.text;
    Json one{{"name", s.name}, {"file", s.file}};
    one["frames"] = std::move(frames);
    one["keys"] = std::move(keys);
    one["left"] = s.notes;
    if (!s.problem.empty()) one["problem"] = s.problem;
    shots.push_back(std::move(one));
  }
  out["shots"] = std::move(shots);
  return out;
}

std::string carry_csv(const Carried& carried) {
  std::string out = "shot,frame,now_px,wanted_px,stop,gets_px,light_stops,note\n";
  for (const CarriedShot& s : carried.shots) {
    for (const CarriedFrame& f : s.frames) {
      out += fmt::format("{},{},{:.4f},{:.4f},{},{},{},{}\n", csv_cell(s.name),
                         f.frame ? fmt::format("{:g}", *f.frame) : "", f.now_px, f.wanted_px,
                         f.stop ? stop_text(*f.stop) : "",
                         f.stop ? fmt::format("{:.4f}", f.gets_px) : "",
                         f.ev_off ? fmt::format("{:.4f}", *f.ev_off) : "", csv_cell(f.note));
    }
  }
  return out;
}

std::string felt_text(const ValueCarrier& carrier, const std::vector<FeltValue>& felt,
                      const std::vector<Length>& at) {
  std::string out = fmt::format("{:>10}  {:>10} {:>10} {:>10}\n", "subject at", "by blur",
                                "by size", "your line");
  const auto row = [&](Length d, const std::string& more) {
    std::string line = fmt::format("{:>8.4g} m", d.m());
    std::string breaks;
    for (const CarryLaw law : laws) {
      const CarriedValue v = carrier.at(law, d);
      line += fmt::format(" {}{:>10}", law == CarryLaw::blur ? " " : "", value_text(v));
      const bool known = law == CarryLaw::line && !v.value;
      if (!v.breaks.empty() && !known) {
        breaks += fmt::format("{}{}: {}", breaks.empty() ? "" : "; ",
                              law == CarryLaw::line ? "your line" : to_string(law), v.breaks);
      }
    }
    out += line + more + (breaks.empty() ? "" : "   " + breaks) + "\n";
  };
  for (const FeltValue& f : felt) row(f.distance, fmt::format("   you set {:g}", f.value));
  for (const Length d : at) row(d, "");
  if (const auto end = carrier.line_ends()) {
    out += fmt::format("\nYour line reaches zero at {:.4g} m, and is negative {}.", end->m(),
                       carrier.line_rises() ? "nearer than that" : "beyond");
  }
  if (felt.size() < 2) out += "\nA line takes values at two distances.";
  return out +
         "\nBlur: D v (1/s - 1/z), as a lens blurs what is behind the subject. Size: v/s, as large "
         "as the\nsubject appears.\n";
}

Json felt_json(const ValueCarrier& carrier, const std::vector<FeltValue>& felt,
               const std::vector<Length>& at) {
  Json given = Json::array();
  for (std::size_t i = 0; i < felt.size(); ++i) {
    Json one{{"distance_m", felt[i].distance.m()}, {"value", felt[i].value}};
    for (const CarryLaw law : laws) {
      if (law == CarryLaw::line && felt.size() < 2) continue;
      one[std::string("residual_") + std::string(to_string(law))] = carrier.residuals(law)[i];
    }
    given.push_back(std::move(one));
  }
  Json rows = Json::array();
  for (const Length d : at) {
    Json one{{"distance_m", d.m()}};
    for (const CarryLaw law : laws) {
      const CarriedValue v = carrier.at(law, d);
      one[to_string(law)] = {{"value", v.value ? Json(*v.value) : Json()}, {"breaks", v.breaks}};
    }
    rows.push_back(std::move(one));
  }
  const auto end = carrier.line_ends();
  return {{"given", std::move(given)},
          {"carried", std::move(rows)},
          {"line_ends_m", end ? Json(end->m()) : Json()}};
}

}  // namespace jolly_iris::report
