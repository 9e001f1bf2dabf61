#include <fmt/format.h>

#include <cmath>

#include "cli/parse/values.hpp"
#include "cli/terminal/progress.hpp"
#include "cli/verbs/list.hpp"
#include "cli/verbs/shot_verb.hpp"
#include "disk/disk.hpp"
#include "drawing/result_sheets.hpp"
#include "jolly_iris/optics/quantity.hpp"
#include "jolly_iris/workflow/exposure_frames.hpp"
#include "jolly_iris/workflow/exposure_trades.hpp"
#include "jolly_iris/workflow/write_picture.hpp"
#include "report/exposure_report.hpp"
#include "report/look_report.hpp"
#include "report/measured.hpp"
#include "report/text.hpp"

namespace jolly_iris::cli {

namespace {

std::string listed(const std::vector<std::string>& sentences) {
  std::string text;
  for (const std::string& s : sentences) text += (text.empty() ? "" : "; ") + s;
  return text.empty() ? "left as it is" : text;
}

// Metres a second.
double speed_of(const std::string& text) {
  const auto slash = text.rfind('/');
  const std::string per = slash == std::string::npos ? "" : text.substr(slash + 1);
  const double seconds = per == "s" ? 1.0 : per == "min" ? 60.0 : per == "h" ? 3600.0 : 0.0;
  try {
    if (seconds > 0.0) {
      const double speed = parse_length(text.substr(0, slash)).m() / seconds;
      if (speed >= 0.0) return speed;
    }
  } catch (const QuantityError&) {
    // told below, with what would be right
  }
  throw UsageError(fmt::format("--speed {}: write a speed, e.g. \"1.2 m/s\" or \"5 km/h\"", text));
}

std::optional<White> white_of(const char* option, const std::string& text) {
  if (text.empty()) return std::nullopt;
  try {
    return parse_white(text);
  } catch (const QuantityError& e) {
    throw UsageError(fmt::format("{}: {}", option, e.what()));
  }
}

NeutralRequest neutral_of(const std::string& text) {
  NeutralRequest neutral;
  if (text == "mean") {
    neutral.by = NeutralBy::grey_world;
  } else if (text == "brightest") {
    neutral.by = NeutralBy::brightest;
  } else if (text.find(',') != std::string::npos) {
    neutral.patch = px_box("--neutral", text);
  } else if (!text.empty()) {
    throw UsageError(
        fmt::format("--neutral {}: write mean, brightest, or a patch as X,Y,W,H", text));
  }
  return neutral;
}

class ExposeVerb : public ShotVerb {
 public:
  void add_options(OptionSet& options) override {
    add_shot(options, "exposure.ev100");
    options.value("PICTURE", picture_,
                  "a picture to meter; with --frames #### stands for the number", "FILE");
    options.value("--pay", pay_,
                  "who holds the exposure for what --set changes:\nstop, shutter, iso or nd",
                  "PARTNER");
    options.value("--of", take_.of, "the subject whose smear is told", "NAME");
    options.value("--speed", speed_,
                  "with --of: how fast it goes across the view [as the scene moves it]", "SPEED");
    add_metering(options);
    add_light(options);
    options.flag("--apply", apply_, "write the picture with all that");
    add_out(options, out_, "PICTURE's name .expose.exr, here");
    options.value("--sheet", sheet_, "draw picture, map of stops and histogram: .png .svg", "FILE");
    frames_.add(options, "these frames of a sequence");
    options.value("--ramp", ramp_text_,
                  "with --frames: the exposure follows no faster, e.g.\n\"2 stops/s\"", "SPEED");
    options.repeatable("--metered", metered_,
                       "with --ramp: frames that other parts metered, as --json told\nthem "
                       "(repeatable)",
                       "FILE.json");
    options.value("--delay", delay_, "with --ramp: and so much later, e.g. \"0.3 s\" [0]", "TIME");
    transfer_.add(options);
    add_threads(options, threads_);
    options.example(fmt::format("expose {} --set take.stop=f/1.8 --pay shutter", regatta));
  }

  void check() override {
    ShotVerb::check();
    frames_.check();
    if (!pay_.empty()) {
      take_.pay = one_of<Partner>("--pay", pay_,
                                  {{"stop", Partner::stop},
                                   {"shutter", Partner::shutter},
                                   {"iso", Partner::iso},
                                   {"nd", Partner::nd}});
    }
    if (!speed_.empty()) take_.metres_per_second = speed_of(speed_);
    read_metering();
    read_light();
    look_.decoding = transfer_.decoding();
    read_ramp();
    check_together();
  }

