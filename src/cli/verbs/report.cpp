#include <fmt/format.h>

#include <filesystem>
#include <ostream>

#include "cli/parse/values.hpp"
#include "cli/terminal/progress.hpp"
#include "cli/verbs/list.hpp"
#include "cli/verbs/shot_verb.hpp"
#include "files/answer_json.hpp"
#include "jolly_iris/files/frame_table.hpp"
#include "jolly_iris/workflow/other_cameras.hpp"
#include "report/answer_report.hpp"
#include "report/camera_report.hpp"
#include "report/frames_report.hpp"
#include "report/measured.hpp"

namespace jolly_iris::cli {

namespace {

// Beside the tool, wherever it is installed: bin/ and share/ have one parent.
std::filesystem::path shipped_dialects() {
  std::error_code error;
  const auto tool = std::filesystem::read_symlink("/proc/self/exe", error);
  return tool.parent_path().parent_path() / "share" / "jolly_iris" / "dialects";
}

class ReportVerb : public ShotVerb {
 public:
  void add_options(OptionSet& options) override {
    add_shot(options, "camera.focal_mm");
    frames_.add(options, "a table of focus, limits and blur, frame by frame");
    options.value("--of", of_text_,
                  "with --frames: blur of these subjects\n[those of the shot file]", "NAME,NAME");
    options.flag("--csv", csv_, "with --frames: as CSV, with all subjects");
    options.value("--for", dialect_, "just the numbers a program asks for, in its own way",
                  "DIALECT.toml");
    options.value("--against", against_,
                  "how an existing CG camera differs: .gltf .glb .usda, or typed numbers .toml",
                  "FILE");
    options.example(fmt::format("report {} --set take.stop=f/4", regatta));
  }

  void check() override {
    ShotVerb::check();
    chosen_ = frames_.request();
    of_ = split(of_text_);
    if ((csv_ || !of_.empty()) && !chosen_.asked) {
      throw UsageError("--csv and --of belong to --frames, e.g. --frames all --csv");
    }
    if (!dialect_.empty() + !against_.empty() + chosen_.asked > 1) {
      throw UsageError("--frames, --for and --against are three reports; ask for one of them");
    }
  }

  void run(const Terminal& io) override {
    const LoadedShot loaded = open(io);
    frames_.doubt(loaded, io);
    const std::string plate = one_plate(loaded);
    if (!plate.empty() && !std::filesystem::exists(plate)) {
      io.notes.warn(loaded.shot.where("plate.file") + plate + " is not there");
    }
    const std::string tried = report::tried_line(loaded.shot);
    if (chosen_.asked) {
      report_frames(loaded, io);
    } else if (!dialect_.empty()) {
      const SpokenCamera spoken = speak(loaded, dialect_, shipped_dialects(), io.files);
      say(form_, io, report::spoken_json(spoken), tried + report::spoken_text(spoken));
    } else if (!against_.empty()) {
      const CameraDeviations found = deviations_of(against_, loaded, shipped_dialects(), io.files);
      say(form_, io, report::deviations_json(found),
          tried + report::deviations_text(found, loaded));
    } else if (form_.for_people()) {
      io.out << report::answer_text(loaded);
    } else {
      say(form_, io, to_json(loaded.answer), {});
    }
  }

 private:
  // The plate; of a sequence the picture of the frame that is asked for, else of its first.
  static std::string one_plate(const LoadedShot& loaded) {
    if (!loaded.shot.plate) return {};
    const std::string& file = loaded.shot.plate->file;
    if (!is_sequence(file)) return file;
    if (loaded.answer.frame) return numbered(file, *loaded.answer.frame);
    const std::optional<FrameRange> range = frames_of_shot(loaded);
    return range ? numbered(file, range->first) : std::string();
  }

  void report_frames(const LoadedShot& loaded, const Terminal& io) const {
    const std::vector<double> frames = chosen_frames(chosen_, loaded);
    Progress progress(io.bar, "frames");
    const auto answers = answers_at(loaded.shot, loaded.scene ? &*loaded.scene : nullptr, frames,
                                    progress.execution());
    if (csv_) {
      io.out << frames_csv(answers);
    } else if (!form_.for_people()) {
      say(form_, io, frames_tree(answers), {}, 1);
    } else {
      const auto names =
          for_option("--of", [&] { return report::shown_subjects(of_, loaded, answers); });
      io.out << report::frames_text(loaded, answers, names);
    }
  }

  FrameTexts frames_{};
  FrameRequest chosen_{};
  std::string of_text_{};
  std::vector<std::string> of_{};
  std::string dialect_{};
  std::string against_{};
  bool csv_ = false;
};

}  // namespace

const VerbEntry verbs::report{"report", "the virtual camera to type in, and who is sharp",
                              make_verb<ReportVerb>};

}  // namespace jolly_iris::cli
