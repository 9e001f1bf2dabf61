// What verbs about a shot have in common: the shot, what is tried in it, and in which form they
// speak.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "cli/terminal/say.hpp"
#include "cli/verbs/verb.hpp"
#include "jolly_iris/workflow/frame_run.hpp"
#include "jolly_iris/workflow/load.hpp"
#include "jolly_iris/workflow/sequence.hpp"

namespace jolly_iris::cli {

/// The shot of most examples.
inline constexpr const char* regatta = "demo/regatta/hero.shot.toml";

class ShotVerb : public Verb {
 public:
  void check() override;
  bool watches() const override { return watch_; }

 protected:
  /// SHOT, --set, --variant, --as-noted, --frame, --watch, --json and --only.
  /// @param key of the verb's JSON, for the help of --only
  void add_shot(OptionSet& options, const char* key);

  /// How this shot is asked for again as it was now, with more tried; quoted for a shell.
  std::string command(const std::string& verb, const std::vector<Override>& more) const;

  LoadedShot open(const Terminal& io) const { return open_shot(request_, io.files); }
  const std::string& file() const { return request_.file; }

  ShotRequest request_{};
  Form form_{};

 private:
  std::vector<std::string> set_{};
  std::string variant_{};
  std::optional<double> frame_{};
  bool watch_ = false;
};

/// --json and --only.
void add_form(OptionSet& options, Form& form, const char* key);
void add_threads(OptionSet& options, int& threads);
/// -o: pictures. @param otherwise what it is called without
void add_out(OptionSet& options, std::vector<std::string>& out, const char* otherwise);
/// --box: discs only there.
void add_disc_search(OptionSet& options, double& min_px, std::vector<std::string>& boxes);

/// The heading of options that say what is how far away.
inline constexpr const char* far_heading = "What is how far away";
/// --depth, --distance and --blur, under that heading.
void add_far(OptionSet& options, std::string& depth, std::string& distance, std::string& blur);

/// --frames and --step.
struct FrameTexts {
  std::string frames{};
  double step = 1.0;
  void add(OptionSet& options, const char* what);
  /// @throws UsageError for what is no range
  FrameRequest request() const;
  /// Says where they reach outside the shot's own, on stderr.
  void doubt(const LoadedShot& loaded, const Terminal& io) const;
};

/// --frames, --step, --part, --resume and --keep-going.
struct FrameRunTexts {
  FrameTexts texts{};
  std::string part{};
  FrameRunSettings settings{};
  void add(OptionSet& options, const char* what);
  /// @throws UsageError for what is no range or no part, or belongs to a sequence without one
  void check();
  bool asked() const { return settings.frames.asked; }
  void doubt(const LoadedShot& loaded, const Terminal& io) const { texts.doubt(loaded, io); }
};

/// What was made of frames: told, with what of them failed.
/// @param words "defocused"
/// @throws PartlyFailed behind that, where frames failed
void say_frames(const FrameRun& done, const FrameRequest& asked, const std::string& name,
                const char* words, double seconds, const LoadedShot& loaded, const Form& form,
                const Terminal& io);

/// The JSON of frames that failed; each is told on stderr too.
Json tell_failed(const std::vector<FrameFailure>& failed, const Terminal& io);

/// @throws PartlyFailed where there are any. @param count of all frames
void require_no_failure(const std::vector<FrameFailure>& failed, std::size_t count);

/// --transfer and --layer: how a picture is read.
struct TransferText {
  std::string transfer{};
  std::string layer{};
  void add(OptionSet& options);
  /// @throws UsageError for a name that is none
  Decoding decoding() const;
};

}  // namespace jolly_iris::cli
