#include "jolly_iris/picture/bokeh.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <optional>

#include "cli/parse/values.hpp"
#include "cli/terminal/progress.hpp"
#include "cli/verbs/list.hpp"
#include "cli/verbs/shot_verb.hpp"
#include "disk/disk.hpp"
#include "drawing/result_sheets.hpp"
#include "jolly_iris/optics/vignetting_mask.hpp"
#include "jolly_iris/picture_files/picture_file.hpp"
#include "jolly_iris/workflow/shot_glass.hpp"
#include "jolly_iris/workflow/write_picture.hpp"
#include "report/bokeh_report.hpp"
#include "report/measured.hpp"
#include "report/text.hpp"

namespace jolly_iris::cli {

namespace {

constexpr std::size_t most_rows = 12;  // of a sheet: more are too small to be seen

class BokehVerb : public ShotVerb {
 public:
  void add_options(OptionSet& options) override {
    add_shot(options, "discs.0.wide_px");
    options.value("--at", at_text_,
                  "how far away the lights are: subjects or distances, from near to\n"
                  "far [in front of the focus, in it, behind it]",
                  "NAME|LENGTH,...");
    options.repeatable("-o,--out", out_,
                       "sheet to write: .png or .svg; repeatable [SHOT's name .bokeh.png]", "FILE");
    options.value("--kernel", kernel_, "the iris as a picture, its light adding up to 1: .exr .png",
                  "FILE");
    options.value("--size", kernel_px_, "with --kernel: pixels of a side [256]", "N");
    options.value("--pixel", pixel_text_,
                  "with --kernel: as seen from this place of the frame [the middle]", "X,Y");
    options.value("--table", table_, "the lens for a renderer's own sampling: .json", "FILE");
    options.value("--mask", mask_, "the barrel's front rim as a card before the camera: .png .exr",
                  "FILE");
    options.value("--noise", noise_text_,
                  "how many rays a pixel keep highlights' noise at this, e.g. \"5 %\"", "SHARE");
    options.value("--contrast", rays_.contrast,
                  "with --noise: highlights against their ground [100]", "TIMES");
    options.value("--highlight", rays_.highlight_px, "with --noise: their diameter when sharp [2]",
                  "PX");
    options.value(
        "--vary", vary_text_,
        "tries of one value side by side, e.g. lens.iris.blades=5,7,9; or the shot beside\n"
        "its variants, each in its own light, e.g. variant=night",
        "KEY=A,B,...");
    options.value("--lenses", lenses_text_,
                  "other lenses beside the shot's own, each on a gate that frames the\n"
                  "same, e.g. alder.lens.toml",
                  "FILE,FILE");
    options.value("--as", as_,
                  "with --vary or --lenses: as discs, or as the scene, traced or defocused [discs]",
                  "discs|trace|defocus");
    options.value("--sharp", scene_.sharp, "with --as defocus: a sharp picture with depth", "FILE");
    options.example(fmt::format("bokeh {} -o out/hero.bokeh.png", regatta));
  }

  void check() override {
    ShotVerb::check();
    at_ = split(at_text_);
    if (!noise_text_.empty()) {
      noise_ = fraction_of("--noise", noise_text_, "\"5 %\"");
      if (!(*noise_ >= 0.0001)) {
        throw UsageError(
            fmt::format("--noise {}: at least 0.01 %; less takes millions of rays", noise_text_));
      }
    }
    vary_ = steps_of(vary_text_, "--vary");
    lenses_ = split(lenses_text_);
    if (!pixel_text_.empty()) {
      const auto p =
          numbers_of("--pixel", pixel_text_, 2, 2, "a place in the picture, e.g. 1700,120");
      pixel_ = {p[0], p[1]};
      if (kernel_.empty()) throw UsageError("--pixel belongs to --kernel FILE");
    }
    if (!as_.empty() && as_ != "discs" && as_ != "trace" && as_ != "defocus") {
      throw UsageError("--as " + as_ + ": write discs, trace or defocus");
    }
    scene_.traced = as_ == "trace";
    if (std::find(lenses_.begin(), lenses_.end(), "") != lenses_.end()) {
      throw UsageError("--lenses " + lenses_text_ + ": a name is empty");
    }
    if (!lenses_.empty() && !vary_.values.empty()) {
      throw UsageError("--lenses and --vary are two sheets; ask for one of them");
    }
    if (!as_.empty() && !has_tries()) {
      throw UsageError("--as belongs to --vary KEY=A,B, or to --lenses FILE,FILE");
    }
    if (!scene_.sharp.empty() && as_ != "defocus") {
      throw UsageError("--sharp is what --vary … --as defocus blurs; give them together");
    }
  }

