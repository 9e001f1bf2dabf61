#include <fmt/format.h>

#include "option_parts.hpp"

namespace jolly_iris::cli {

void add_form(CLI::App& verb, Form& o, const char* key) {
  verb.add_flag("--json", o.json, "values for programs instead of text");
  verb.add_option("--only", o.only, fmt::format("one bare value by its --json key, e.g. {}", key))
      ->type_name("KEY");
}

void add_shot(CLI::App& verb, ShotOptions& o, Typed& typed, const char* key) {
  verb.add_option("SHOT", o.shot, "the shot file")->required()->type_name("FILE");
  verb.add_option("--set", typed.set, "try a value without touching the file (repeatable)")
      ->type_name("KEY=VALUE")
      ->take_all()
      ->allow_extra_args(false);
  verb.add_option("--variant", typed.variant, "one of the shot file's variants laid over it")
      ->type_name("NAME");
  verb.add_flag("--as-noted", o.as_noted, "leave out what match --accept solved");
  verb.add_option("--frame", o.frame, "the frame to answer at, where something moves [the first]")
      ->type_name("N");
  verb.add_flag("--watch", o.watch, "run again on every save of a file it read; Ctrl-C ends");
  add_form(verb, o.form, key);
}

void add_threads(CLI::App& verb, int& threads) {
  verb.add_option("--threads", threads, "how many cores to use; 0 is all")
      ->type_name("N")
      ->check(CLI::Range(0, 1024));
}

void add_out(CLI::App& verb, std::vector<std::string>& out, const char* otherwise) {
  verb.add_option("-o,--out", out,
                  fmt::format("picture to write: .exr .png .tif .jpg; repeatable\n[{}]", otherwise))
      ->type_name("FILE")
      ->take_all()
      ->allow_extra_args(false);
}

void add_example(CLI::App& verb, const std::string& example) {
  verb.footer("Example (on the demo data):\n  jolly-iris " + example);
}

void add_frames(CLI::App& verb, FrameOptions& o, Typed& typed, const char* what) {
  verb.add_option("--frames", typed.frames, what)->type_name("FIRST-LAST|all");
  verb.add_option("--step", o.step, "with --frames: only every so many [1]")->type_name("N");
}

void add_transfer(CLI::App& verb, Typed& typed) {
  verb.add_option("--transfer", typed.transfer,
                  "how PICTURE's numbers stand for light: linear, sRGB,\n"
                  "Rec.709, ACEScct, or a table FILE.csv [linear for EXR, else sRGB]")
      ->type_name("NAME");
}

}  // namespace jolly_iris::cli
