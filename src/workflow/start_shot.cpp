#include "jolly_iris/workflow/start_shot.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cctype>
#include <cmath>
#include <filesystem>
#include <limits>

#include "jolly_iris/files/load.hpp"
#include "jolly_iris/optics/camera.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/optics/range.hpp"
#include "jolly_iris/picture/pick.hpp"
#include "jolly_iris/picture_files/picture_file.hpp"
#include "jolly_iris/workflow/picture_origin.hpp"
#include "scene_look.hpp"
#include "start_sources.hpp"

namespace jolly_iris {

namespace {

constexpr const char* usual_gate = "super 35";
constexpr double usual_stop = 2.8;
constexpr Length usual_focus = 3_m;

std::string mm_text(Length l) { return fmt::format("{:.6g} mm", l.mm()); }

std::string unit_text(double metres) {
  for (const auto& [name, of] : {std::pair("m", 1.0),
                                 {"cm", 0.01},
                                 {"mm", 0.001},
                                 {"km", 1000.0},
                                 {"in", 0.0254},
                                 {"ft", 0.3048}}) {
    if (std::abs(metres / of - 1.0) < 1e-6) return name;
  }
  return fmt::format("{:.9g} m", metres);
}

std::string shutter_text(Duration time) {
  const double t = time.seconds();
  const double below = 1.0 / t;
  if (t < 0.5 && std::abs(below - std::round(below)) < 0.02 * below) {
    return fmt::format("1/{:.0f} s", below);
  }
  return fmt::format("{:.6g} s", t);
}

std::string starter_metres(Length l) {
  return l.is_infinite() ? "infinity" : fmt::format("{:.4g} m", l.m());
}

// How the shot file will name another one: relative to where it lies.
std::string name_from(const std::string& shot_file, const std::string& file) {
  const auto folder = std::filesystem::absolute(shot_file).parent_path();
  return std::filesystem::absolute(file).lexically_relative(folder).generic_string();
}

class Starter {
 public:
  Starter(const StartRequest& request, std::vector<std::string>& files)
      : request_(request), sources_(read_start_sources(request, files)) {
    out_.facts = sources_.facts;
    out_.cameras = sources_.cameras;
    out_.guesses = sources_.guesses;
    out_.notes = sources_.notes;
  }

  StartedShot started() {
    picture();
    body();
    look();
    lens();
    take();
    focus();
    named_files();
    warn_of_sizes();
    out_.text = starter_text(title(), sections_, out_.guesses);
    return std::move(out_);
  }

 private:
  // The size of the picture to be.
  void picture() {
    if (!request_.plate.empty()) {
      pixels_why_ = "the plate's size";
    } else if (sources_.depth) {
      out_.facts.pixels = sources_.depth->colour.size();
      pixels_why_ = "the depth picture's size";
    } else {
      constexpr int wide = 1920;
      const std::optional<double> shape = shape_of_camera();
      out_.facts.pixels = {
          wide, std::max(1, static_cast<int>(std::lround(wide / shape.value_or(16.0 / 9.0))))};
      guess("body.pixels", fmt::format("{} x {}", wide, out_.facts.pixels.height),
            shape ? "As wide as HD, in the shape of the scene's camera"
                  : "HD: the scene's camera tells no shape",
            "the size that is delivered");
    }
  }

  std::optional<double> shape_of_camera() const {
    if (!sources_.seen) return std::nullopt;
    // No picture is narrower, or wider: what says so is a slip.
    if (sources_.seen->aspect && *sources_.seen->aspect >= 0.1 && *sources_.seen->aspect <= 10.0)
      return sources_.seen->aspect;
    if (!sources_.seen->gate_width_mm || !sources_.seen->gate_height_mm) return std::nullopt;
    return *sources_.seen->gate_width_mm / *sources_.seen->gate_height_mm;
  }

  double shape() const {
    return static_cast<double>(out_.facts.pixels.width) / out_.facts.pixels.height;
  }

  // ---- sections ---------------------------------------------------------------------------------

  void guess(const std::string& key, const std::string& value, const std::string& why,
             const std::string& settle) {
    out_.guesses.push_back({key, value, why, settle});
  }

