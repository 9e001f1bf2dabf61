#include "cli/verbs/shot_verb.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <charconv>

#include "cli/parse/values.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/optics/range.hpp"

namespace jolly_iris::cli {

void ShotVerb::add_shot(OptionSet& options, const char* key) {
  options.value("SHOT", request_.file, "the shot file", "FILE").required();
  options.repeatable("--set", set_, "try a value without touching the file (repeatable)",
                     "KEY=VALUE");
  options.value("--variant", variant_, "one of the shot file's variants laid over it", "NAME");
  options.flag("--as-noted", request_.as_noted, "leave out what match --accept solved");
  options.value("--frame", frame_, "the frame to answer at, where something moves [the first]",
                "N");
  options.flag("--watch", watch_, "run again on every save of a file it read; Ctrl-C ends");
  add_form(options, form_, key);
}

void ShotVerb::check() {
  if (frame_ && !range::frame.holds(*frame_)) {
    throw UsageError(fmt::format("--frame {:g}: frames are {}", *frame_, words_of(range::frame)));
  }
  request_.frame = frame_;
  if (!variant_.empty()) request_.overrides.push_back({"variant", variant_, "--variant"});
  for (const std::string& text : set_) request_.overrides.push_back(override_of(text));
}

namespace {

std::string for_shell(const std::string& text) {
  const bool plain = text.find_first_not_of(
                         "abcdefghijklmnopqrstuvwxyzABCDEFGHIJKLMNOPQRSTUVWXYZ0123456789"
                         "./_-=+:,%@") == std::string::npos;
  if (plain && !text.empty()) return text;
  std::string out = "\"";
  for (const char c : text) {
    if (c == '"' || c == '\\' || c == '$' || c == '`') out += '\\';
    out += c;
  }
  return out + '"';
}

}  // namespace

std::string ShotVerb::command(const std::string& verb, const std::vector<Override>& more) const {
  std::string line = "jolly-iris " + verb + " " + for_shell(request_.file);
  if (!variant_.empty()) line += " --variant " + for_shell(variant_);
  if (request_.as_noted) line += " --as-noted";
  if (frame_) line += fmt::format(" --frame {:g}", *frame_);
  const auto again = [&](const Override& o) {
    return std::any_of(more.begin(), more.end(), [&](const Override& m) { return m.key == o.key; });
  };
  for (const std::string& text : set_) {
    if (!again(override_of(text))) line += " --set " + for_shell(text);
  }
  for (const Override& o : more) line += " --set " + for_shell(o.key + "=" + o.text);
  return line;
}

void add_form(OptionSet& options, Form& form, const char* key) {
  options.flag("--json", form.json, "values for programs instead of text");
  options.value("--only", form.only, fmt::format("one bare value by its --json key, e.g. {}", key),
                "KEY");
}

void add_threads(OptionSet& options, int& threads) {
  options.value("--threads", threads, "how many cores to use; 0 is all", "N").within(0, 1024);
}

void add_out(OptionSet& options, std::vector<std::string>& out, const char* otherwise) {
  options.repeatable(
      "-o,--out", out,
      fmt::format("picture to write: .exr .png .tif .jpg; repeatable\n[{}]", otherwise), "FILE");
}

void add_disc_search(OptionSet& options, double& min_px, std::vector<std::string>& boxes) {
  options.value("--least", min_px, "diameter of the smallest disc looked for, px [12]", "PX")
      .within(8.0, 4000.0);
  options.repeatable("--box", boxes,
                     "discs only within this part, px of the delivered picture\n(repeatable)",
                     "X,Y,W,H");
}

void add_far(OptionSet& options, std::string& depth, std::string& distance, std::string& blur) {
  options.value("--depth", depth, "a depth picture of its own, of any size", "FILE")
      .under(far_heading);
  options
      .value("--distance", distance,
             "without a depth picture: everything is this far, e.g. 12m; or as far as\n"
             "this subject, frame by frame [the shot's depth.distance]",
             "LENGTH|NAME")
      .under(far_heading);
  options.value("--blur", blur, "instead: how large each pixel's disc is, signed px (EXR)", "FILE")
      .under(far_heading);
}

void FrameTexts::add(OptionSet& options, const char* what) {
  options.value("--frames", frames, what, "FIRST-LAST|all");
  options.value("--step", step, "with --frames: only every so many [1]", "N");
}

void FrameTexts::doubt(const LoadedShot& loaded, const Terminal& io) const {
  const std::string words = frames_doubt(request(), loaded);
  if (!words.empty()) io.notes.warn(words);
}

FrameRequest FrameTexts::request() const {
  FrameRequest out;
  out.step = step;
  if (frames.empty()) {
    if (step != 1.0) throw UsageError("--step needs --frames, e.g. --frames all --step 10");
    return out;
  }
  out.asked = true;
  if (frames == "all") return out;
  double first = 0.0;
  double last = 0.0;
  const char* end = frames.data() + frames.size();
  const auto a = std::from_chars(frames.data(), end, first);
  const bool dash = a.ec == std::errc{} && a.ptr != end && *a.ptr == '-';
  const auto b = dash ? std::from_chars(a.ptr + 1, end, last) : a;
  if (!dash || b.ec != std::errc{} || b.ptr != end) {
    throw UsageError(
        fmt::format("--frames {}: write first-last, e.g. --frames 1001-1100, or all", frames));
  }
  out.range = FrameRange{first, last};
  return out;
}

void TransferText::add(OptionSet& options) {
  options.value("--transfer", transfer,
                "how PICTURE's numbers stand for light: linear, sRGB,\n"
                "Rec.709, ACEScct, or a table FILE.csv [linear for EXR, else sRGB]",
                "NAME");
  options.value("--layer", layer, "which of PICTURE's layers has the colour [the only one]",
                "NAME");
}

Decoding TransferText::decoding() const {
  if (transfer.empty()) return {std::nullopt, {}, layer};
  if (transfer.ends_with(".csv")) return {Transfer::table, transfer, layer};
  for (const Transfer t : {Transfer::linear, Transfer::srgb, Transfer::rec709, Transfer::acescct}) {
    if (transfer == to_string(t)) return {t, {}, layer};
  }
  throw UsageError(fmt::format(
      "--transfer {}: write linear, sRGB, Rec.709, ACEScct, or the name of a table, FILE.csv",
      transfer));
}

}  // namespace jolly_iris::cli
