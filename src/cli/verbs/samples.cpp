#include <fmt/format.h>

#include "cli/parse/values.hpp"
#include "cli/terminal/progress.hpp"
#include "cli/verbs/list.hpp"
#include "cli/verbs/shot_verb.hpp"
#include "jolly_iris/optics/quantity.hpp"
#include "jolly_iris/picture_files/picture_file.hpp"
#include "jolly_iris/workflow/sample_plan.hpp"
#include "report/measured.hpp"
#include "report/sample_report.hpp"

namespace jolly_iris::cli {

namespace {

class SamplesVerb : public ShotVerb {
 public:
  void add_options(OptionSet& options) override {
    add_shot(options, "times_everywhere");
    options
        .value("PICTURE", wanted_.picture,
               "a noisy test render through the lens: linear, nothing smoothed", "FILE")
        .required();
    options.value("--again", wanted_.again,
                  "the same frame with other random numbers: noise is known where there\n"
                  "is detail, too",
                  "FILE");
    options.value("--noise", noise_text_, "wanted: a pixel's noise against its level [\"2 %\"]",
                  "SHARE");
    options.value("--rays", wanted_.rays, "a pixel, that the test had", "N").within(1.0, 1e9);
    options.value("--took", took_, "how long the test took, e.g. \"12 min\"", "TIME");
    add_far(options, wanted_.depth, wanted_.distance, wanted_.blur);
    options.value("--map", map_,
                  "write the times as a picture, one number a pixel, for renderers that\n"
                  "take such a map",
                  "FILE");
    transfer_.add(options);
    options.example(
        fmt::format("samples {} out/test.exr --depth demo/regatta/pinhole.exr "
                    "--rays 16 --took \"40 s\"",
                    regatta));
  }

  void check() override {
    ShotVerb::check();
    wanted_.decoding = transfer_.decoding();
    if (!noise_text_.empty()) wanted_.noise = fraction_of("--noise", noise_text_, "\"2 %\"");
    if (!(wanted_.noise >= 1e-4)) {
      throw UsageError(
          fmt::format("--noise {}: at least 0.01 %; less takes millions of rays", noise_text_));
    }
    if (!took_.empty()) {
      wanted_.seconds = for_option("--took", [&] { return parse_duration(took_); });
    }
  }

  void run(const Terminal& io) override {
    claim_picture(map_);
    const LoadedShot loaded = open(io);
    const SamplePlan plan = plan_samples(wanted_, loaded, io.files);
    tell_notes(plan.notes, io);
    report::Solved said = report::say(plan);
    tell_notes(said.notes, io);
    if (!map_.empty()) {
      write_picture(map_, {sample_map(plan), {}});
      said.text += '\n' + map_ + '\n';
      said.json["written"] = Json::array({map_});
    }
    say(form_, io, said.json, report::tried_line(loaded.shot) + said.text);
  }

 private:
  SamplePlanRequest wanted_{};
  TransferText transfer_{};
  std::string noise_text_{};
  std::string took_{};
  std::string map_{};
};

}  // namespace

const VerbEntry verbs::samples{"samples",
                               "a noisy test render: how many rays a pixel it needs, and the time",
                               make_verb<SamplesVerb>};

}  // namespace jolly_iris::cli