  void run(const Terminal& io) override {
    const bool only_parts =
        out_.empty() && (!kernel_.empty() || !table_.empty() || !mask_.empty() || noise_);
    const std::vector<std::string> names =
        !out_.empty() ? out_
        : only_parts  ? std::vector<std::string>{}
                      : std::vector{report::stem_of(file()) + ".bokeh.png"};
    for (const std::string& name : names) claim_drawing(name);
    claim_picture(kernel_);
    claim_picture(mask_);
    claim_file(table_, "a table", "");
    const LoadedShot loaded = open(io);
    if (const std::string note = thin_lens_note(loaded); !note.empty()) tell_notes({note}, io);
    const VirtualCamera& c = loaded.answer.camera;
    const std::shared_ptr<const GlassCamera> glass = glass_for_discs(loaded);
    text_ = report::tried_line(loaded.shot);
    json_ = {{"opening", report::opening_json(c)}};
    if (has_tries()) {
      say_tries(names, io);
    } else if (!only_parts) {
      const std::vector<DiscRow> rows = rows_of(loaded);
      text_ += report::opening_text(c) + report::discs_table(c, rows, glass.get()) + '\n' +
               report::squeeze_text(loaded);
      json_["discs"] = report::discs_json(c, rows, glass.get());
      report::add_squeeze_json(loaded, json_);
      write_sheet(names, discs_sheet(loaded, rows), "discs over the frame");
    }
    if (noise_) say_rays(loaded);
    if (!mask_.empty()) write_mask(loaded);
    if (!kernel_.empty()) write_kernel(loaded);
    if (!table_.empty()) {
      write_whole_file(table_, report::lens_table(c));
      wrote(table_, "the lens for lens_sampler.hpp");
    }
    json_["written"] = written_;
    for (const auto& [key, origin] : loaded.shot.origins) {
      if (origin.source == Origin::Source::tried) json_["tried"][key] = origin.text;
    }
    say(form_, io, json_, text_ + written_text_);
    written_.clear();
    written_text_.clear();
  }

 private:
  bool has_tries() const { return !vary_.values.empty() || !lenses_.empty(); }

  std::vector<DiscRow> rows_of(const LoadedShot& loaded) const {
    return for_option("--at", [&] { return disc_rows(loaded, at_); });
  }

  void wrote(const std::string& name, const std::string& words) {
    written_.push_back(name);
    written_text_ += fmt::format("{:<28} {}\n", name, words);
  }

  void write_sheet(const std::vector<std::string>& names, const LabelledSheet& sheet,
                   const std::string& what) {
    for (const std::string& name : names) {
      write_whole_file(name, is_svg(name) ? labelled_svg(sheet) : labelled_png(sheet));
      wrote(name, "1280 x 800, " + what);
    }
  }

  void say_tries(const std::vector<std::string>& names, const Terminal& io) {
    const LensTries tries =
        lenses_.empty()
            ? try_values(request_, vary_, io.files)
            : for_option("--lenses", [&] { return try_lenses(request_, lenses_, io.files); });
    const std::size_t n = tries.tries.size();
    if (tries.whole_lenses()) {
      text_ += report::lenses_table(tries);
      json_["lenses"] = report::lenses_json(tries);
    }
    if (tries.variants()) {
      text_ += report::variants_table(tries);
      json_["variants"] = report::variants_json(tries);
    }
    const std::string what = tries.whole_lenses() ? fmt::format("{} lenses, framed alike", n)
                                                  : fmt::format("{} tries of {}", n, tries.key);
    if (as_.empty() || as_ == "discs") {
      std::vector<DiscRow> rows;
      for (const LensTry& t : tries.tries) {
        const auto own = for_option("--at", [&] {
          return at_.empty() ? std::vector{disc_row(t.loaded, at_)} : disc_rows(t.loaded, at_);
        });
        rows.insert(rows.end(), own.begin(), own.end());
      }
      if (rows.size() > most_rows) {
        throw UsageError(fmt::format(
            "{} tries at {} distances are {} rows; a sheet shows up to {}: ask for fewer", n,
            std::max<std::size_t>(1, at_.size()), rows.size(), most_rows));
      }
      write_sheet(names, tries_sheet(tries, rows), what);
      return;
    }
    const SheetRoom room = room_of_try(n);
    SceneLook look = scene_;
    look.width = room.width;
    look.height = room.height;
    Progress progress(io.bar, look.traced ? "tracing" : "defocusing");
    if (look.sharp.empty() && !tries.tries.front().loaded.scene) {
      throw UsageError(tries.tries.front().loaded.shot.file +
                       ": has no scene; give the picture to blur: --as defocus --sharp FILE");
    }
    const TriedScenes scenes = render_tries(tries, look, io.files, progress.execution());
    tell_notes(scenes.notes, io);
    write_sheet(names, tries_sheet(tries, scenes), what);
  }

