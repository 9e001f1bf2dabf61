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
      options.flag("--same-size", same_size_, "without the margin: the corners are lost");
    }
    transfer_.add(options);
    options.example(
        back_ ? "redistort demo/regatta/quay.shot.toml out/quay.undistort.exr -o out/quay.png"
              : "undistort demo/regatta/quay.shot.toml -o out/quay.undistort.exr");
  }

  void check() override {
    PicturePairVerb::check();
    if (back_ && picture_.empty() && map_.empty()) {
      throw UsageError("redistort: name the CG picture, or ask for the --map alone");
    }
  }

  void run(const Terminal& io) override {
    const LoadedShot loaded = open(io);
    const VirtualCamera& camera = loaded.answer.camera;
    if (!camera.distortion.any()) {
      throw UsageError(
          loaded.shot.file +
          ": says nothing of the lens's distortion; measure it from edges drawn in the "
          "plate (jolly-iris measure), or write [lens.distortion] k1 = 0.03");
    }
    const DistortionMap map(camera);
    const Margin margin = same_size_ ? Margin{} : map.margin();
    const std::string picture = picture_of(loaded);
    if (!map_.empty()) check_position_map_name(map_);
    claim_picture(map_);
    std::vector<std::string> names;
    if (!picture.empty()) {
      names = picture_names(
          out_, report::stem_of(picture) + (back_ ? ".redistort.exr" : ".undistort.exr"));
    }
    std::vector<std::string> written;
    std::string text = report::tried_line(loaded.shot);
    const Progress progress(io.bar, back_ ? "redistorting" : "undistorting");
    if (!map_.empty()) {
      write_position_map(
          map_, back_ ? redistorting_map(map, map.margin()) : undistorting_map(map, margin));
      written.push_back(map_);
      text += fmt::format(
          "{:<28} where each pixel comes from: R of the width, G of the height from "
          "below\n",
          map_);
    }
    PixelSize size{};
    if (!picture.empty()) {
      const Frame frame = bent(picture, loaded, map, margin, io);
      size = frame.colour.size();
      for (const std::string& name : names) {
        write_picture(name, frame, camera_header(loaded));
        written.push_back(name);
        if (&name == &names.front()) tell_empty(frame, io);
        text += fmt::format("{:<28} {} x {}, {}, {:.1f} s\n", name, size.width, size.height,
                            back_ ? "bent as the lens bends" : "straight", progress.seconds());
      }
    }
    text += margin_text(camera, map.margin());
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
  // Where a picture without a margin had nothing to show, a border stays empty.
  void tell_empty(const Frame& frame, const Terminal& io) const {
    std::size_t empty = 0;
    for (const Rgba& p : frame.colour.pixels()) empty += p[3] == 0.0F ? 1U : 0U;
    if (!back_ || empty == 0) return;
    io.notes.note(fmt::format(
        "{:.1f} % of the result is empty, at its border: the straight picture has nothing there. "
        "Render it with the margin below",
        100.0 * static_cast<double>(empty) / static_cast<double>(frame.colour.pixels().size())));
  }

  std::string picture_of(const LoadedShot& loaded) const {
    if (!picture_.empty() || back_) return picture_;
    const bool no_plate = !loaded.now.plate || loaded.now.plate->file.empty();
    if (no_plate && !map_.empty()) return {};
    return plate_file(loaded, "to straighten", ", or name a picture");
  }

  Frame bent(const std::string& picture, const LoadedShot& loaded, const DistortionMap& map,
             const Margin& margin, const Terminal& io) const {
    const Frame frame = read_for_shot(picture, decoding_, loaded, io.files, map.margin());
    tell_notes(frame.notes, io);
    try {
      return back_ ? redistorted(frame, map) : undistorted(frame, map, margin);
    } catch (const PictureError& e) {
      throw PictureError(picture + ": " + e.what());
    }
  }

  std::string map_{};
  bool same_size_ = false;
};

}  // namespace

const VerbEntry verbs::undistort{"undistort", "a plate -> straight, as CG shows it",
                                 make_verb<BendVerb, false>};
const VerbEntry verbs::redistort{"redistort", "a straight CG picture -> bent as the lens bends it",
                                 make_verb<BendVerb, true>};

}  // namespace jolly_iris::cli
