#include "report/sample_report.hpp"

#include <fmt/format.h>

#include <cmath>

#include "report/text.hpp"

namespace jolly_iris::report {

namespace {

std::string band_name(const SampleBand& b) {
  if (b.from_px == 0.0) return fmt::format("sharp, to {:g} px", b.to_px);
  if (std::isinf(b.to_px)) return fmt::format("above {:g} px", b.from_px);
  return fmt::format("{:g} to {:g} px", b.from_px, b.to_px);
}

// "x 9.4", and what that is where it is known how many there were.
std::string times_text(double times, const SamplePlan& plan) {
  const std::string digits = fmt::format("{:.2g}", times);
  if (times < 0.01) return "far fewer";
  std::string text = "x " + (times >= 99.5 ? fmt::format("{:.0f}", times) : digits);
  if (plan.request.rays) {
    text += fmt::format(" = {:.0f}", std::max(1.0, std::ceil(times * *plan.request.rays - 1e-6)));
  }
  return text;
}

std::string duration_text(double seconds) {
  constexpr double minute = 60.0;
  constexpr double hour = 3600.0;
  if (seconds < minute) return fmt::format("{:.2g} s", seconds);
  const double minutes = std::round(seconds / minute);
  if (seconds < hour) return fmt::format("{:.0f} min", minutes);
  return fmt::format("{:.0f} h {:02.0f} min", std::floor(minutes / 60.0), std::fmod(minutes, 60.0));
}

std::string told_text(double share) {
  if (share >= 0.995) return "all of it";
  return share > 0.0 ? fmt::format("{:.0f} % of it", 100.0 * share) : "cannot be told";
}

Json place_json(const SamplePlace& p) {
  Json j{{"x", p.at.box.x},           {"y", p.at.box.y},       {"width", p.at.box.width},
         {"height", p.at.box.height}, {"coc_px", p.at.coc_px}, {"level", p.at.level},
         {"noise", p.at.noise},       {"times", p.times}};
  if (p.axial) j["distance_m"] = p.axial->is_infinite() ? Json(nullptr) : Json(p.axial->m());
  if (!p.subject.empty()) j["subject"] = p.subject;
  return j;
}

Json json_of(const SamplePlan& plan) {
  Json j{{"wanted", plan.request.noise},
         {"told", plan.told},
         {"times_everywhere", plan.everywhere},
         {"times_where_needed", plan.where_needed}};
  if (plan.request.rays) {
    j["rays_everywhere"] = std::ceil(plan.everywhere * *plan.request.rays - 1e-6);
    j["rays_where_needed"] = plan.where_needed * *plan.request.rays;
  }
  if (plan.request.seconds) {
    j["seconds_everywhere"] = plan.everywhere * *plan.request.seconds;
    j["seconds_where_needed"] = plan.where_needed * *plan.request.seconds;
  }
  j["bands"] = Json::array();
  for (const SampleBand& b : plan.bands) {
    j["bands"].push_back({{"from_px", b.from_px},
                          {"to_px", std::isinf(b.to_px) ? Json(nullptr) : Json(b.to_px)},
                          {"share", b.share},
                          {"told", b.told},
                          {"level", b.level},
                          {"noise", b.noise},
                          {"times", b.times},
                          {"times_worst", b.times_worst}});
  }
  j["worst"] = Json::array();
  for (const SamplePlace& p : plan.worst) j["worst"].push_back(place_json(p));
  return j;
}

std::string total_text(const char* name, double times, const SamplePlan& plan) {
  std::string text = fmt::format("  {} {}", padded(name, 30), times_text(times, plan));
  if (plan.request.seconds) {
    text += fmt::format(", {}", duration_text(times * *plan.request.seconds));
  }
  return text + '\n';
}

}  // namespace

Solved say(const SamplePlan& plan) {
  Solved out;
  std::string text = fmt::format(
      "rays for a noise of {:.2g} % of the level{}\n", 100.0 * plan.request.noise,
      plan.request.rays ? fmt::format(", from a test of {:g} a pixel", *plan.request.rays)
                        : std::string(", against those of the test"));
  text += fmt::format("  {:<18} {:>9} {:>8} {:>10}   {:<14} {:<18} {}\n", "blurred by", "of it all",
                      "level", "noise now", "it needs", "19 of 20 places", "known in");
  for (const SampleBand& b : plan.bands) {
    const bool told = b.told > 0.0;
    text +=
        fmt::format("  {} {:>7.0f} % {:>8} {:>10}   {} {} {}\n", padded(band_name(b), 18),
                    100.0 * b.share, told ? fmt::format("{:.2g}", b.level) : "-",
                    told ? fmt::format("{:.2g} %", 100.0 * b.noise) : "-",
                    padded(told ? times_text(b.times, plan) : "-", 14),
                    padded(told ? times_text(b.times_worst, plan) : "-", 18), told_text(b.told));
  }
  text += "the worst places\n";
  for (const SamplePlace& p : plan.worst) {
    std::string what;
    if (p.axial) {
      what = fmt::format("{}{}", p.subject.empty() ? "" : p.subject + ", ",
                         p.axial->is_infinite() ? "infinity" : short_metres_text(*p.axial));
    }
    text += fmt::format("  {} {:>5.1f} px blurred   {}{}\n",
                        padded(fmt::format("at {}, {}", p.at.box.x + p.at.box.width / 2,
                                           p.at.box.y + p.at.box.height / 2),
                               18),
                        p.at.coc_px, padded(times_text(p.times, plan), 16), what);
  }
  text += "all of the picture\n";
  text += total_text("the same everywhere", plan.everywhere, plan);
  text += total_text("each place what it needs", plan.where_needed, plan);
  if (plan.everywhere <= 1.0) {
    text += "  Nineteen of twenty places are as quiet as that already.\n";
  }
  out.text = text;
  out.json = json_of(plan);
  out.notes = plan.warnings;
  return out;
}

}  // namespace jolly_iris::report