  void open(const std::string& name, const std::string& comment = {}) {
    sections_.push_back({name, comment, {}});
  }
  void set(const std::string& key, const std::string& value, const std::string& comment = {}) {
    sections_.back().lines.push_back({key, value, comment, false});
  }
  void may(const std::string& key, const std::string& value, const std::string& comment = {}) {
    sections_.back().lines.push_back({key, value, comment, true});
  }

  void body() {
    const PlateFacts& facts = out_.facts;
    open("");
    set("unit", toml_text(sources_.scene ? unit_text(sources_.scene->metres_per_unit) : "m"),
        sources_.scene && sources_.scene->metres_per_unit != 1.0
            ? "as the scene's file counts"
            : "one unit of your CG scene: mm, cm, m, in, ft …");
    open("body");
    if (facts.camera) set("name", toml_text(*facts.camera), "as the picture file says");
    const auto by_equivalent = gate_from_equivalent(facts);
    if (facts.gate) {
      gate_ = *facts.gate;
      std::string from = "from the focal plane's resolution in the picture file";
      if (by_equivalent && std::abs(facts.gate->width / by_equivalent->width - 1.0) > 0.05) {
        from += fmt::format(
            "; the 35 mm equivalent would make it {:.2f} x {:.2f} mm: one of the "
            "two is wrong",
            by_equivalent->width.mm(), by_equivalent->height.mm());
      }
      set_gate(from);
    } else if (by_equivalent) {
      gate_ = *by_equivalent;
      set_gate("from the 35 mm equivalent, taken to mean the same diagonal angle");
      guess(
          "body.gate", gate_text(),
          "Worked out from the 35 mm equivalent, taken to mean the same diagonal angle and rounded "
          "to whole mm",
          "the body's data sheet");
    } else if (sources_.seen && sources_.seen->gate_width_mm && sources_.seen->gate_height_mm) {
      gate_ = {Length::from_mm(*sources_.seen->gate_width_mm),
               Length::from_mm(*sources_.seen->gate_height_mm)};
      set_gate("as the scene's camera has it");
    } else {
      const Length width = gate_of_format(usual_gate).width;
      gate_ = {width, width / shape()};
      set_gate("recorded width x height on the sensor");
      guess("body.gate", gate_text(),
            fmt::format("Nobody named a body: as wide as {}, in the picture's shape", usual_gate),
            "the body's data sheet");
    }
    set("pixels", toml_text(fmt::format("{} x {}", facts.pixels.width, facts.pixels.height)),
        pixels_why_);
  }

  std::string gate_text() const {
    return fmt::format("{:.2f} x {:.2f} mm", gate_.width.mm(), gate_.height.mm());
  }
  void set_gate(const std::string& why) { set("gate", toml_text(gate_text()), why); }

  // How far behind the pupil the picture lies for the scene's camera to see what it sees.
  std::optional<Length> distance_to_gate() const {
    if (!sources_.seen || !(sources_.seen->yfov > 0.0)) return std::nullopt;
    const Length v = gate_.width / shape() * (0.5 / std::tan(0.5 * sources_.seen->yfov));
    return range::focal_mm.holds(v.mm()) ? std::optional(v) : std::nullopt;
  }

  void lens() {
    const PlateFacts& facts = out_.facts;
    open("lens");
    if (facts.lens) set("name", toml_text(*facts.lens), "as the picture file says");
    const auto v = distance_to_gate();
    if (facts.focal) {
      focal_ = *facts.focal;
      set("focal", toml_text(fmt::format("{:g} mm", focal_.mm())),
          "as the picture file says; as marked, without any adapter");
      if (v && std::abs(*v / focal_ - 1.0) > 0.05) {
        out_.notes.push_back(fmt::format(
            "the scene's camera sees as much as {:.1f} mm does on a gate of {}, but the plate says "
            "{:g} mm: an adapter, another gate, or a camera that was placed by eye",
            v->mm(), gate_text(), focal_.mm()));
      }
    } else if (v) {
      // Focused there, the lens stands as far in front of the gate as the camera's view asks.
      focal_ = focus_.is_infinite() ? *v : *v * (focus_ / (focus_ + *v));
      set("focal", toml_text(mm_text(focal_)), "sees as much as the scene's camera, focused below");
      if (guessed("body.gate")) {
        guess("lens.focal", mm_text(focal_),
              "On the guessed gate it sees as much as the scene's camera does",
              "what is engraved on the lens, or a gate that is known");
      }
    } else {
      focal_ = Length::from_mm(std::round(std::hypot(gate_.width.mm(), gate_.height.mm())));
      set("focal", toml_text(fmt::format("{:g} mm", focal_.mm())), "as marked on the lens");
      guess("lens.focal", fmt::format("{:g} mm", focal_.mm()),
            "Nobody named a lens: as long as the gate's diagonal, which frames as one is used to",
            "what is engraved on the lens");
    }
    may("adapter", "0.76", "a reducer (< 1) or extender (> 1) behind the lens");
    open("lens.iris");
    may("blades", "7", "count the corners of a blurred lamp");
    may("blade_radius", "\"1.5 x\"", "straight, round, or how far they bend");
  }

