#include "cli/verbs/shot_verb.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <exception>

#include "cli/parse/values.hpp"
#include "cli/terminal/error_kind.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/optics/range.hpp"
#include "report/measured.hpp"

namespace jolly_iris::cli {

void ShotVerb::add_shot(OptionSet& options, const char* key) {
  options.value("SHOT", request_.file, "the shot file", "FILE").required();
  options.repeatable("--set", set_, "try a value without touching the file (repeatable)",
                     "KEY=VALUE");
  options.value("--variant", variant_, "the shot file's variants laid over it, the last one leads",
                "NAME,NAME");
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

namespace {
constexpr const char* frames_heading = "Many frames";
}

void FrameTexts::add(OptionSet& options, const char* what) {
  options
      .value("--frames", frames,
             std::string(what) + ":\n1001-1097, 1001-1097x4 (every fourth), 1001,1005 or all",
             "FRAMES")
      .under(frames_heading);
  options.value("--step", step, "with --frames: only every so many [1]", "N").under(frames_heading);
}

void FrameTexts::doubt(const LoadedShot& loaded, const Terminal& io) const {
  const std::string words = frames_doubt(request(), loaded);
  if (!words.empty()) io.notes.warn(words);
}

FrameRequest FrameTexts::request() const {
  FrameRequest out;
  out.step = step;
  out.asked = !frames.empty();
  if (!out.asked) {
    if (step != 1.0) throw UsageError("--step needs --frames, e.g. --frames all --step 10");
    return out;
  }
  out.spans = for_option("--frames", [&] { return frame_spans(frames); });
  return out;
}

void FrameRunTexts::add(OptionSet& options, const char* what) {
  texts.add(options, what);
  options.value("--part", part, "only this share of them: the second of eight is 2/8", "K/N")
      .under(frames_heading);
  options
      .flag(
          "--resume", settings.keep_made,
          "keep pictures that are there already, made with the same\nsettings from the same files")
      .under(frames_heading);
  options
      .flag("--keep-going", settings.keep_going,
            "a frame that fails does not end the run: it is told at the end")
      .under(frames_heading);
}

void FrameRunTexts::check() {
  settings.frames = texts.request();
  const auto belongs = [&](bool given, const char* option) {
    if (given && !asked()) throw UsageError(std::string(option) + " belongs to --frames");
  };
  belongs(!part.empty(), "--part");
  belongs(settings.keep_made, "--resume");
  belongs(settings.keep_going, "--keep-going");
  if (!part.empty()) settings.frames.part = for_option("--part", [&] { return frame_part(part); });
}

Json tell_failed(const std::vector<FrameFailure>& failed, const Terminal& io) {
  constexpr std::size_t most = 5;  // the JSON has all of them
  Json list = Json::array();
  for (const FrameFailure& f : failed) {
    try {
      std::rethrow_exception(f.error);
    } catch (const std::exception& e) {
      const ErrorKind kind = kind_of(e);
      list.push_back({{"frame", f.frame},
                      {"kind", kind.name},
                      {"said", sentence_of(e)},
                      {"exit_code", kind.code}});
      if (list.size() <= most)
        io.notes.warn(fmt::format("frame {:g}: {}", f.frame, sentence_of(e)));
    }
  }
  if (list.size() > most) {
    io.notes.warn(
        fmt::format("and {} more frames failed; --json has all of them", list.size() - most));
  }
  return list;
}

void require_no_failure(const std::vector<FrameFailure>& failed, std::size_t count) {
  if (failed.empty()) return;
  // Trying again helps only if all that is wrong may pass.
  std::optional<ErrorKind> kind;
  std::string frames;
  for (const FrameFailure& f : failed) {
    try {
      std::rethrow_exception(f.error);
    } catch (const std::exception& e) {
      const ErrorKind one = kind_of(e);
      if (!kind || kind->code == 75) kind = one;
    }
    constexpr std::size_t most = 60;
    if (frames.size() < most) {
      frames += fmt::format("{}{:g}", frames.empty() ? "" : ", ", f.frame);
    } else if (!frames.ends_with("...")) {
      frames += ", ...";
    }
  }
  throw PartlyFailed(fmt::format("{} of {} frames failed: {}", failed.size(), count, frames),
                     *kind);
}

void say_frames(const FrameRun& done, const FrameRequest& asked, const std::string& name,
                const char* words, double seconds, const LoadedShot& loaded, const Form& form,
                const Terminal& io) {
  constexpr std::size_t most_told = 8;  // many frames may each have their own number in one
  const auto tell = [&](const std::vector<std::string>& sentences, const auto& say_one) {
    for (std::size_t i = 0; i < std::min(sentences.size(), most_told); ++i) say_one(sentences[i]);
    if (sentences.size() <= most_told) return;
    say_one(fmt::format("and {} more like these; --json has all of them",
                        sentences.size() - most_told));
  };
  tell(done.warnings, [&](const std::string& w) { io.notes.warn(w); });
  tell(done.notes, [&](const std::string& n) { io.notes.note(n); });
  Json json = report::written_json(done.written,
                                   {{"frames", static_cast<double>(done.frames.size())},
                                    {"kept", static_cast<double>(done.kept)},
                                    {"remade", static_cast<double>(done.remade)},
                                    {"seconds", seconds}},
                                   &loaded.shot);
  json["failed"] = tell_failed(done.failed, io);
  if (done.notes.size() > most_told || done.warnings.size() > most_told) {
    json["of_frames"] = done.notes;
    for (const std::string& w : done.warnings) json["of_frames"].push_back(w);
  }
  std::string text = report::tried_line(loaded.shot) +
                     fmt::format("{:<28} {} frames {}", name, done.made(), words);
  if (asked.part.count > 1) {
    json["part"] = fmt::format("{}/{}", asked.part.number, asked.part.count);
    text += fmt::format(", part {} of {}", asked.part.number, asked.part.count);
    if (!done.frames.empty()) {
      text += fmt::format(": {:g} to {:g}", done.frames.front(), done.frames.back());
    }
  }
  if (done.kept > 0) text += fmt::format(", {} kept", done.kept);
  if (done.remade > 0) {
    text += fmt::format(", {} of them again: made otherwise before", done.remade);
  }
  say(form, io, json, text + fmt::format(", {:.1f} s\n", seconds));
  require_no_failure(done.failed, done.frames.size());
}

void TransferText::add(OptionSet& options) {
  options.value("--transfer", transfer,
                "how PICTURE's numbers stand for light: linear, sRGB,\n"
                "Rec.709, ACEScct, a table FILE.csv, or ocio:NAME, a space of the\n"
                "shot's colour config [linear for EXR, else sRGB]",
                "NAME");
  options.value("--layer", layer, "which of PICTURE's layers has the colour [the only one]",
                "NAME");
}

Decoding TransferText::decoding() const {
  if (transfer.empty()) return {std::nullopt, {}, layer};
  if (transfer.ends_with(".csv")) return {Transfer::table, transfer, layer};
  if (transfer.starts_with(managed_prefix)) {
    Decoding out{Transfer::managed, {}, layer};
    out.space = transfer.substr(std::string_view(managed_prefix).size());
    return out;
  }
  for (const Transfer t : {Transfer::linear, Transfer::srgb, Transfer::rec709, Transfer::acescct}) {
    if (transfer == to_string(t)) return {t, {}, layer};
  }
  throw UsageError(fmt::format(
      "--transfer {}: write linear, sRGB, Rec.709, ACEScct, the name of a table, FILE.csv, or "
      "ocio:NAME",
      transfer));
}

}  // namespace jolly_iris::cli