  void run(const Terminal& io) override {
    const LoadedShot loaded = open(io);
    frames_.doubt(loaded, io);
    if (frames_.asked()) return expose_sequence(loaded, io);
    if (!picture_.empty()) return expose_one(loaded, io);
    if (take_.pay && std::none_of(request_.overrides.begin(), request_.overrides.end(),
                                  [](const Override& o) { return o.key.starts_with("take."); })) {
      throw UsageError(
          "--pay holds the exposure for a change of the take; say which: --set take.stop=f/1.8");
    }
    const TakeExposure exposure = take_exposure(take_, request_, loaded, io.files);
    say(form_, io, report::take_json(exposure, loaded),
        report::tried_line(loaded.shot) + report::take_text(exposure, loaded));
  }

 private:
  void add_metering(OptionSet& options) {
    const char* head = "METERING";
    options
        .value("--meter", meter_, "what of PICTURE shall become mid-grey [average]",
               "average|centre|spot|region|highlights")
        .under(head);
    options.value("--at", at_, "of a spot, px; its radius [1 % of the width]", "X,Y[,R]")
        .under(head);
    options
        .repeatable("--region", regions_,
                    "a region, px of the delivered picture; repeatable\n[those drawn in the plate]",
                    "X,Y,W,H")
        .under(head);
    options
        .value("--may-clip", may_clip_, "of highlights: share of the pixels that may clip [0.1 %]",
               "SHARE")
        .under(head);
    options
        .value("--grey", look_.wanted, "the picture value that is wanted instead of 0.18", "VALUE")
        .under(head);
  }

  void add_light(OptionSet& options) {
    const char* head = "LIGHT AND WHITE";
    options
        .flag("--as-plate", look_.as_plate,
              "as bright and as white as the shot's plate, by the regions\n"
              "that are drawn in it or given")
        .under(head);
    options
        .value("--card", card_,
               "with --as-plate: where CG shows the grey card that is drawn in\n"
               "the plate [at the same place]",
               "X,Y,W,H")
        .under(head);
    options.value("--gains", gains_, "the light that these gains make neutral", "R,G,B")
        .under(head);
    options.value("--stops", look_.stops, "so much brighter (+) or darker (-) besides [0]", "STOPS")
        .under(head);
    options
        .value("--told", told_,
               "the white the camera is told, e.g. \"3200 K\" or\n\"3200 K tint +0.004\" "
               "[the take's]",
               "WHITE")
        .under(head);
    options
        .value("--light", light_,
               "the white the light has: what a grey card looks like then\n"
               "with --as-plate: of CG's lights",
               "WHITE")
        .under(head);
    options
        .value("--adapt", adapt_, "from --light to --told by an adaptation instead of gains",
               "CAT16|Bradford")
        .under(head);
    options
        .value("--neutral", neutral_,
               "what is grey in PICTURE: the mean of it all, its brightest\nwhite, or a patch",
               "mean|brightest|X,Y,W,H")
        .under(head);
    options
        .value("--fall-off", corners_,
               "put the lens's darker corners into CG, or take them out of\na plate", "add|remove")
        .under(head);
  }

  void read_metering() {
    if (!meter_.empty()) {
      look_.meter = one_of<MeterWay>("--meter", meter_,
                                     {{"average", MeterWay::average},
                                      {"centre", MeterWay::centre},
                                      {"spot", MeterWay::spot},
                                      {"region", MeterWay::region},
                                      {"highlights", MeterWay::highlights}});
    }
    if (!at_.empty()) {
      const auto n =
          numbers_of("--at", at_, 2, 3, "numbers with commas between, e.g. --at 960,540");
      look_.spot = {n[0], n[1], n.size() > 2 ? n[2] : 0.0};
      if (n.size() > 2 && !(n[2] > 0.0)) {
        throw UsageError(fmt::format("--at {}: the radius is above zero", at_));
      }
    }
    for (const std::string& text : regions_) look_.regions.push_back(px_box("--region", text));
    if (!may_clip_.empty()) look_.may_clip = fraction_of("--may-clip", may_clip_, "\"0.1 %\"");
    if (!(look_.wanted > 0.0) || !std::isfinite(look_.wanted)) {
      throw UsageError(
          fmt::format("--grey {:g}: a picture value above zero, e.g. 0.18", look_.wanted));
    }
    if ((look_.meter == MeterWay::spot) != look_.spot.has_value()) {
      throw UsageError("a spot is --meter spot and --at X,Y together");
    }
    if (!may_clip_.empty() && look_.meter != MeterWay::highlights) {
      throw UsageError("--may-clip belongs to --meter highlights");
    }
  }

