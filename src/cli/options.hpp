// What a person asked for, as plain values. Only options.cpp, options_blur.cpp and option_parts.cpp
// know how it was typed.
#pragma once

#include <array>
#include <optional>
#include <string>
#include <variant>
#include <vector>

#include "jolly_iris/blur_size.hpp"
#include "jolly_iris/defocus.hpp"
#include "jolly_iris/exposure_hold.hpp"
#include "jolly_iris/exposure_ramp.hpp"
#include "jolly_iris/meter.hpp"
#include "jolly_iris/neutral.hpp"
#include "jolly_iris/picture.hpp"
#include "jolly_iris/picture_size.hpp"
#include "jolly_iris/sharpness.hpp"
#include "jolly_iris/shot_file.hpp"
#include "jolly_iris/units.hpp"
#include "jolly_iris/white.hpp"

namespace jolly_iris::cli {

/// In which form a verb says what it found or wrote: text for people, JSON, or one value of it.
struct Form {
  bool json = false;
  std::string only{};
};

/// What every verb that reads a shot takes.
struct ShotOptions {
  std::string shot{};
  std::vector<Tried> tried{};
  bool as_noted = false;  ///< what match solved is left out
  std::optional<double> frame{};
  Form form{};
  bool watch = false;
};

/// How a picture file's numbers stand for light, as it was asked for.
struct Coding {
  std::optional<Transfer> transfer{};
  std::string curve_file{};  ///< for Transfer::table
};

struct StartOptions {
  std::string plate{};
  std::string out{};
  bool replace = false;
  Form form{};
};

/// Which frames: a range, every so many; `all` is the shot's own range.
struct FrameOptions {
  bool asked = false;
  std::optional<FrameRange> range{};
  double step = 1.0;
};

struct ReportOptions {
  ShotOptions shot{};
  FrameOptions frames{};
  bool csv = false;
  std::vector<std::string> of{};  ///< subjects whose blur the table of frames shows
  std::string dialect{};
  std::string against{};
};

struct SolveOptions {
  ShotOptions shot{};
  std::vector<std::string> hold{};   ///< two subjects or distances
  std::vector<std::string> sharp{};  ///< from, to
  std::optional<BlurSize> blur{};
  std::string at{};  ///< a subject, a distance or "infinity"
  enum class By { stop, lens } by = By::stop;
  bool level = false;
  enum class From { usual, camera, lines } from = From::usual;  ///< of --level: who knows the tilt
  std::string keep{};               ///< of --level: a subject, or "x,y" px
  std::vector<std::string> clip{};  ///< nodes to clip away
  std::string body{};               ///< a body file
  double adapter = 1.0;
};

struct TraceOptions {
  ShotOptions shot{};
  std::vector<std::string> out{};
  int samples = 64;
  int seed = 1;
  bool pinhole = false;
  std::vector<std::string> just{};     ///< nodes the camera sees, and no others
  std::vector<std::string> without{};  ///< nodes it does not see
  double density = 1.0;                ///< share of all points
  bool half = false;
  bool squeezed = false;  ///< the picture as the sensor has it
  std::optional<Box> box{};
  int threads = 0;
};

struct DefocusOptions {
  ShotOptions shot{};
  std::vector<std::string> pictures{};  ///< one, or layers from front to back
  std::vector<std::string> holdouts{};  ///< those of them that only hide
  std::vector<std::string> out{};
  std::string distance{};  ///< of all of PICTURE: a length, or a subject
  std::string depth{};     ///< a depth picture of its own
  std::string blur{};      ///< a picture of signed CoC in px, or with `most_blur` of 0 … 1
  std::optional<double> most_blur{};
  std::string save_blur{};
  bool mend_depth = false;  ///< its edges are averages
  FrameOptions frames{};
  bool resume = false;  ///< frames that are there already stay
  FrameEdge edge = FrameEdge::repeat;
  Margin margin{};  ///< that the picture has beyond the frame, px
  bool no_vignetting = false;
  bool squeezed = false;  ///< PICTURE is as the sensor has it
  std::optional<double> clipped_at{};
  std::optional<double> true_peak{};
  bool half = false;
  std::optional<Box> box{};
  Coding coding{};
  int threads = 0;
};

/// Values of one key, each to be rendered beforehand.
struct Steps {
  std::string key{};
  std::vector<std::string> values{};
};

struct BokehOptions {
  ShotOptions shot{};
  std::vector<std::string> at{};  ///< subjects or distances: the sheet's rows
  std::vector<std::string> out{};
  std::string kernel{};  ///< picture of the iris to write
  int kernel_px = 256;
  std::optional<std::array<double, 2>>
      pixel{};                    ///< where in the frame, px of the delivered picture
  std::string table{};            ///< the renderer's lens to write
  std::string mask{};             ///< picture of the barrel's card to write
  std::optional<double> noise{};  ///< wanted of a renderer: 0.05 is 5 %
  double contrast = 100.0;        ///< of highlights
  double highlight_px = 2.0;      ///< their diameter when sharp
  Steps vary{};
  std::vector<std::string> lenses{};  ///< files of whole lenses, to compare with the shot's own
  enum class As { discs, trace, defocus } as = As::discs;
  std::string sharp{};
};

struct MeasureOptions {
  ShotOptions shot{};
  bool discs = false;        ///< lamps out of focus in the plate, instead of drawn edges
  double least_px = 12.0;    ///< diameter of the smallest disc looked for
  std::string overlay{};     ///< picture of what was found to write
  std::vector<Box> boxes{};  ///< discs only there, px of the delivered picture
  double drawn_px = 0.5;
  bool focal = false;
};

struct MatchOptions {
  ShotOptions shot{};
  double least_px = 12.0;               ///< diameter of the smallest disc looked for
  std::vector<Box> boxes{};             ///< discs only there, px of the delivered picture
  bool accept = false;                  ///< write NAME.solved.toml
  std::vector<std::string> doubt{};     ///< keys whose notes are not believed, or by how much
  std::vector<std::string> together{};  ///< other shots of the same camera
};

/// A plate and CG renders, or several tries.
struct CompareOptions {
  ShotOptions shot{};
  std::vector<std::string> pictures{};
  double least_px = 12.0;
  std::string side{};  ///< pictures to write
  std::string split{};
  std::string difference{};
  std::string blink{};
  std::string sheet{};
  double split_at = 0.5;     ///< share of the width where the plate ends
  double times = 4.0;        ///< how much the difference is enlarged
  bool no_plate = false;     ///< the first picture is what the others are compared with
  std::optional<Box> box{};  ///< only this part of the pictures, px of the first
  Coding coding{};
};

/// undistort, and redistort (`back`).
struct BendOptions {
  ShotOptions shot{};
  bool back = false;
  std::string picture{};
  std::vector<std::string> out{};
  std::string map{};
  bool same_size = false;
  Coding coding{};
};

/// desqueeze, and squeeze (`back`).
struct SqueezeOptions {
  ShotOptions shot{};
  bool back = false;
  std::string picture{};
  std::vector<std::string> out{};
  std::optional<KeptSide> kept{};
  bool sizes = false;  ///< no picture: only which sizes there are
  Coding coding{};
};

/// A box of the delivered picture, px.
using PxBox = std::array<double, 4>;

/// What the white is looked for by.
struct NeutralOptions {
  std::optional<NeutralBy> by{};
  std::optional<PxBox> patch{};
  bool any() const { return by || patch; }
};

struct ExposeOptions {
  ShotOptions shot{};
  std::string picture{};
  // trades
  std::optional<Partner> pay{};
  std::string of{};                           ///< the subject whose smear is told
  std::optional<double> metres_per_second{};  ///< its speed, where the scene does not know it
  // metering; places are px of the delivered picture
  std::optional<MeterWay> meter{};
  std::optional<std::array<double, 3>> spot{};  ///< x, y, radius
  std::vector<PxBox> regions{};
  double may_clip = 0.001;
  double wanted = grey_value;
  // light and white
  bool as_plate = false;
  std::optional<PxBox> card{};  ///< where CG shows the grey card that is drawn in the plate
  std::optional<Rgb> gains{};   ///< whose white is asked for
  double stops = 0.0;
  std::optional<White> told{};
  std::optional<White> light{};
  std::optional<Adaptation> adapt{};  ///< instead of gains
  NeutralOptions neutral{};
  enum class FallOffUse { none, add, remove } fall_off = FallOffUse::none;
  // what is written
  bool apply = false;
  std::vector<std::string> out{};
  std::string sheet{};
  FrameOptions frames{};
  std::optional<RampSettings> ramp{};
  Coding coding{};
  int threads = 0;
};

struct PlanOptions {
  ShotOptions shot{};
  std::vector<std::string> out{};
  bool side = false;
};

struct PageOptions {
  ShotOptions shot{};
  std::string out{};
  std::vector<std::string> pictures{};
  std::string sharp{};
  Steps steps{};
  std::string cg{};    ///< a render to compare with the plate
  bool match = false;  ///< what the plate says of the notes
  bool bokeh = false;  ///< a sheet of the lens's discs
};

struct HandoffOptions {
  ShotOptions shot{};
  std::string folder{"."};
  FrameOptions frames{};
  std::vector<std::string> stamp{};  ///< EXR pictures whose headers gain the camera
};

using Verb =
    std::variant<StartOptions, ReportOptions, SolveOptions, TraceOptions, DefocusOptions,
                 BokehOptions, HandoffOptions, MeasureOptions, MatchOptions, CompareOptions,
                 BendOptions, SqueezeOptions, ExposeOptions, PlanOptions, PageOptions>;

/// What was typed, or the text to print and the code to end with (help, version, a mistake).
struct Parsed {
  std::optional<Verb> verb{};
  std::string text{};
  int code = 0;
};

Parsed parse(const std::vector<std::string>& args);

}  // namespace jolly_iris::cli
