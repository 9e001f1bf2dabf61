// undistort and redistort.
#include <fmt/format.h>

#include <ostream>

#include "cli/terminal/progress.hpp"
#include "cli/verbs/list.hpp"
#include "cli/verbs/picture_pair_verb.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/picture/warp.hpp"
#include "jolly_iris/picture_files/picture_file.hpp"
#include "jolly_iris/workflow/write_picture.hpp"
#include "report/measured.hpp"
#include "report/text.hpp"

namespace jolly_iris::cli {

namespace {

// What CG has to render so that, redistorted, it fills the plate.
std::string margin_text(const VirtualCamera& c, const Margin& m) {
  if (m.beside == 0 && m.above == 0) {
    return "CG needs no margin: redistorted, a picture of the plate's size fills the frame\n";
  }
  const PixelSize size{c.pixels.width + 2 * m.beside, c.pixels.height + 2 * m.above};
  return fmt::format(
      "CG to redistort: {} x {} px on a gate of {:.4f} x {:.4f} mm, same focal length\n"
      "  ({} px more on each side, {} above and below)\n",
      size.width, size.height, c.picture.width.mm() * size.width / c.pixels.width,
      c.picture.height.mm() * size.height / c.pixels.height, m.beside, m.above);
}

// `back` bends a straight picture as the lens bends it.
class BendVerb : public PicturePairVerb {
 public:
  using PicturePairVerb::PicturePairVerb;

  void add_options(OptionSet& options) override {
    add_picture(
        options,
        back_ ? "the CG picture, with its margin or as large as the plate"
              : "the picture to straighten [the shot's plate]",
        back_ ? "PICTURE's name .redistort.exr, here" : "PICTURE's name .undistort.exr, here");
    options.value("--map", map_, "write where each pixel comes from, for other programs, too",
                  "FILE.exr");
    if (!back_) {
      options.flag("--same-size", wanted_.same_size, "without the margin: the corners are lost");
    }
    transfer_.add(options);
    options.example(
        back_ ? "redistort demo/regatta/quay.shot.toml out/quay.undistort.exr -o out/quay.png"
              : "undistort demo/regatta/quay.shot.toml -o out/quay.undistort.exr");
  }

  void check() override {
    PicturePairVerb::check();
    wanted_.reshape = back_ ? Reshape::redistort : Reshape::undistort;
    if (back_ && wanted_.picture.empty() && map_.empty()) {
      throw UsageError("redistort: name the CG picture, or ask for the --map alone");
    }
    if (frames_.asked() && !map_.empty()) {
      throw UsageError("--map writes one picture; take it frame by frame: --frame N");
    }
  }

  void run(const Terminal& io) override {
    const LoadedShot loaded = open(io);
    frames_.doubt(loaded, io);
    const DistortionMap map = distortion_of(loaded);
    wanted_.picture = picture_of(loaded);
    if (!map_.empty()) check_position_map_name(map_);
    claim_picture(map_);
    std::vector<std::string> names;
    if (!wanted_.picture.empty()) {
      names = picture_names(
          out_, report::stem_of(wanted_.picture) + (back_ ? ".redistort.exr" : ".undistort.exr"));
    }
    Progress progress(io.bar, back_ ? "redistorting" : "undistorting");
    if (frames_.asked()) {
      return change_all(loaded, names, back_ ? "bent as the lens bends" : "straightened", progress,
                        io);
    }
    std::vector<std::string> written;
    std::string text = report::tried_line(loaded.shot);
    if (!map_.empty()) {
      const Margin margin = wanted_.same_size ? Margin{} : map.margin();
      write_position_map(
          map_, back_ ? redistorting_map(map, map.margin()) : undistorting_map(map, margin));
      written.push_back(map_);
      text += fmt::format(
          "{:<28} where each pixel comes from: R of the width, G of the height from "
          "below\n",
          map_);
    }
    PixelSize size{};
    if (!wanted_.picture.empty()) {
      const MadeFrame made = reshaped_picture(wanted_, loaded, io.files);
      tell_notes(made.notes, io);
      size = made.frame.colour.size();
      for (const std::string& name : names) {
        write_for_shot(name, made.frame, loaded, made.pixel_aspect, made.header);
        written.push_back(name);
        text += fmt::format("{:<28} {} x {}, {}, {:.1f} s\n", name, size.width, size.height,
                            back_ ? "bent as the lens bends" : "straight", progress.seconds());
      }
    }
    text += margin_text(loaded.answer.camera, map.margin());
    say(form_, io,
        report::written_json(written,
                             {{"margin_above_px", map.margin().above},
                              {"margin_beside_px", map.margin().beside},
                              {"width", size.width},
                              {"height", size.height}},
                             &loaded.shot),
        text);
  }

 private:
  std::string picture_of(const LoadedShot& loaded) const {
    if (!wanted_.picture.empty() || back_) return wanted_.picture;
    const bool no_plate = !loaded.now.plate || loaded.now.plate->file.empty();
    if (no_plate && !map_.empty()) return {};
    if (frames_.asked()) return sequence_of_plate(loaded, "to straighten");
    return plate_file(loaded, "to straighten", ", or name a picture");
  }

  std::string map_{};
};

}  // namespace

const VerbEntry verbs::undistort{"undistort", "a plate -> straight, as CG shows it",
                                 make_verb<BendVerb, false>};
const VerbEntry verbs::redistort{"redistort", "a straight CG picture -> bent as the lens bends it",
                                 make_verb<BendVerb, true>};

}  // namespace jolly_iris::cli