  void read_light() {
    look_.told = white_of("--told", told_);
    look_.light = white_of("--light", light_);
    if (!adapt_.empty()) {
      look_.adapt = one_of<Adaptation>(
          "--adapt", adapt_, {{"CAT16", Adaptation::cat16}, {"Bradford", Adaptation::bradford}});
    }
    look_.neutral = neutral_of(neutral_);
    if (!corners_.empty()) {
      look_.relative_illumination = one_of<IlluminationUse>(
          "--fall-off", corners_,
          {{"add", IlluminationUse::add}, {"remove", IlluminationUse::remove}});
    }
    if (!card_.empty()) look_.card = px_box("--card", card_);
    if (!gains_.empty()) {
      const auto n = numbers_of("--gains", gains_, 3, 3,
                                "numbers with commas between, e.g. --gains 1.9,1,1.4");
      take_.gains = Rgb{n[0], n[1], n[2]};
    }
  }

  void read_ramp() {
    if (ramp_text_.empty()) {
      if (!delay_.empty()) throw UsageError("--delay belongs to --ramp");
      if (!metered_.empty()) throw UsageError("--metered belongs to --ramp");
      return;
    }
    const auto speed = number_before(ramp_text_, {"stops/s", "stop/s"});
    if (!speed || !(*speed > 0.0)) {
      throw UsageError(
          fmt::format("--ramp {}: write a speed above zero, e.g. \"2 stops/s\"", ramp_text_));
    }
    ramp_.emplace();
    ramp_->settings.stops_per_second = *speed;
    if (!delay_.empty()) {
      const auto delay = number_before(delay_, {"s"});
      if (!delay || !(*delay >= 0.0)) {
        throw UsageError(fmt::format("--delay {}: write a time, e.g. \"0.3 s\"", delay_));
      }
      ramp_->settings.delay = Duration::from_seconds(*delay);
    }
    if (!frames_.asked()) throw UsageError("--ramp goes over --frames");
  }

  void check_together() const {
    const bool picture = !picture_.empty();
    const bool about_picture = look_.meter || !look_.regions.empty() || look_.as_plate ||
                               look_.stops != 0.0 || look_.neutral.any() || apply_ ||
                               !sheet_.empty() || frames_.asked() || look_.decoding.transfer ||
                               look_.relative_illumination != IlluminationUse::none;
    if (about_picture && !picture) {
      throw UsageError(
          "name the PICTURE that shall be metered, compared or changed, behind the shot file");
    }
    if (!out_.empty() && !apply_) throw UsageError("-o names what --apply writes; give both");
    if (take_.metres_per_second && take_.of.empty()) {
      throw UsageError("--speed needs --of NAME: how far away it is");
    }
    if (take_.pay && picture) throw UsageError("--pay is about the take; leave PICTURE out");
    if (look_.as_plate && (look_.meter || look_.neutral.any())) {
      throw UsageError(
          "--as-plate finds exposure and white by itself: leave --meter and --neutral out");
    }
    if (!(std::abs(look_.stops) <= 60.0)) {
      throw UsageError(fmt::format("--stops {:g}: write stops within ±60, e.g. -1.5", look_.stops));
    }
    if (look_.card && !look_.as_plate) throw UsageError("--card belongs to --as-plate");
    if (take_.gains && picture) {
      throw UsageError("--gains only asks which light they belong to; leave PICTURE out");
    }
    if (look_.as_plate && frames_.asked()) {
      throw UsageError(
          "--as-plate compares one picture with the plate; for a sequence find --stops by it "
          "first");
    }
    if (look_.neutral.any() && (look_.light || look_.told)) {
      throw UsageError("--neutral finds the light's white by itself: leave --light and --told out");
    }
    if (look_.adapt && (!look_.light || look_.as_plate)) {
      throw UsageError("--adapt goes from --light to --told; say what the light is");
    }
    if (frames_.asked() && picture_.find('#') == std::string::npos) {
      throw UsageError(fmt::format(
          "--frames: '{}' has no # for the frame's number; write e.g. cg.####.exr", picture_));
    }
    for (const std::string& name : out_) {
      if (frames_.asked() && name.find('#') == std::string::npos) {
        throw UsageError(fmt::format(
            "-o {}: every frame would be written over the last; write e.g. done.####.exr", name));
      }
    }
    if (frames_.asked() && !sheet_.empty()) {
      throw UsageError("--sheet draws one picture, not --frames");
    }
  }

