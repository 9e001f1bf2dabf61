// solve --autofocus: its options, and its run.
#pragma once

#include <string>

#include "cli/verbs/shot_verb.hpp"
#include "jolly_iris/workflow/autofocus_keys.hpp"
#include "report/solve_report.hpp"

namespace jolly_iris::cli {

class SolveAutofocus {
 public:
  void add(OptionSet& options);
  bool asked() const { return !wanted_.on.empty(); }
  /// @throws UsageError for its options without it
  void check(const FrameRequest& frames);
  report::Solved run(const ShotRequest& shot, const Terminal& io) const;

 private:
  AutofocusRequest wanted_{};
  double delay_s_ = 0.2;
  double past_ = 0.0;
  double speed_ = 1.5;
  double deaf_ = 0.03;
};

}  // namespace jolly_iris::cli
