#include "cli/verbs/solve_autofocus.hpp"

#include "cli/terminal/progress.hpp"
#include "report/autofocus_report.hpp"

namespace jolly_iris::cli {

namespace {
constexpr const char* heading = "A camera that focuses by itself";
}

void SolveAutofocus::add(OptionSet& options) {
  options
      .value(
          "--autofocus", wanted_.on,
          "keys as such a camera would make them, after a subject, or\nafter what depth pictures "
          "have in their middle ninth, or at a pixel",
          "NAME|nearest|median|X,Y")
      .under(heading);
  options.value("--depth", wanted_.depth, "those depth pictures", "depth.####.exr").under(heading);
  options.value("--late", delay_s_, "how old is what it acts on, in seconds [0.2]", "S")
      .within(0.0, 10.0)
      .under(heading);
  options.value("--speed", speed_, "no faster, in dioptres a second [1.5]", "DPT")
      .within(1e-3, 1e3)
      .under(heading);
  options.value("--deaf", deaf_, "it stands still for less than that, in dioptres [0.03]", "DPT")
      .within(0.0, 10.0)
      .under(heading);
  options.value("--past", past_, "how far it goes past its target, in % of the way [0]", "PERCENT")
      .within(0.0, 100.0)
      .under(heading);
  options
      .flag("--own-keys", wanted_.keep_keys,
            "the shot's own [[pull]] keys lead, the rest joins them smoothly")
      .under(heading);
  options.value("--join", wanted_.join, "within so many frames before the first of them [12]", "N")
      .within(1.0, 1e5)
      .under(heading);
}

void SolveAutofocus::check(const FrameRequest& frames) {
  const AutofocusRequest usual;
  if (!asked()) {
    const bool any = !wanted_.depth.empty() || wanted_.keep_keys || wanted_.join != usual.join ||
                     delay_s_ != 0.2 || speed_ != 1.5 || deaf_ != 0.03 || past_ != 0.0;
    if (any) {
      throw UsageError(
          "--depth, --late, --speed, --deaf, --past, --own-keys and --join belong to --autofocus");
    }
    return;
  }
  wanted_.frames = frames;
  wanted_.settings.delay = Duration::from_seconds(delay_s_);
  wanted_.settings.dioptres_per_second = speed_;
  wanted_.settings.hysteresis_dpt = deaf_;
  wanted_.settings.overshoot = 0.01 * past_;
}

report::Solved SolveAutofocus::run(const ShotRequest& shot, const Terminal& io) const {
  Progress progress(io.bar, "following");
  AutofocusRequest wanted = wanted_;
  wanted.shot = shot;
  wanted.execution = progress.execution();
  return report::say(autofocus_keys(wanted, io.files), wanted.on);
}

}  // namespace jolly_iris::cli
