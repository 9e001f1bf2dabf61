// match over a plate's frames: its options, and its run.
#pragma once

#include <string>
#include <vector>

#include "cli/verbs/shot_verb.hpp"
#include "jolly_iris/workflow/camera_sequence.hpp"

namespace jolly_iris::cli {

class MatchFrames {
 public:
  void add(OptionSet& options);
  /// @throws UsageError for what does not go together, or belongs to --frames without it
  void check(const Form& form);
  bool asked() const { return run_.frames.asked; }
  /// @param accept writes the keys as solved values
  void run(const ShotRequest& shot, const DiscSearch& discs,
           const std::vector<PriorOverride>& doubts, bool accept, const Form& form,
           const Terminal& io) const;

 private:
  FrameTexts frames_{};
  FrameRunSettings run_{};
  std::vector<std::string> measured_{};
  std::string sheet_{};
  bool csv_ = false;
  bool keys_ = false;
  bool keep_going_ = false;
  int threads_ = 0;
};

}  // namespace jolly_iris::cli
