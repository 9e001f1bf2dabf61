#include "options.hpp"

#include <fmt/format.h>

#include "jolly_iris/nearest.hpp"
#include "option_parts.hpp"
#include "typed.hpp"

namespace jolly_iris::cli {

namespace {

constexpr const char* version = "jolly-iris 0.1.0";

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
  add_frames(*v, o.frames, typed, "a table of focus, limits and blur, frame by frame");
  v->add_option("--of", typed.of, "with --frames: blur of these subjects\n[those of the shot file]")
      ->type_name("NAME,NAME");
  v->add_flag("--csv", o.csv, "with --frames: as CSV, with all subjects");
  v->add_option("--for", o.dialect, "just the numbers a program asks for, in its own way")
      ->type_name("DIALECT.toml");
  v->add_option("--against", o.against,
                "how an existing CG camera differs: .gltf .glb .usda, or typed numbers .toml")
      ->type_name("FILE");
  add_example(*v, fmt::format("report {} --set take.stop=f/4", regatta));
  return v;
}

CLI::App* add_solve(CLI::App& app, SolveOptions& o, Typed& typed) {
  CLI::App* v = app.add_subcommand("solve", "from what is wanted to focus, stop and lens");
  add_shot(*v, o.shot, typed, "stop");
  v->add_option("--hold", typed.hold, "two subjects (or distances) that shall both be just sharp")
      ->type_name("A,B");
  v->add_option("--sharp", typed.sharp, "the range that shall be sharp, e.g. \"1.8m,3m\"")
      ->type_name("NEAR,FAR");
  v->add_option("--blur", typed.blur,
                "a wanted blur: \"12 px\", \"0.1 mm\" or \"0.5 %\" of the width")
      ->type_name("SIZE");
  v->add_option("--at", o.at, "with --blur: where; a subject or a distance [infinity]")
      ->type_name("NAME|LENGTH");
  v->add_option("--by", typed.by,
                "with --blur: what changes; lens moves too, keeping the\n"
                "subject's size [stop]\n"
                "with --level: who knows how the camera leans [the camera, if it\n"
                "has a place; else lines drawn in the plate]")
      ->type_name("stop|lens|camera|lines");
  v->add_flag("--level", o.level, "a level camera with a shifted lens: verticals stay parallel");
  v->add_option("--keep", o.keep,
                "with --level: what keeps its place and size in the picture\n[the middle]")
      ->type_name("NAME|X,Y");
  v->add_option("--clip", typed.clip, "clip distances that remove these nodes and no others")
      ->type_name("NAME,NAME");
  v->add_option("--body", o.body, "the same picture on another body: its lens and stop")
      ->type_name("BODY.toml");
  v->add_option("--adapter", o.adapter, "with --body: the adapter behind that lens [1]")
      ->type_name("FACTOR");
  add_example(*v, fmt::format("solve {} --hold \"boat,second boat\"", regatta));
  return v;
}

CLI::App* add_handoff(CLI::App& app, HandoffOptions& o, Typed& typed) {
  CLI::App* v =
      app.add_subcommand("handoff", "the camera for other programs: glTF, usda, JSON, CSV");
  add_shot(*v, o.shot, typed, "written.0");
  add_frames(*v, o.frames, typed, "these frames [all, where something moves]");
  v->add_option("--stamp", o.stamp, "write the numbers into this EXR's header too (repeatable)")
      ->type_name("FILE.exr")
      ->take_all()
      ->allow_extra_args(false);
  v->add_option("--to", o.folder, "folder to write to [this one]")->type_name("FOLDER");
  add_example(*v, fmt::format("handoff {} --to out", regatta));
  return v;
}

void add_boxes(CLI::App& verb, Typed& typed) {
  verb.add_option("--box", typed.boxes,
                  "discs only within this part, px of the delivered picture\n(repeatable)")
      ->type_name("X,Y,W,H")
      ->take_all()
      ->allow_extra_args(false);
}

CLI::App* add_measure(CLI::App& app, MeasureOptions& o, Typed& typed) {
  CLI::App* v = app.add_subcommand("measure",
                                   "lamps out of focus in the plate -> iris and blur; drawn edges "
                                   "-> distortion and perspective");
  add_shot(*v, o.shot, typed, "tilt_deg.value");
  v->add_flag("--discs", o.discs, "measure the plate's discs, also where edges are drawn");
  v->add_option("--least", o.least_px, "diameter of the smallest disc looked for, px [12]")
      ->type_name("PX")
      ->check(CLI::Range(8.0, 4000.0));
  add_boxes(*v, typed);
  v->add_option("--overlay", o.overlay, "draw the plate with what was found in it")
      ->type_name("FILE.png|svg");
  v->add_flag("--focal", o.focal, "find the focal length too, from two sets of edges");
  v->add_option("--drawn", o.drawn_px, "how exactly they were drawn, in px [0.5]")
      ->type_name("PX")
      ->check(CLI::Range(1e-3, 100.0));
  add_example(*v, "measure demo/regatta/hero.shot.toml --discs --overlay out/discs.png");
  return v;
}

CLI::App* add_match(CLI::App& app, MatchOptions& o, Typed& typed) {
  CLI::App* v = app.add_subcommand(
      "match",
      "plate + notes -> the camera that took it, with margins; the likeliest mistake in the notes");
  add_shot(*v, o.shot, typed, "match.unknowns.2.value");
  v->add_option("--least", o.least_px, "diameter of the smallest disc looked for, px [12]")
      ->type_name("PX")
      ->check(CLI::Range(8.0, 4000.0));
  add_boxes(*v, typed);
  v->add_flag("--accept", o.accept,
              "write SHOT's name .solved.toml beside it: it leads over the\nnotes from then on");
  v->add_option("--doubt", o.doubt,
                "a note that is not believed at all, or by so much (repeatable):\nlens.focal, "
                "body.gate, take.stop, focus, lens.squeeze,\nscene.scale, scene.back, take.ev, "
                "take.white")
      ->type_name("KEY[=%]")
      ->take_all()
      ->allow_extra_args(false);
  v->add_option("--with", o.together,
                "another shot of the same body and lens: matched together,\none tells what the "
                "other cannot (repeatable)")
      ->type_name("SHOT")
      ->take_all()
      ->allow_extra_args(false);
  add_example(*v, "match demo/regatta/notes.shot.toml");
  return v;
}

CLI::App* add_compare(CLI::App& app, CompareOptions& o, Typed& typed) {
  CLI::App* v = app.add_subcommand(
      "compare", "plate and CG, or several tries: what differs, and what to change next");
  add_shot(*v, o.shot, typed, "discs.larger.value");
  v->add_option("PICTURE", o.pictures, "CG of the plate's framing; several are tries of it")
      ->required()
      ->type_name("FILE");
  v->add_flag("--no-plate", o.no_plate, "compare with the first picture instead of the plate");
  v->add_option("--box", typed.box, "only this part, px of the plate")->type_name("X,Y,W,H");
  v->add_option("--least", o.least_px, "diameter of the smallest disc looked for, px [12]")
      ->type_name("PX")
      ->check(CLI::Range(8.0, 4000.0));
  v->add_option("--side", o.side, "write both pictures beside each other")->type_name("FILE");
  v->add_option("--split", o.split,
                "write one picture, the plate left of a line and CG right of it")
      ->type_name("FILE");
  v->add_option("--split-at", o.split_at, "where that line is, share of the width [0.5]")
      ->type_name("SHARE")
      ->check(CLI::Range(0.0, 1.0));
  v->add_option("--difference", o.difference, "write the difference around grey")
      ->type_name("FILE");
  v->add_option("--times", o.times, "with --difference: enlarged so much [4]")
      ->type_name("N")
      ->check(CLI::Range(0.1, 1000.0));
  v->add_option("--blink", o.blink, "write both in turns, as a moving picture")
      ->type_name("FILE.gif");
  v->add_option("--sheet", o.sheet, "draw all tries with the values that made them")
      ->type_name("FILE.png|svg");
  add_transfer(*v, typed);
  add_example(*v, "compare demo/regatta/hero.shot.toml out/hero.exr --blink out/hero.gif");
  return v;
}

CLI::App* add_bend(CLI::App& app, BendOptions& o, Typed& typed, bool back) {
  CLI::App* v =
      back ? app.add_subcommand("redistort", "a straight CG picture -> bent as the lens bends it")
           : app.add_subcommand("undistort", "a plate -> straight, as CG shows it");
  add_shot(*v, o.shot, typed, "written.0");
  v->add_option("PICTURE", o.picture,
                back ? "the CG picture, with its margin or as large as the plate"
                     : "the picture to straighten [the shot's plate]")
      ->type_name("FILE");
  add_out(*v, o.out,
          back ? "PICTURE's name .redistort.exr, here" : "PICTURE's name .undistort.exr, here");
  v->add_option("--map", o.map, "write where each pixel comes from, for other programs, too")
      ->type_name("FILE.exr");
  if (!back) v->add_flag("--same-size", o.same_size, "without the margin: the corners are lost");
  add_transfer(*v, typed);
  add_example(*v,
              back ? "redistort demo/regatta/quay.shot.toml out/quay.undistort.exr -o out/quay.png"
                   : "undistort demo/regatta/quay.shot.toml -o out/quay.undistort.exr");
  return v;
}

void add_light(CLI::App& verb, ExposeOptions& o, Typed& typed) {
  verb.add_flag("--as-plate", o.as_plate,
                "as bright and as white as the shot's plate, by the regions\n"
                "that are drawn in it or given")
      ->group("LIGHT AND WHITE");
  verb.add_option("--card", typed.card,
                  "with --as-plate: where CG shows the grey card that is drawn in\n"
                  "the plate [at the same place]")
      ->type_name("X,Y,W,H")
      ->group("LIGHT AND WHITE");
  verb.add_option("--gains", typed.gains, "the light that these gains make neutral")
      ->type_name("R,G,B")
      ->group("LIGHT AND WHITE");
  verb.add_option("--stops", o.stops, "so much brighter (+) or darker (-) besides [0]")
      ->type_name("STOPS")
      ->group("LIGHT AND WHITE");
  verb.add_option("--told", typed.told,
                  "the white the camera is told, e.g. \"3200 K\" or\n\"3200 K tint +0.004\" "
                  "[the take's]")
      ->type_name("WHITE")
      ->group("LIGHT AND WHITE");
  verb.add_option("--light", typed.light,
                  "the white the light has: what a grey card looks like then\n"
                  "with --as-plate: of CG's lights")
      ->type_name("WHITE")
      ->group("LIGHT AND WHITE");
  verb.add_option("--adapt", typed.adapt,
                  "from --light to --told by an adaptation instead of gains")
      ->type_name("CAT16|Bradford")
      ->group("LIGHT AND WHITE");
  verb.add_option("--neutral", typed.neutral,
                  "what is grey in PICTURE: the mean of it all, its brightest\nwhite, or a patch")
      ->type_name("mean|brightest|X,Y,W,H")
      ->group("LIGHT AND WHITE");
  verb.add_option("--fall-off", typed.fall_off,
                  "put the lens's darker corners into CG, or take them out of\na plate")
      ->type_name("add|remove")
      ->group("LIGHT AND WHITE");
}

void add_metering(CLI::App& verb, ExposeOptions& o, Typed& typed) {
  verb.add_option("--meter", typed.meter, "what of PICTURE shall become mid-grey [average]")
      ->type_name("average|centre|spot|region|highlights")
      ->group("METERING");
  verb.add_option("--at", typed.at, "of a spot, px; its radius [1 % of the width]")
      ->type_name("X,Y[,R]")
      ->group("METERING");
  verb.add_option("--region", typed.regions,
                  "a region, px of the delivered picture; repeatable\n[those drawn in the plate]")
      ->type_name("X,Y,W,H")
      ->take_all()
      ->allow_extra_args(false)
      ->group("METERING");
  verb.add_option("--may-clip", typed.may_clip,
                  "of highlights: share of the pixels that may clip [0.1 %]")
      ->type_name("SHARE")
      ->group("METERING");
  verb.add_option("--grey", o.wanted, "the picture value that is wanted instead of 0.18")
      ->type_name("VALUE")
      ->group("METERING");
}

CLI::App* add_expose(CLI::App& app, ExposeOptions& o, Typed& typed) {
  CLI::App* v =
      app.add_subcommand("expose", "what exposure and white mean, cost, and do to a picture");
  add_shot(*v, o.shot, typed, "exposure.ev100");
  v->add_option("PICTURE", o.picture,
                "a picture to meter; with --frames #### stands for the number")
      ->type_name("FILE");
  v->add_option("--pay", typed.pay,
                "who holds the exposure for what --set changes:\nstop, shutter, iso or nd")
      ->type_name("PARTNER");
  v->add_option("--of", o.of, "the subject whose smear is told")->type_name("NAME");
  v->add_option("--speed", typed.speed,
                "with --of: how fast it goes across the view [as the scene moves it]")
      ->type_name("SPEED");
  add_metering(*v, o, typed);
  add_light(*v, o, typed);
  v->add_flag("--apply", o.apply, "write the picture with all that");
  add_out(*v, o.out, "PICTURE's name .expose.exr, here");
  v->add_option("--sheet", o.sheet, "draw picture, map of stops and histogram: .png .svg")
      ->type_name("FILE");
  add_frames(*v, o.frames, typed, "these frames of a sequence");
  v->add_option("--ramp", typed.ramp,
                "with --frames: the exposure follows no faster, e.g.\n\"2 stops/s\"")
      ->type_name("SPEED");
  v->add_option("--delay", typed.delay, "with --ramp: and so much later, e.g. \"0.3 s\" [0]")
      ->type_name("TIME");
  add_transfer(*v, typed);
  add_threads(*v, o.threads);
  add_example(*v, fmt::format("expose {} --set take.stop=f/1.8 --pay shutter", regatta));
  return v;
}

CLI::App* add_plan(CLI::App& app, PlanOptions& o, Typed& typed) {
  CLI::App* v = app.add_subcommand("plan", "the set from above: view, focus plane, who is sharp");
  add_shot(*v, o.shot, typed, "written.0");
  v->add_option("-o,--out", o.out,
                "drawing to write: .png .svg; repeatable\n[SHOT's name .plan.png, here]")
      ->type_name("FILE")
      ->take_all()
      ->allow_extra_args(false);
  v->add_flag("--side", o.side, "from the side instead");
  add_example(*v, fmt::format("plan {} -o out/hero.plan.png", regatta));
  return v;
}

CLI::App* add_page(CLI::App& app, PageOptions& o, Typed& typed) {
  CLI::App* v = app.add_subcommand(
      "page", "one HTML page of the shot, to look at and to point into the plate");
  add_shot(*v, o.shot, typed, "written.0");
  v->add_option("-o,--out", o.out, "page to write [SHOT's name .page.html, here]")
      ->type_name("FILE.html");
  v->add_option("--with", o.pictures, "a picture made so far, to show on it (repeatable)")
      ->type_name("FILE")
      ->take_all()
      ->allow_extra_args(false);
  v->add_option("--cg", o.cg, "a render of the plate's framing, to compare with it")
      ->type_name("FILE");
  v->add_flag("--match", o.match, "what the plate's discs say of the notes");
  v->add_flag("--bokeh", o.bokeh, "how the lens draws lamps, centre to corner");
  v->add_option("--steps", typed.steps,
                "values of one key to slide through, rendered now,\n"
                "e.g. take.stop=f/1.8,f/2.2,f/2.8")
      ->type_name("KEY=V,V,V");
  v->add_option("--sharp", o.sharp,
                "with --steps: a sharp picture with depth to defocus\n[the scene is traced]")
      ->type_name("FILE.exr");
  add_example(*v, fmt::format("page {} --sharp demo/regatta/pinhole.exr "
                              "--steps take.stop=f/1.8,f/2.2,f/2.8,f/4 -o out/hero.page.html",
                              regatta));
  return v;
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
  SolveOptions solve;
  TraceOptions trace;
  DefocusOptions defocus;
  BokehOptions bokeh;
  HandoffOptions handoff;
  MeasureOptions measure;
  BendOptions undistort;
  BendOptions redistort;
  redistort.back = true;
  ExposeOptions expose;
  PlanOptions plan;
  PageOptions page;
  Typed typed;
  const CLI::App* start_verb = add_start(app, start);
  const CLI::App* report_verb = add_report(app, report, typed);
  const CLI::App* solve_verb = add_solve(app, solve, typed);
  const CLI::App* trace_verb = add_trace(app, trace, typed);
  const CLI::App* defocus_verb = add_defocus(app, defocus, typed);
  const CLI::App* bokeh_verb = add_bokeh(app, bokeh, typed);
  const CLI::App* expose_verb = add_expose(app, expose, typed);
  const CLI::App* plan_verb = add_plan(app, plan, typed);
  const CLI::App* page_verb = add_page(app, page, typed);
  const CLI::App* measure_verb = add_measure(app, measure, typed);
  MatchOptions match;
  const CLI::App* match_verb = add_match(app, match, typed);
  CompareOptions compare;
  const CLI::App* compare_verb = add_compare(app, compare, typed);
  const CLI::App* undistort_verb = add_bend(app, undistort, typed, false);
  const CLI::App* redistort_verb = add_bend(app, redistort, typed, true);
  SqueezeOptions desqueeze;
  SqueezeOptions squeeze;
  squeeze.back = true;
  const CLI::App* desqueeze_verb = add_squeeze(app, desqueeze, typed);
  const CLI::App* squeeze_verb = add_squeeze(app, squeeze, typed);
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
  if (report_verb->parsed()) {
    report.frames = frames_of_text(report.frames, typed.frames);
    report.of = split(typed.of);
    if ((report.csv || !report.of.empty()) && !report.frames.asked) {
      throw UsageError("--csv and --of belong to --frames, e.g. --frames all --csv");
    }
    if (!report.dialect.empty() + !report.against.empty() + report.frames.asked > 1) {
      throw UsageError("--frames, --for and --against are three reports; ask for one of them");
    }
    return with(report);
  }
  if (solve_verb->parsed()) return with(solve_of(solve, typed));
  if (trace_verb->parsed()) {
    trace.box = box_of(typed.box);
    trace.just = split(typed.just);
    trace.without = split(typed.without);
    return with(trace);
  }
  if (defocus_verb->parsed()) {
    return with(defocus_of(defocus, typed));
  }
  if (bokeh_verb->parsed()) return with(bokeh_of(bokeh, typed));
  if (expose_verb->parsed()) {
    expose.frames = frames_of_text(expose.frames, typed.frames);
    return with(expose_of(expose, typed));
  }
  if (plan_verb->parsed()) return with(plan);
  if (page_verb->parsed()) {
    page.steps = steps_of(typed.steps, "--steps");
    if (page.steps.values.empty() && !page.sharp.empty()) {
      throw UsageError("--sharp is what --steps defocuses; give both, or show it: --with FILE");
    }
    return with(page);
  }
  measure.boxes = match.boxes = boxes_of(typed.boxes);
  if (measure_verb->parsed()) {
    if (!measure.boxes.empty() && !measure.discs) {
      throw UsageError("--box says where discs are looked for; it belongs to --discs");
    }
    return with(measure);
  }
  if (match_verb->parsed()) return with(match);
  if (compare_verb->parsed()) {
    compare.box = box_of(typed.box);
    compare.coding = coding_of(typed.transfer);
    return with(compare);
  }
  for (BendOptions* o : {&undistort, &redistort}) {
    if (!(o->back ? redistort_verb : undistort_verb)->parsed()) continue;
    o->coding = coding_of(typed.transfer);
    if (o->back && o->picture.empty() && o->map.empty()) {
      throw UsageError("redistort: name the CG picture, or ask for the --map alone");
    }
    return with(*o);
  }
  for (SqueezeOptions* o : {&desqueeze, &squeeze}) {
    if ((o->back ? squeeze_verb : desqueeze_verb)->parsed()) return with(squeeze_of(*o, typed));
  }
  handoff.frames = frames_of_text(handoff.frames, typed.frames);
  return with(handoff);
}

}  // namespace jolly_iris::cli
