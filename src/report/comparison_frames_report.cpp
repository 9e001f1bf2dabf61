#include "report/comparison_frames_report.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <optional>

#include "report/measured.hpp"
#include "report/text.hpp"

namespace jolly_iris::report {

namespace {

// What is no number of a picture's likeness: equal ones have no end.
Json decibels_json(double v) { return finite(v); }

std::optional<double> larger_percent(const ComparedFrame& f) {
  if (!(f.larger.margin > 0.0)) return std::nullopt;
  return 100.0 * f.larger.value;
}

// A row of the summary: the middle one of all frames, and the farthest on both sides with their
// frames.
struct Row {
  const char* name;
  std::vector<std::pair<double, double>> values{};  // with their frames
  int digits;
  const char* unit;
};

std::string row_text(Row row) {
  if (row.values.empty()) return {};
  std::sort(row.values.begin(), row.values.end());
  const auto said = [&](const std::pair<double, double>& v) {
    return fmt::format("{}{} at {:g}", signed_text(v.first, row.digits), row.unit, v.second);
  };
  return fmt::format("  {:<16}{:>12}   {:<24}{}\n", row.name,
                     signed_text(row.values[row.values.size() / 2].first, row.digits) + row.unit,
                     said(row.values.front()), said(row.values.back()));
}

constexpr std::size_t most_frames_shown = 40;  // of frames; JSON and CSV have all

}  // namespace

std::string compared_frames_text(const ComparedFrames& c) {
  if (c.frames.empty()) return "No frames were compared.\n";
  std::size_t other_views = 0;
  Row likeness{"likeness", {}, 1, " dB"};
  Row discs{"size of discs", {}, 1, " %"};
  Row light{"CG must gain", {}, 2, " stops"};
  for (const ComparedFrame& f : c.frames) {
    other_views += f.same_view ? 0U : 1U;
    if (std::isfinite(f.psnr_lit_db)) likeness.values.emplace_back(f.psnr_lit_db, f.frame);
    if (const auto v = larger_percent(f)) discs.values.emplace_back(*v, f.frame);
    if (f.stops) light.values.emplace_back(*f.stops, f.frame);
  }
  std::string out = fmt::format("{} frames, {:g} to {:g}, CG against the plate\n\n",
                                c.frames.size(), c.frames.front().frame, c.frames.back().frame);
  out += fmt::format("  {:<16}{:>12}   {:<24}{}\n", "", "middle one", "least", "most");
  out += row_text(likeness) + row_text(discs) + row_text(light);
  if (other_views > 0) {
    out += fmt::format("  {} show another view than the plate: nothing of them is told\n",
                       counted(other_views, "frame"));
  }
  out += fmt::format("\n  {:>6}  {:>9}  {:>20}  {:>8}  {}\n", "frame", "likeness",
                     "discs larger by", "gain", "most visible");
  const std::size_t step = (c.frames.size() + most_frames_shown - 1) / most_frames_shown;
  for (std::size_t i = 0; i < c.frames.size(); i += step) {
    const ComparedFrame& f = c.frames[i];
    std::string advice = f.same_view ? f.advice : "another view";
    if (width_of(advice) > 44) {
      advice.resize(std::min(advice.find(' ', 36), advice.size()));
      advice += " …";
    }
    out += fmt::format("  {:>6g}  {:>9}  {:>20}  {:>8}  {}\n", f.frame, decibels(f.psnr_lit_db),
                       f.larger.margin > 0.0
                           ? fmt::format("{} % ± {:.1f}", signed_text(*larger_percent(f), 1),
                                         100.0 * f.larger.margin)
                           : "no pairs",
                       f.stops ? signed_text(*f.stops, 2) : "-", advice);
  }
  if (step > 1) out += fmt::format("  (every {}th; --csv and --json have all)\n", step);
  return out;
}

Json compared_frames_json(const ComparedFrames& c) {
  Json out = Json::object();
  out["frames"] = Json::array();
  for (const ComparedFrame& f : c.frames) {
    Json one{{"frame", f.frame},
             {"psnr_db", decibels_json(f.psnr_db)},
             {"psnr_lit_db", decibels_json(f.psnr_lit_db)},
             {"same_view", f.same_view},
             {"disc_pairs", f.disc_pairs}};
    if (f.larger.margin > 0.0) one["larger"] = json_of(f.larger);
    if (f.stops) one["stops"] = *f.stops;
    if (f.blue_stops) one["blue_stops"] = *f.blue_stops;
    if (!f.advice.empty()) one["advice"] = f.advice;
    out["frames"].push_back(std::move(one));
  }
  return out;
}

std::string compared_frames_csv(const ComparedFrames& c) {
  std::string out = "frame,psnr_db,psnr_lit_db,disc_pairs,larger,larger_margin,stops,blue_stops\n";
  const auto cell = [](std::optional<double> v) {
    return v && std::isfinite(*v) ? fmt::format(",{:.5g}", *v) : std::string(",");
  };
  for (const ComparedFrame& f : c.frames) {
    const bool pairs = f.larger.margin > 0.0;
    out += fmt::format("{:g}", f.frame);
    out += cell(f.psnr_db);
    out += cell(f.psnr_lit_db);
    out += fmt::format(",{}", f.disc_pairs);
    out += cell(pairs ? std::optional(f.larger.value) : std::nullopt);
    out += cell(pairs ? std::optional(f.larger.margin) : std::nullopt);
    out += cell(f.stops);
    out += cell(f.blue_stops);
    out += "\n";
  }
  return out;
}

}  // namespace jolly_iris::report
