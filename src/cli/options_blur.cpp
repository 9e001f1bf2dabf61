#include <fmt/format.h>

#include "option_parts.hpp"

namespace jolly_iris::cli {

CLI::App* add_trace(CLI::App& app, TraceOptions& o, Typed& typed) {
  CLI::App* v = app.add_subcommand("trace", "the shot's scene, ray-traced through its lens");
  add_shot(*v, o.shot, typed, "written.0");
  add_out(*v, o.out, "SHOT's name .trace.exr or .pinhole.exr, here");
  v->add_flag("--pinhole", o.pinhole, "everything sharp, with depth Z: the input of defocus");
  v->add_option("--just", typed.just,
                "the camera sees these nodes and what is below them, no others")
      ->type_name("NAME,NAME");
  v->add_option("--without", typed.without, "it does not see these: for pictures in layers")
      ->type_name("NAME,NAME");
  v->add_option("--samples", o.samples, "rays a pixel [64]")
      ->type_name("N")
      ->check(CLI::Range(1, 1 << 20));
  v->add_option("--seed", o.seed, "other seeds give other noise [1]")->type_name("N");
  v->add_option("--density", o.density,
                "a draft: only this share of a cloud's points, e.g. 0.05 [1]")
      ->type_name("SHARE")
      ->check(CLI::Range(1e-6, 1.0));
  v->add_flag("--half", o.half, "half the width and height");
  v->add_flag("--squeezed", o.squeezed, "not desqueezed: as the sensor behind the lens has it");
  v->add_option("--box", typed.box, "only this part of the picture, in pixels")
      ->type_name("X,Y,W,H");
  add_threads(*v, o.threads);
  add_example(*v, fmt::format("trace {} --half --samples 32 -o out/hero.png", regatta));
  return v;
}

CLI::App* add_defocus(CLI::App& app, DefocusOptions& o, Typed& typed) {
  CLI::App* v = app.add_subcommand("defocus", "picture + depth -> picture as the lens saw it");
  add_shot(*v, o.shot, typed, "written.0");
  v->add_option("PICTURE", o.pictures,
                "a sharp picture; an EXR with depth Z (as the shot's [depth] counts,\n"
                "else axial metres). Several: layers, from front to back")
      ->required()
      ->type_name("FILE");
  add_out(*v, o.out, "PICTURE's name .defocus.exr, here");
  v->add_option("--depth", o.depth, "a depth picture of its own, of any size")
      ->type_name("FILE")
      ->group("What is how far away");
  v->add_flag("--mend-depth", o.mend_depth,
              "the depth's edges are smoothed: give each pixel one of its sides")
      ->group("What is how far away");
  v->add_option("--distance", o.distance,
                "without a depth picture: everything is this far, e.g. 12m; or as far as\n"
                "this subject, frame by frame [the shot's depth.distance]")
      ->type_name("LENGTH|NAME")
      ->group("What is how far away");
  v->add_option("--blur", o.blur, "instead: how large each pixel's disc is, signed px (EXR)")
      ->type_name("FILE")
      ->group("What is how far away");
  v->add_option("--most", o.most_blur, "with --blur: it holds 0 ... 1, and 1 is this many px")
      ->type_name("PX")
      ->group("What is how far away");
  v->add_option("--save-blur", o.save_blur, "write each pixel's disc, signed px, as an EXR")
      ->type_name("FILE")
      ->group("What is how far away");
  v->add_option("--holdout", o.holdouts, "a layer of PICTURE that only hides (repeatable)")
      ->type_name("FILE")
      ->take_all()
      ->allow_extra_args(false)
      ->group("Edges");
  v->add_option("--edge", typed.edge, "beyond the frame: repeat, mirror or black [repeat]")
      ->type_name("NAME")
      ->group("Edges");
  v->add_option("--margin", typed.margin,
                "PICTURE has so many px beyond the frame, beside and above")
      ->type_name("PX,PX")
      ->group("Edges");
  v->add_flag("--squeezed", o.squeezed, "PICTURE is not desqueezed, and neither is the result")
      ->group("Edges");
  v->add_flag("--no-vignetting", o.no_vignetting, "the barrel shapes discs but takes no light")
      ->group("Light");
  v->add_option("--clipped-at", o.clipped_at, "PICTURE ends at this value: lamps were brighter [1]")
      ->type_name("VALUE")
      ->group("Light");
  v->add_option("--true-peak", o.true_peak, "how bright clipped lamps are")
      ->type_name("VALUE")
      ->group("Light");
  v->add_option("--disc", typed.disc,
                "the same, from a lamp's disc in the plate: value and diameter")
      ->type_name("VALUE,PX")
      ->group("Light");
  add_transfer(*v, typed);
  add_frames(*v, o.frames, typed, "a sequence: #### in names stands for the frame's number");
  v->add_flag("--resume", o.resume, "with --frames: keep pictures that are there already");
  v->add_flag("--half", o.half, "a draft: half the width and height")->group("Drafts");
  v->add_option("--box", typed.box, "a draft: only this part, px of PICTURE")
      ->type_name("X,Y,W,H")
      ->group("Drafts");
  add_threads(*v, o.threads);
  add_example(*v,
              fmt::format("defocus {} demo/regatta/pinhole.exr -o out/hero.defocus.png", regatta));
  return v;
}

CLI::App* add_squeeze(CLI::App& app, SqueezeOptions& o, Typed& typed) {
  CLI::App* v = o.back ? app.add_subcommand("squeeze",
                                            "a picture as the sensor behind a squeezing "
                                            "lens has it")
                       : app.add_subcommand("desqueeze", "a squeezed plate -> as it is looked at");
  add_shot(*v, o.shot, typed, "written.0");
  v->add_option("PICTURE", o.picture,
                o.back ? "the picture to squeeze" : "the picture to desqueeze [the shot's plate]")
      ->type_name("FILE");
  add_out(*v, o.out,
          o.back ? "PICTURE's name .squeeze.exr, here" : "PICTURE's name .desqueeze.exr, here");
  v->add_option("--keep", typed.keep, "which of its pixel counts stays: height or width [height]")
      ->type_name("SIDE");
  if (!o.back) {
    v->add_flag("--sizes", o.sizes,
                "no picture: which picture sizes this gate and squeeze can fill");
  }
  add_transfer(*v, typed);
  add_example(*v, o.back
                      ? "squeeze demo/regatta/oval.shot.toml out/oval.png -o out/oval.squeezed.exr"
                      : "desqueeze demo/regatta/oval.shot.toml --sizes");
  return v;
}

CLI::App* add_bokeh(CLI::App& app, BokehOptions& o, Typed& typed) {
  CLI::App* v = app.add_subcommand("bokeh", "what discs look like over the frame; the iris alone");
  add_shot(*v, o.shot, typed, "discs.0.wide_px");
  v->add_option("--at", typed.at,
                "how far away the lights are: subjects or distances, from near to\n"
                "far [in front of the focus, in it, behind it]")
      ->type_name("NAME|LENGTH,…");
  v->add_option("-o,--out", o.out,
                "sheet to write: .png or .svg; repeatable [SHOT's name .bokeh.png]")
      ->type_name("FILE")
      ->take_all()
      ->allow_extra_args(false);
  v->add_option("--kernel", o.kernel, "the iris as a picture, its light adding up to 1: .exr .png")
      ->type_name("FILE");
  v->add_option("--size", o.kernel_px, "with --kernel: pixels of a side [256]")->type_name("N");
  v->add_option("--pixel", typed.pixel,
                "with --kernel: as seen from this place of the frame [the middle]")
      ->type_name("X,Y");
  v->add_option("--table", o.table, "the lens for a renderer's own sampling: .json")
      ->type_name("FILE");
  v->add_option("--mask", o.mask, "the barrel's front rim as a card before the camera: .png .exr")
      ->type_name("FILE");
  v->add_option("--noise", o.noise,
                "how many rays a pixel keep highlights' noise at this, e.g. 0.05")
      ->type_name("SHARE")
      ->check(CLI::Range(0.0001, 1.0));
  v->add_option("--contrast", o.contrast, "with --noise: highlights against their ground [100]")
      ->type_name("TIMES");
  v->add_option("--highlight", o.highlight_px, "with --noise: their diameter when sharp [2]")
      ->type_name("PX");
  v->add_option("--vary", typed.steps,
                "tries of one value side by side, e.g. lens.iris.blades=5,7,9")
      ->type_name("KEY=A,B,…");
  v->add_option("--lenses", typed.lenses,
                "other lenses beside the shot's own, each on a gate that frames the\n"
                "same, e.g. alder.lens.toml")
      ->type_name("FILE,FILE");
  v->add_option("--as", typed.as,
                "with --vary or --lenses: as discs, or as the scene, traced or defocused [discs]")
      ->type_name("discs|trace|defocus");
  v->add_option("--sharp", o.sharp, "with --as defocus: a sharp picture with depth")
      ->type_name("FILE");
  add_example(*v, fmt::format("bokeh {} -o out/hero.bokeh.png", regatta));
  return v;
}

}  // namespace jolly_iris::cli
