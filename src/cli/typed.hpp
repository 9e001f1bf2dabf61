// From what was typed to values, with a sentence for what cannot be meant. Knows no library for
// arguments: options.cpp hands it their texts.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "options.hpp"

namespace jolly_iris::cli {

// Everything as it was typed; turned into values once CLI11 is content.
struct Typed {
  std::vector<std::string> set{};
  std::string variant{};
  std::string box{};
  std::string transfer{};
  std::string frames{};
  std::string blur{};
  std::string by{};
  std::string hold{};
  std::string sharp{};
  std::string of{};
  std::string clip{};
  std::string steps{};
  std::string as{};
  std::string pixel{};
  std::string edge{};
  std::string margin{};
  std::string disc{};
  std::string just{};
  std::string without{};
  std::string lenses{};
  std::string keep{};
  std::vector<std::string> boxes{};
  // of expose
  std::string pay{};
  std::string speed{};
  std::string meter{};
  std::string at{};
  std::vector<std::string> regions{};
  std::string may_clip{};
  std::string told{};
  std::string light{};
  std::string adapt{};
  std::string neutral{};
  std::string card{};
  std::string gains{};
  std::string fall_off{};
  std::string ramp{};
  std::string delay{};
};

/// "take.stop=f/2.8". All of these: @throws UsageError naming the option and what would be right
Tried tried_of(const std::string& text);
/// "800,300,200,200"; nothing for nothing.
std::optional<Box> box_of(const std::string& text);
/// Several of them.
std::vector<Box> boxes_of(const std::vector<std::string>& texts);
/// "1001-1100" or "all", put into options that may have a step already.
FrameOptions frames_of_text(FrameOptions o, const std::string& text);
/// "a, b" → a and b, without blanks around them.
std::vector<std::string> split(const std::string& text);
/// What is wanted of solve: exactly one thing, with only what belongs to it.
SolveOptions solve_of(SolveOptions o, const Typed& typed);
/// "linear", "sRGB", "Rec.709", "ACEScct" or a table "FILE.csv"; nothing for nothing.
Coding coding_of(const std::string& text);
/// What is wanted of expose, with only what belongs together.
ExposeOptions expose_of(ExposeOptions o, const Typed& typed);
/// What is wanted of bokeh, with only what belongs together.
BokehOptions bokeh_of(BokehOptions o, const Typed& typed);
/// Likewise of defocus.
DefocusOptions defocus_of(DefocusOptions o, const Typed& typed);
/// What is wanted of desqueeze or squeeze, with only what belongs together.
SqueezeOptions squeeze_of(SqueezeOptions o, const Typed& typed);
/// "take.stop=f/1.8,f/2.2"; no steps for nothing.
Steps steps_of(const std::string& text, const char* option);

}  // namespace jolly_iris::cli
