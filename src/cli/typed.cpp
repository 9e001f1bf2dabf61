#include "typed.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <charconv>
#include <cmath>

#include "jolly_iris/clipped.hpp"
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

namespace {

// "a,b,…" as so many numbers; `wanted` says what would be right.
std::vector<double> numbers_of(const std::string& text, std::size_t count, const char* option,
                               const std::string& wanted) {
  std::vector<double> out;
  for (const std::string& part : split(text)) {
    double v = 0.0;
    const auto [end, error] = std::from_chars(part.data(), part.data() + part.size(), v);
    if (error != std::errc{} || end != part.data() + part.size() || !std::isfinite(v)) break;
    out.push_back(v);
  }
  if (out.size() != count) throw UsageError(fmt::format("{} {}: write {}", option, text, wanted));
  return out;
}

}  // namespace

BokehOptions bokeh_of(BokehOptions o, const Typed& typed) {
  o.at = split(typed.at);
  o.vary = steps_of(typed.steps, "--vary");
  if (!typed.pixel.empty()) {
    const auto p = numbers_of(typed.pixel, 2, "--pixel", "a place in the picture, e.g. 1700,120");
    o.pixel = {p[0], p[1]};
    if (o.kernel.empty()) throw UsageError("--pixel belongs to --kernel FILE");
  }
  using As = BokehOptions::As;
  if (typed.as == "trace") {
    o.as = As::trace;
  } else if (typed.as == "defocus") {
    o.as = As::defocus;
  } else if (!typed.as.empty() && typed.as != "discs") {
    throw UsageError("--as " + typed.as + ": write discs, trace or defocus");
  }
  o.lenses = split(typed.lenses);
  if (std::find(o.lenses.begin(), o.lenses.end(), "") != o.lenses.end()) {
    throw UsageError("--lenses " + typed.lenses + ": a name is empty");
  }
  if (!o.lenses.empty() && !o.vary.values.empty()) {
    throw UsageError("--lenses and --vary are two sheets; ask for one of them");
  }
  if (!typed.as.empty() && o.vary.values.empty() && o.lenses.empty()) {
    throw UsageError("--as belongs to --vary KEY=A,B, or to --lenses FILE,FILE");
  }
  if (!o.sharp.empty() && o.as != As::defocus) {
    throw UsageError("--sharp is what --vary … --as defocus blurs; give them together");
  }
  return o;
}

DefocusOptions defocus_of(DefocusOptions o, const Typed& typed) {
  o.frames = frames_of_text(o.frames, typed.frames);
  if (o.resume && !o.frames.asked) throw UsageError("--resume belongs to --frames");
  o.coding = coding_of(typed.transfer);
  o.box = box_of(typed.box);
  if (typed.edge == "mirror") {
    o.edge = FrameEdge::mirror;
  } else if (typed.edge == "black") {
    o.edge = FrameEdge::black;
  } else if (!typed.edge.empty() && typed.edge != "repeat") {
    throw UsageError("--edge " + typed.edge + ": write repeat, mirror or black");
  }
  if (!typed.margin.empty()) {
    const std::string wanted = "px beside and above, e.g. 40,24; or one number for both";
    const bool both = typed.margin.find(',') == std::string::npos;
    const auto m = numbers_of(typed.margin, both ? 1 : 2, "--margin", wanted);
    o.margin = {static_cast<int>(m.front()), static_cast<int>(m.back())};
    if (m.front() < 0.0 || m.back() < 0.0 || m.front() != o.margin.beside ||
        m.back() != o.margin.above) {
      throw UsageError("--margin " + typed.margin + ": write whole " + wanted);
    }
  }
  if (!typed.disc.empty()) {
    const auto d = numbers_of(typed.disc, 2, "--disc",
                              "a disc's value and its diameter in px in the plate, e.g. 0.8,42");
    if (!(d[0] > 0.0 && d[1] > 0.0)) {
      throw UsageError("--disc " + typed.disc + ": both are above zero");
    }
    if (o.true_peak) throw UsageError("--disc computes what --true-peak says; give one of them");
    o.true_peak = peak_of_disc(d[0], d[1]);
  }
  if (o.clipped_at && !o.true_peak) {
    throw UsageError(
        "--clipped-at needs to know how bright a lamp is: --true-peak VALUE, or --disc VALUE,PX");
  }
  if (!o.distance.empty() && (!o.blur.empty() || !o.depth.empty())) {
    throw UsageError("--distance takes the place of a depth picture; give the one or the other");
  }
  if (!o.blur.empty() && !o.depth.empty()) {
    throw UsageError("--blur takes the place of depth; give it or --depth");
  }
  if (o.most_blur && o.blur.empty()) throw UsageError("--most belongs to --blur FILE");
  if (o.pictures.size() > 1 && (!o.blur.empty() || !o.depth.empty() || !o.distance.empty())) {
    throw UsageError("each of several layers has its own depth: give EXRs with Z");
  }
  return o;
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

std::vector<Box> boxes_of(const std::vector<std::string>& texts) {
  std::vector<Box> boxes;
  for (const std::string& text : texts) {
    if (const auto box = box_of(text)) boxes.push_back(*box);
  }
  return boxes;
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
  if (!(o.adapter > 0.0)) throw UsageError("--adapter is a factor above zero, e.g. 0.76");
  return o;
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

SqueezeOptions squeeze_of(SqueezeOptions o, const Typed& typed) {
  o.coding = coding_of(typed.transfer);
  if (typed.keep == "height") {
    o.kept = KeptSide::height;
  } else if (typed.keep == "width") {
    o.kept = KeptSide::width;
  } else if (!typed.keep.empty()) {
    throw UsageError("--keep " + typed.keep + ": write height or width");
  }
  if (o.sizes && (!o.picture.empty() || !o.out.empty() || o.kept)) {
    throw UsageError(
        "--sizes tells sizes and touches no picture; leave PICTURE, -o and --keep out");
  }
  return o;
}

Steps steps_of(const std::string& text, const char* option) {
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
        "{0} {1}: write a key and two or more values, e.g. {0} take.stop=f/1.8,f/2.2,f/2.8", option,
        text));
  }
  if (steps.values.size() > 24) {
    throw UsageError(fmt::format("{}: {} values are too many to look at; 24 are the most", option,
                                 steps.values.size()));
  }
  return steps;
}

}  // namespace jolly_iris::cli