  void say_rays(const LoadedShot& loaded) {
    report::RaysQuestion question = rays_;
    question.noise = *noise_;
    const auto rays = report::rays_needed(loaded.answer, question,
                                          at_.empty() ? std::vector<DiscRow>{} : rows_of(loaded));
    text_ += report::rays_text(rays, question);
    report::add_rays_json(rays, json_);
  }

  void write_mask(const LoadedShot& loaded) {
    const VignettingMask mask = vignetting_mask(loaded.answer.camera);
    const OpeningPicture drawn = mask_picture(mask, 1024);
    Frame frame{Picture({drawn.width, drawn.height}), {}};
    for (std::size_t i = 0; i < drawn.light.size(); ++i) {
      const auto& l = drawn.light[i];
      frame.colour.pixels()[i] = {l[0], l[1], l[2], 1.0F};
    }
    write_picture(mask_, frame);
    wrote(mask_, fmt::format("the barrel as a card: {:.1f} mm square, {:.1f} mm before the camera, "
                             "its hole {:.1f} mm wide; multiply the render by {:.3f}",
                             mask.side.mm(), mask.distance.mm(), 2.0 * mask.hole_radius.mm(),
                             mask.exposure));
    for (const std::string& w : mask.warnings) written_text_ += "  warning: " + w + '\n';
    json_["mask"] = report::mask_json(mask);
  }

  FramePlace place_of(const VirtualCamera& c) const {
    if (!pixel_) return {};
    const auto [x, y] = *pixel_;
    if (x < 0.0 || y < 0.0 || x > c.pixels.width || y > c.pixels.height) {
      throw UsageError(fmt::format("--pixel: {:g},{:g} is not within the picture of {} x {}", x, y,
                                   c.pixels.width, c.pixels.height));
    }
    return {2.0 * x / c.pixels.width - 1.0, 1.0 - 2.0 * y / c.pixels.height};
  }

  void write_kernel(const LoadedShot& loaded) {
    const VirtualCamera& c = loaded.answer.camera;
    const DiscRow row = for_option("--at", [&] { return disc_row(loaded, at_); });
    Frame frame{kernel_picture(c, place_of(c), row.z, kernel_px_, glass_for_discs(loaded).get()),
                {}};
    const bool shown = !kernel_.ends_with(".exr");
    float peak = 0.0F;
    for (const Rgba& p : frame.colour.pixels()) peak = std::max({peak, p[0], p[1], p[2]});
    if (shown) {  // formats for viewing hold 0 … 1: the brightest place is 1 then
      for (Rgba& p : frame.colour.pixels()) {
        for (std::size_t k = 0; k < 3; ++k) p[k] /= peak;
      }
    }
    write_for_shot(kernel_, frame, loaded);
    wrote(kernel_,
          fmt::format("{} x {}, the iris as seen from {}, {}", kernel_px_, kernel_px_,
                      report::row_name(row), shown ? "its brightest place 1" : "adding up to 1"));
  }

  std::string at_text_{};
  std::string vary_text_{};
  std::string lenses_text_{};
  std::string pixel_text_{};
  std::string as_{};
  std::vector<std::string> at_{};
  std::vector<std::string> out_{};
  std::vector<std::string> lenses_{};
  Steps vary_{};
  SceneLook scene_{};
  std::string kernel_{};
  std::string table_{};
  std::string mask_{};
  int kernel_px_ = 256;
  std::optional<std::array<double, 2>> pixel_{};
  std::string noise_text_{};
  std::optional<double> noise_{};
  report::RaysQuestion rays_{};
  // of one run
  std::string text_{};
  Json json_{};
  std::vector<std::string> written_{};
  std::string written_text_{};
};

}  // namespace

const VerbEntry verbs::bokeh{"bokeh", "what discs look like over the frame; the iris alone",
                             make_verb<BokehVerb>};

}  // namespace jolly_iris::cli