  void expose_one(const LoadedShot& loaded, const Terminal& io) const {
    std::vector<std::string> names;
    if (apply_) names = picture_names(out_, report::stem_of(picture_) + ".expose.exr");
    claim_drawing(sheet_);
    Frame frame = read_for_shot(picture_, look_.decoding, loaded, io.files);
    const ExposureLook look = look_at(frame, picture_, look_, loaded, io.files);
    std::string text = report::tried_line(loaded.shot) + report::look_text(look, loaded);
    Json json = report::look_json(look);
    std::vector<std::string> written;
    if (!sheet_.empty()) {
      const ExposureSheet sheet = look_sheet(look, frame, loaded);
      write_whole_file(sheet_, is_svg(sheet_) ? exposure_svg(sheet) : exposure_png(sheet));
      written.push_back(sheet_);
      text += fmt::format("\n{:<28} 1280 x 800, picture, map of stops, histogram\n", sheet_);
    }
    if (apply_) {
      if (look.match && look.match->contradict && form_.for_people()) io.out << text;
      jolly_iris::apply(look, loaded, frame.colour);
      text += '\n';
      for (const std::string& name : names) {
        write_for_shot(name, frame, loaded, 1.0, header_of(look));
        written.push_back(name);
        text += report::wrapped(listed(look.applied), fmt::format("{:<28} ", name),
                                std::string(29, ' '));
      }
      json["applied"] = look.applied;
    }
    json["written"] = written;
    say(form_, io, json, text);
  }

  void expose_sequence(const LoadedShot& loaded, const Terminal& io) const {
    std::vector<std::string> names;
    if (apply_) names = picture_names(out_, report::stem_of(picture_) + ".expose.exr");
    std::optional<FrameRamp> ramp = ramp_;
    for (const std::string& file : metered_) {
      const auto more = for_option("--metered", [&] { return read_metered(file, io.files); });
      ramp->elsewhere.insert(ramp->elsewhere.end(), more.begin(), more.end());
    }
    ExposedFrames seen;
    {
      Progress progress(io.bar, "metering");
      seen = look_at_frames(picture_, frames_.settings, look_, ramp, loaded, io.files,
                            progress.execution(threads_));
    }
    for (const ExposedFrame& f : seen.frames) tell_notes(f.look.warnings, io);
    std::string text = report::tried_line(loaded.shot);
    if (!seen.frames.empty()) {
      text += fmt::format("{}: {} frames, metered by {}\n", picture_, seen.frames.size(),
                          to_string(seen.frames.front().look.how.way)) +
              report::exposed_table(seen.frames, apply_ || ramp_);
    }
    FrameRun done;
    if (apply_) {
      Progress progress(io.bar, "exposing");
      done = write_exposed(seen, picture_, names, frames_.settings, look_, loaded, io.files,
                           progress.execution(threads_));
      text += fmt::format("\n{} written to {}{}\n", done.made(), names.front(),
                          done.kept > 0 ? fmt::format(", {} kept", done.kept) : "");
    }
    std::vector<FrameFailure> failed = seen.failed;
    failed.insert(failed.end(), done.failed.begin(), done.failed.end());
    say(form_, io,
        {{"picture", picture_},
         {"frames", report::exposed_json(seen.frames)},
         {"kept", done.kept},
         {"failed", tell_failed(failed, io)},
         {"written", done.written}},
        text);
    require_no_failure(failed, seen.frames.size() + seen.failed.size());
  }

  TakeRequest take_{};
  LookRequest look_{};
  FrameRunTexts frames_{};
  std::vector<std::string> metered_{};
  TransferText transfer_{};
  std::optional<FrameRamp> ramp_{};
  std::vector<std::string> out_{};
  std::vector<std::string> regions_{};
  std::string picture_{};
  int threads_ = 0;
  std::string pay_{};
  std::string speed_{};
  std::string meter_{};
  std::string at_{};
  std::string may_clip_{};
  std::string card_{};
  std::string gains_{};
  std::string told_{};
  std::string light_{};
  std::string adapt_{};
  std::string neutral_{};
  std::string corners_{};
  std::string sheet_{};
  std::string ramp_text_{};
  std::string delay_{};
  bool apply_ = false;
};

}  // namespace

const VerbEntry verbs::expose{"expose", "what exposure and white mean, cost, and do to a picture",
                              make_verb<ExposeVerb>};

}  // namespace jolly_iris::cli
