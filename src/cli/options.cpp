#include "options.hpp"

#include <fmt/format.h>

#include <CLI/CLI.hpp>
#include <array>
#include <charconv>

#include "jolly_iris/nearest.hpp"
#include "jolly_iris/quantity.hpp"

namespace jolly_iris::cli {

namespace {

constexpr const char* version = "jolly-iris 0.1.0";
constexpr const char* regatta = "demo/regatta/hero.shot.toml";

// Everything as it was typed; turned into values once CLI11 is content.
struct Typed {
  std::vector<std::string> set{};
  std::string variant{};
  std::string box{};
  std::string distance{};
  std::string transfer{};
};

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

CLI::App* add_start(CLI::App& app, StartOptions& o) {
  CLI::App* v = app.add_subcommand("start", "a plate -> a commented shot file to fill in");
  v->add_option("PLATE", o.plate, "the plate: a picture as it came from the camera")
      ->required()
      ->type_name("FILE");
  v->add_option("-o,--out", o.out, "shot file to write [PLATE's name .shot.toml, here]")
      ->type_name("FILE");
  v->add_flag("--replace", o.replace, "replace a shot file that is there already");
  add_form(*v, o.form, "focal_mm");
  add_example(*v, "start demo/regatta/plate.jpg -o out/first.shot.toml");
  return v;
}

CLI::App* add_report(CLI::App& app, ReportOptions& o, Typed& typed) {
  CLI::App* v = app.add_subcommand("report", "the virtual camera to type in, and who is sharp");
  add_shot(*v, o.shot, typed, "camera.focal_mm");
  add_example(*v, fmt::format("report {} --set take.stop=f/4", regatta));
  return v;
}

CLI::App* add_trace(CLI::App& app, TraceOptions& o, Typed& typed) {
  CLI::App* v = app.add_subcommand("trace", "the shot's scene, ray-traced through its lens");
  add_shot(*v, o.shot, typed, "written.0");
  add_out(*v, o.out, "SHOT's name .trace.exr or .pinhole.exr, here");
  v->add_flag("--pinhole", o.pinhole, "everything sharp, with depth Z: the input of defocus");
  v->add_option("--samples", o.samples, "rays a pixel [64]")
      ->type_name("N")
      ->check(CLI::Range(1, 1 << 20));
  v->add_option("--seed", o.seed, "other seeds give other noise [1]")->type_name("N");
  v->add_flag("--half", o.half, "half the width and height");
  v->add_option("--box", typed.box, "only this part of the picture, in pixels")
      ->type_name("X,Y,W,H");
  add_threads(*v, o.threads);
  add_example(*v, fmt::format("trace {} --half --samples 32 -o out/hero.png", regatta));
  return v;
}

CLI::App* add_defocus(CLI::App& app, DefocusOptions& o, Typed& typed) {
  CLI::App* v = app.add_subcommand("defocus", "picture + depth -> picture as the lens saw it");
  add_shot(*v, o.shot, typed, "written.0");
  v->add_option("PICTURE", o.picture, "a sharp picture; an EXR with depth Z (axial metres)")
      ->required()
      ->type_name("FILE");
  add_out(*v, o.out, "PICTURE's name .defocus.exr, here");
  v->add_option("--distance", typed.distance,
                "without a depth picture: everything is this far, e.g. 12m")
      ->type_name("LENGTH");
  v->add_option("--transfer", typed.transfer,
                "how PICTURE's numbers stand for light\n[linear for EXR, else sRGB]")
      ->type_name("linear|sRGB|Rec.709");
  add_threads(*v, o.threads);
  add_example(*v,
              fmt::format("defocus {} demo/regatta/pinhole.exr -o out/hero.defocus.png", regatta));
  return v;
}

CLI::App* add_handoff(CLI::App& app, HandoffOptions& o, Typed& typed) {
  CLI::App* v = app.add_subcommand("handoff", "the camera for other programs: glTF and JSON");
  add_shot(*v, o.shot, typed, "written.0");
  v->add_option("--to", o.folder, "folder to write to [this one]")->type_name("FOLDER");
  add_example(*v, fmt::format("handoff {} --to out", regatta));
  return v;
}

Tried tried_of(const std::string& text) {
  const auto equals = text.find('=');
  if (equals == std::string::npos || equals == 0) {
    throw UsageError(fmt::format("--set {}: write KEY=VALUE, e.g. --set take.stop=f/2.8", text));
  }
  return {text.substr(0, equals), text.substr(equals + 1)};
}

std::optional<Box> box_of(const std::string& text) {
  if (text.empty()) return std::nullopt;
  std::array<int, 4> v{};
  const char* at = text.data();
  const char* end = text.data() + text.size();
  for (std::size_t i = 0; i < 4; ++i) {
    const auto [next, error] = std::from_chars(at, end, v[i]);
    const bool last = i == 3;
    if (error != std::errc{} || (last ? next != end : next == end || *next != ',')) {
      throw UsageError(fmt::format(
          "--box {}: write four whole numbers x,y,width,height, e.g. --box 800,300,200,200", text));
    }
    at = next + (last ? 0 : 1);
  }
  return Box{v[0], v[1], v[2], v[3]};
}

std::optional<Length> distance_of(const std::string& text) {
  if (text.empty()) return std::nullopt;
  try {
    return parse_distance(text);
  } catch (const QuantityError& e) {
    throw UsageError(fmt::format("--distance: {}", e.what()));
  }
}

std::optional<Transfer> transfer_of(const std::string& text) {
  if (text.empty()) return std::nullopt;
  if (text == "linear") return Transfer::linear;
  if (text == "sRGB") return Transfer::srgb;
  if (text == "Rec.709") return Transfer::rec709;
  throw UsageError(fmt::format("--transfer {}: write linear, sRGB or Rec.709", text));
}

// A person who mistypes a verb gets the nearest one.
std::string unknown_verb(const CLI::App& app, const std::vector<std::string>& args) {
  std::vector<std::string> verbs;
  for (const CLI::App* v : app.get_subcommands([](const CLI::App*) { return true; })) {
    if (!args.empty() && v->get_name() == args[0]) return {};
    verbs.push_back(v->get_name());
  }
  if (args.empty() || args[0].starts_with("-")) return {};
  return fmt::format("there is no verb '{}'.{}", args[0], did_you_mean(args[0], verbs));
}

}  // namespace

Parsed parse(const std::vector<std::string>& args) {
  CLI::App app{"Jolly Iris: the virtual camera equal to the real one.", "jolly-iris"};
  app.require_subcommand(1);
  app.set_version_flag("--version", version);
  app.footer(
      "Start with: jolly-iris report demo/regatta/hero.shot.toml\n"
      "Each verb has its own --help.");
  StartOptions start;
  ReportOptions report;
  TraceOptions trace;
  DefocusOptions defocus;
  HandoffOptions handoff;
  Typed typed;
  const CLI::App* start_verb = add_start(app, start);
  const CLI::App* report_verb = add_report(app, report, typed);
  const CLI::App* trace_verb = add_trace(app, trace, typed);
  const CLI::App* defocus_verb = add_defocus(app, defocus, typed);
  add_handoff(app, handoff, typed);
  if (args.empty()) return {std::nullopt, app.help(), 2};
  if (const std::string unknown = unknown_verb(app, args); !unknown.empty()) {
    throw UsageError(unknown);
  }
  try {
    app.parse(std::vector<std::string>(args.rbegin(), args.rend()));  // CLI11 wants them reversed
  } catch (const CLI::CallForVersion&) {
    return {std::nullopt, std::string(version) + "\n", 0};
  } catch (const CLI::Success&) {
    const auto chosen = app.get_subcommands();
    return {std::nullopt, chosen.empty() ? app.help() : chosen.front()->help("jolly-iris"), 0};
  } catch (const CLI::ParseError& e) {
    const auto chosen = app.get_subcommands();
    const std::string verb = chosen.empty() ? "" : " " + chosen.front()->get_name();
    throw UsageError(fmt::format("{}\nSee: jolly-iris{} --help", e.what(), verb));
  }
  std::vector<Tried> tried;
  if (!typed.variant.empty()) tried.push_back({"variant", typed.variant});
  for (const std::string& text : typed.set) tried.push_back(tried_of(text));
  const auto with = [&](auto options) -> Parsed {
    options.shot.tried = tried;
    return {Verb(options), {}, 0};
  };
  if (start_verb->parsed()) return {Verb(start), {}, 0};
  if (report_verb->parsed()) return with(report);
  if (trace_verb->parsed()) {
    trace.box = box_of(typed.box);
    return with(trace);
  }
  if (defocus_verb->parsed()) {
    defocus.distance = distance_of(typed.distance);
    defocus.transfer = transfer_of(typed.transfer);
    return with(defocus);
  }
  return with(handoff);
}

}  // namespace jolly_iris::cli