  bool guessed(const std::string& key) const {
    return std::any_of(out_.guesses.begin(), out_.guesses.end(),
                       [&](const Guess& g) { return g.key == key; });
  }

  void take() {
    const PlateFacts& facts = out_.facts;
    const char* said = "as the picture file says";
    open("take");
    if (facts.f_number) {
      stop_ = *facts.f_number;
      set("stop", toml_text(fmt::format("f/{:g}", stop_)), said);
    } else if (sources_.seen && sources_.seen->f_number && *sources_.seen->f_number > 0.0) {
      stop_ = *sources_.seen->f_number;
      set("stop", toml_text(fmt::format("f/{:g}", stop_)), "as the scene's camera has it");
    } else {
      set("stop", toml_text(fmt::format("f/{:g}", stop_)), "f/2 or T2.1: smaller is wider");
      guess("take.stop", fmt::format("f/{:g}", stop_), "Nobody said a stop: a middle one",
            "what the lens's ring said, or the blur that you want");
    }
    if (sources_.mark) {
      set("mark", toml_text(starter_metres(*sources_.mark)),
          fmt::format("{}; the barrel's mark counts from the sensor", said));
    }
    if (facts.iso) {
      set("iso", fmt::format("{:g}", *facts.iso), said);
    } else {
      may("iso", "800", "sensitivity");
    }
    if (facts.exposure_time) {
      set("shutter", toml_text(shutter_text(*facts.exposure_time)), said);
    } else {
      may("shutter", "\"1/48 s\"", "time or angle");
    }
    if (facts.fps) {
      set("fps", fmt::format("{:g}", *facts.fps), said);
    } else {
      may("fps", "24", "frames a second");
    }
  }

  // ---- focus ------------------------------------------------------------------------------------

  // What is seen, and the distance that the lens is set to: as noted, else as found.
  void look() {
    seen_focus_ = sources_.seen && sources_.seen->focus_m && *sources_.seen->focus_m > 0.0;
    if (sources_.scene) {
      Body body;
      body.gate = gate_;
      body.pixels = out_.facts.pixels;
      const Length any = Length::from_mm(std::hypot(gate_.width.mm(), gate_.height.mm()));
      look_ = look_at_scene(*sources_.scene, sources_.camera, body,
                            distance_to_gate().value_or(out_.facts.focal.value_or(any)));
      out_.subjects = look_.subjects;
    }
    focus_ = sources_.mark ? *sources_.mark
             : seen_focus_ ? Length::from_m(*sources_.seen->focus_m)
                           : look_.distance.value_or(usual_focus);
  }

  void focus() {
    const std::string settle = "what is sharp: a name, a place in the picture, or a distance";
    if (sources_.mark) {  // what somebody wrote down leads over what we would guess
      open("focus", "what the CG camera focuses on; leads over take.mark");
      may("on", "\"boat\"");
      return example_of_subject();
    }
    if (seen_focus_) {
      open("focus");
      set("at", toml_text(starter_metres(focus_)), "as the scene's camera has it");
    } else if (look_.on) {
      open("focus");
      set("on", toml_text(*look_.on), starter_metres(focus_) + " away");
      guess("focus.on", *look_.on, look_.why, settle);
    } else if (look_.distance) {
      open("focus");
      set("at", toml_text(starter_metres(focus_)), "what is in the middle of the frame");
      guess("focus.at", starter_metres(focus_), look_.why, settle);
    } else if (sources_.depth && middle_has_depth()) {
      open("focus");
      set("area", "\"median\"", "of the depth picture's middle");
      guess("focus.area", "median", "What is in the middle of the depth picture", settle);
    } else {
      open("focus");
      set("at", toml_text(starter_metres(usual_focus)),
          "along the view axis, from the camera's origin");
      guess("focus.at", starter_metres(usual_focus), "Nothing tells how far away what is sharp is",
            "a tape, the barrel's mark, or match on the plate's discs");
    }
    example_of_subject();
  }

