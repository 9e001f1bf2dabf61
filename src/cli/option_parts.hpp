// What verbs' options have in common, and the verbs that blur. Only the files of options know
// CLI11, since it takes long to compile.
#pragma once

#include <CLI/CLI.hpp>
#include <string>
#include <vector>

#include "typed.hpp"

namespace jolly_iris::cli {

/// The shot of most examples.
inline constexpr const char* regatta = "demo/regatta/hero.shot.toml";

void add_form(CLI::App& verb, Form& o, const char* key);
void add_shot(CLI::App& verb, ShotOptions& o, Typed& typed, const char* key);
void add_threads(CLI::App& verb, int& threads);
void add_out(CLI::App& verb, std::vector<std::string>& out, const char* otherwise);
void add_example(CLI::App& verb, const std::string& example);
void add_frames(CLI::App& verb, FrameOptions& o, Typed& typed, const char* what);
void add_transfer(CLI::App& verb, Typed& typed);

// ---- trace, defocus, bokeh, desqueeze and squeeze (options_blur.cpp) ----
CLI::App* add_trace(CLI::App& app, TraceOptions& o, Typed& typed);
CLI::App* add_defocus(CLI::App& app, DefocusOptions& o, Typed& typed);
CLI::App* add_squeeze(CLI::App& app, SqueezeOptions& o, Typed& typed);
CLI::App* add_bokeh(CLI::App& app, BokehOptions& o, Typed& typed);

}  // namespace jolly_iris::cli
