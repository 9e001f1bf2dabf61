#include "typed.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <charconv>

#include "jolly_iris/errors.hpp"
#include "jolly_iris/quantity.hpp"

namespace jolly_iris::cli {

Tried tried_of(const std::string& text) {
  const auto equals = text.find('=');
  if (equals == std::string::npos || equals == 0) {
    throw UsageError(fmt::format("--set {}: write KEY=VALUE, e.g. --set take.stop=f/2.8", text));
  }
  return {text.substr(0, equals), text.substr(equals + 1)};
}

std::optional<Box> box_of(const std::string& text) {
  if (text.empty()) return std::nullopt;
  std::array<int, 4> v{};
  const char* at = text.data();
  const char* end = text.data() + text.size();
  for (std::size_t i = 0; i < 4; ++i) {
    const auto [next, error] = std::from_chars(at, end, v[i]);
    const bool last = i == 3;
    if (error != std::errc{} || (last ? next != end : next == end || *next != ',')) {
      throw UsageError(fmt::format(
          "--box {}: write four whole numbers x,y,width,height, e.g. --box 800,300,200,200", text));
    }
    at = next + (last ? 0 : 1);
  }
  return Box{v[0], v[1], v[2], v[3]};
}

FrameOptions frames_of_text(FrameOptions o, const std::string& text) {
  if (text.empty()) {
    if (o.step != 1.0) throw UsageError("--step needs --frames, e.g. --frames all --step 10");
    return o;
  }
  o.asked = true;
  if (text == "all") return o;
  double first = 0.0;
  double last = 0.0;
  const char* end = text.data() + text.size();
  const auto a = std::from_chars(text.data(), end, first);
  const bool dash = a.ec == std::errc{} && a.ptr != end && *a.ptr == '-';
  const auto b = dash ? std::from_chars(a.ptr + 1, end, last) : a;
  if (!dash || b.ec != std::errc{} || b.ptr != end) {
    throw UsageError(
        fmt::format("--frames {}: write first-last, e.g. --frames 1001-1100, or all", text));
  }
  o.range = FrameRange{first, last};
  return o;
}

std::vector<std::string> split(const std::string& text) {
  std::vector<std::string> parts;
  std::size_t from = 0;
  while (!text.empty() && from <= text.size()) {
    const std::size_t end = std::min(text.find(',', from), text.size());
    std::string part = text.substr(from, end - from);
    part.erase(0, std::min(part.find_first_not_of(' '), part.size()));
    part.erase(part.find_last_not_of(' ') + 1);
    parts.push_back(part);
    from = end + 1;
  }
  return parts;
}

namespace {

std::vector<std::string> two(const char* option, const std::string& text, const char* example) {
  std::vector<std::string> parts = split(text);
  if (parts.empty()) return parts;
  if (parts.size() != 2 || parts[0].empty() || parts[1].empty()) {
    throw UsageError(fmt::format("{} {}: write two, with a comma between, e.g. {} {}", option, text,
                                 option, example));
  }
  return parts;
}

}  // namespace

SolveOptions solve_of(SolveOptions o, const Typed& typed) {
  o.hold = two("--hold", typed.hold, "\"boat,second boat\"");
  o.sharp = two("--sharp", typed.sharp, "1.8m,3m");
  o.clip = split(typed.clip);
  for (const std::string& name : o.clip) {
    if (name.empty()) throw UsageError(fmt::format("--clip {}: a name is empty", typed.clip));
  }
  try {
    if (!typed.blur.empty()) o.blur = parse_blur_size(typed.blur);
  } catch (const QuantityError& e) {
    throw UsageError(fmt::format("--blur: {}", e.what()));
  }
  if (typed.by == "lens")
    o.by = SolveOptions::By::lens;
  else if (typed.by == "camera")
    o.from = SolveOptions::From::camera;
  else if (typed.by == "lines")
    o.from = SolveOptions::From::lines;
  else if (!typed.by.empty() && typed.by != "stop")
    throw UsageError(fmt::format(
        "--by {}: write stop or lens (with --blur), camera or lines (with --level)", typed.by));
  const int wishes = (o.hold.empty() ? 0 : 1) + (o.sharp.empty() ? 0 : 1) + (o.blur ? 1 : 0) +
                     (o.body.empty() ? 0 : 1) + (o.level ? 1 : 0) + (o.clip.empty() ? 0 : 1);
  if (wishes != 1) {
    throw UsageError(
        "say one thing that is wanted: --hold A,B, --sharp NEAR,FAR, --blur SIZE, --body FILE, "
        "--level or --clip NAME");
  }
  const bool about_level = o.from != SolveOptions::From::usual;
  if ((!o.blur && !o.at.empty()) || (!o.blur && !typed.by.empty() && !about_level)) {
    throw UsageError("--at and --by stop or lens belong to --blur");
  }
  if (!o.level && (about_level || !o.keep.empty())) {
    throw UsageError("--keep and --by camera or lines belong to --level");
  }
  if (o.body.empty() && o.adapter != 1.0) throw UsageError("--adapter belongs to --body");
  if (!(o.adapter > 0.0)) throw UsageError("--adapter is a factor above zero, e.g. 0.71");
  return o;
}

std::optional<Length> distance_of(const std::string& text) {
  if (text.empty()) return std::nullopt;
  try {
    return parse_distance(text);
  } catch (const QuantityError& e) {
    throw UsageError(fmt::format("--distance: {}", e.what()));
  }
}

Coding coding_of(const std::string& text) {
  if (text.empty()) return {};
  if (text.ends_with(".csv")) return {Transfer::table, text};
  for (const Transfer t : {Transfer::linear, Transfer::srgb, Transfer::rec709, Transfer::acescct}) {
    if (text == to_string(t)) return {t, {}};
  }
  throw UsageError(fmt::format(
      "--transfer {}: write linear, sRGB, Rec.709, ACEScct, or the name of a table, FILE.csv",
      text));
}

Steps steps_of(const std::string& text) {
  if (text.empty()) return {};
  const auto equals = text.find('=');
  Steps steps;
  if (equals != std::string::npos && equals > 0) {
    steps.key = text.substr(0, equals);
    steps.values = split(text.substr(equals + 1));
  }
  const bool blank = std::any_of(steps.values.begin(), steps.values.end(),
                                 [](const std::string& v) { return v.empty(); });
  if (steps.values.size() < 2 || blank) {
    throw UsageError(fmt::format(
        "--steps {}: write a key and two or more values, e.g. --steps take.stop=f/1.4,f/2,f/2.8",
        text));
  }
  if (steps.values.size() > 24) {
    throw UsageError(fmt::format("--steps: {} values make the page too large; 24 are the most",
                                 steps.values.size()));
  }
  return steps;
}

}  // namespace jolly_iris::cli
