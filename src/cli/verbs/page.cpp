#include <fmt/format.h>

#include <filesystem>
#include <ostream>

#include "cli/parse/values.hpp"
#include "cli/terminal/progress.hpp"
#include "cli/verbs/list.hpp"
#include "cli/verbs/shot_verb.hpp"
#include "disk/disk.hpp"
#include "jolly_iris/drawing/shot_page.hpp"
#include "report/measured.hpp"
#include "report/text.hpp"

namespace jolly_iris::cli {

namespace {

constexpr double largest_mb = 5.0;  // a browser opens that at once from a slow disk

class PageVerb : public ShotVerb {
 public:
  void add_options(OptionSet& options) override {
    add_shot(options, "written.0");
    options.value("-o,--out", out_, "page to write [SHOT's name .page.html, here]", "FILE.html");
    options.repeatable("--with", wanted_.pictures,
                       "a picture made so far, to show on it (repeatable)", "FILE");
    options.value("--cg", wanted_.cg, "a render of the plate's framing, to compare with it",
                  "FILE");
    options.flag("--match", wanted_.match, "what the plate's discs say of the notes");
    options.flag("--bokeh", wanted_.bokeh, "how the lens draws lamps, centre to corner");
    options.value("--steps", steps_,
                  "values of one key to slide through, rendered now,\n"
                  "e.g. take.stop=f/1.8,f/2.2,f/2.8",
                  "KEY=V,V,V");
    options.value("--sharp", wanted_.sharp,
                  "with --steps: a sharp picture with depth to defocus\n[the scene is traced]",
                  "FILE.exr");
    options.example(
        fmt::format("page {} --sharp demo/regatta/pinhole.exr "
                    "--steps take.stop=f/1.8,f/2.2,f/2.8,f/4 -o out/hero.page.html",
                    regatta));
  }

  void check() override {
    ShotVerb::check();
    wanted_.shot = request_;
    wanted_.steps = steps_of(steps_, "--steps");
    if (wanted_.steps.values.empty() && !wanted_.sharp.empty()) {
      throw UsageError("--sharp is what --steps defocuses; give both, or show it: --with FILE");
    }
  }

  void run(const Terminal& io) override {
    const std::string name = out_.empty() ? report::stem_of(file()) + ".page.html" : out_;
    claim_file(name, "a page", ".html");
    const LoadedShot loaded = open(io);
    if (!wanted_.steps.values.empty() && wanted_.sharp.empty() && !loaded.scene) {
      throw UsageError(loaded.shot.file +
                       ": has no scene to render the steps of; give a sharp picture with depth: "
                       "--sharp FILE.exr");
    }
    Progress progress(io.bar, "rendering steps");
    const ShotPage page = shot_page(wanted_, loaded, io.files, progress.execution());
    tell_notes(page.notes, io);
    const std::string& html = page.html;
    write_whole_file(name, html);
    const double mb = static_cast<double>(html.size()) / 1e6;
    if (mb > largest_mb) {
      io.notes.warn(
          fmt::format("{} has {:.1f} MB; fewer pictures or steps make it quicker", name, mb));
    }
    say(form_, io, report::written_json({name}, {{"megabytes", mb}}, &loaded.shot),
        report::tried_line(loaded.shot) +
            fmt::format("{:<28} {:.1f} MB: open it in a browser; it needs no network\n", name, mb));
  }

 private:
  ShotPageRequest wanted_{};
  std::string steps_{};
  std::string out_{};
};

}  // namespace

const VerbEntry verbs::page{"page",
                            "one HTML page of the shot, to look at and to point into the plate",
                            make_verb<PageVerb>};

}  // namespace jolly_iris::cli