  // Sky alone, or numbers that are no distances, focus on nothing.
  bool middle_has_depth() const {
    Focus middle;
    middle.area = MiddleArea::median;
    try {
      (void)pick_depth(*sources_.depth, {request_.depth, {}, {}}, out_.facts.pixels, middle);
      return true;
    } catch (const PictureError&) {
      return false;
    }
  }

  void example_of_subject() {
    open("[subject]", "anything with a name and a place");
    may("name", "\"boat\"");
    may("at", "\"2.35 m\"", "along the view axis, from the camera's origin");
  }

  // ---- files ------------------------------------------------------------------------------------

  void named_files() {
    if (sources_.scene) {
      open("scene");
      set("file", toml_text(name_from(request_.file, request_.scene)), "relative to this file");
      if (!sources_.camera.empty()) set("camera", toml_text(sources_.camera));
    } else {
      open("scene");
      may("file", "\"set.gltf\"");
      may("camera", "\"taking camera\"");
    }
    if (!request_.plate.empty()) {
      open("plate");
      set("file", toml_text(name_from(request_.file, request_.plate)), "relative to this file");
      if (out_.facts.transfer) {
        set("transfer", toml_text(to_string(*out_.facts.transfer)),
            "how its numbers stand for light: linear, sRGB, Rec.709, ACEScct");
      }
    }
    if (sources_.depth) {
      open("depth");
      set("file", toml_text(name_from(request_.file, request_.depth)), "relative to this file");
      if (!sources_.ours) {
        set("kind", "\"axial\"", "axial, radial, inverse or normalised");
        guess("depth.kind", "axial",
              "Nobody said how the depth picture counts: metres along the view",
              "what the program that made it says of its depth");
      }
    }
  }

  // Sets are from a table to a valley: metres that are none show here.
  void warn_of_sizes() {
    if (out_.subjects.empty()) return;
    std::vector<double> away;
    for (const StartedSubject& s : out_.subjects) away.push_back(s.axial.m());
    std::sort(away.begin(), away.end());
    const double half = away[away.size() / 2];
    constexpr double nearest = 0.02;
    constexpr double farthest = 2000.0;
    if (half >= nearest && half <= farthest) return;
    out_.notes.push_back(fmt::format(
        "half of what the camera sees is {} than {}, by the unit of its file; if it was made in "
        "another one, write [scene] scale = {}",
        half > farthest ? "farther" : "nearer",
        starter_metres(Length::from_m(half > farthest ? farthest : nearest)),
        half > farthest ? "0.01, for centimetres" : "100"));
  }

  std::vector<std::string> title() const {
    std::string of;
    for (const std::string& file : {request_.scene, request_.plate, request_.depth}) {
      if (!file.empty())
        of += (of.empty() ? "" : " and ") + std::filesystem::path(file).filename().string();
    }
    std::vector<std::string> lines{"A shot begun from " + of + "."};
    for (const std::string& doubt : out_.facts.doubts) lines.push_back("Not believed: " + doubt);
    return lines;
  }

  const StartRequest& request_;
  StartSources sources_;
  StartedShot out_{};
  std::vector<StarterSection> sections_{};
  std::string pixels_why_{};
  Extent gate_{};
  Length focal_{};
  double stop_ = usual_stop;
  CameraView look_{};
  bool seen_focus_ = false;  // the scene's camera says what it focuses on
  Length focus_ = usual_focus;
};

}  // namespace

StartedShot start_shot(const StartRequest& request, std::vector<std::string>& files) {
  if (request.scene.empty() && request.depth.empty() && request.plate.empty()) {
    throw UsageError("a shot is begun from a scene, a depth picture or a plate; name one");
  }
  return Starter(request, files).started();
}

}  // namespace jolly_iris
