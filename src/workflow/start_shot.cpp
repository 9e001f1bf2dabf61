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
#include "jolly_iris/optics/quantity.hpp"
#include "jolly_iris/picture_files/picture_file.hpp"
#include "jolly_iris/scene/answer.hpp"
#include "jolly_iris/trace/survey.hpp"
#include "jolly_iris/trace/trace.hpp"
#include "jolly_iris/workflow/picture_origin.hpp"

namespace jolly_iris {

namespace {

constexpr const char* usual_gate = "super 35";
constexpr double usual_stop = 2.8;
constexpr Length usual_focus = 3_m;
// Grounds, waters and walls: what covers more of the picture is nothing that one focuses on.
constexpr double vast = 0.25;

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

std::string lower_case_ending(const std::string& file) {
  std::string e = std::filesystem::path(file).extension().string();
  std::transform(e.begin(), e.end(), e.begin(),
                 [](unsigned char c) { return static_cast<char>(std::tolower(c)); });
  return e;
}

class Starter {
 public:
  Starter(const StartRequest& request, std::vector<std::string>& files)
      : request_(request), files_(files) {}

  StartedShot started() {
    read();
    picture();
    body();
    lens();
    take();
    focus();
    named_files();
    warn_of_sizes();
    out_.text = starter_text(title(), sections_, out_.guesses);
    return std::move(out_);
  }

 private:
  // ---- what there is ----------------------------------------------------------------------------

  void read() {
    if (!request_.plate.empty()) {
      files_.push_back(request_.plate);
      read_facts();
    }
    if (!request_.depth.empty()) {
      files_.push_back(request_.depth);
      depth_ = read_values(request_.depth);
    }
    if (request_.scene.empty()) return;
    scene_ = read_scene(request_.scene);
    files_.insert(files_.end(), scene_->files.begin(), scene_->files.end());
    for (const Node& node : scene_->nodes) {
      if (!node.camera) continue;
      const SceneCamera& camera = scene_->cameras[*node.camera];
      out_.cameras.push_back(camera.name.empty() ? node.name : camera.name);
    }
    if (out_.cameras.empty()) {
      throw UsageError(request_.scene +
                       ": has no camera; place one in it, since a shot begins with where it was "
                       "taken from");
    }
    if (request_.camera.empty() && out_.cameras.size() > 1) {
      camera_ = out_.cameras.front();
      std::string all;
      for (const std::string& name : out_.cameras) all += (all.empty() ? "" : ", ") + name;
      guess("scene.camera", camera_, fmt::format("The first of the scene's cameras: {}", all),
            "which of them took it");
    } else {
      camera_ = request_.camera;
    }
    const std::size_t node =
        camera_node(*scene_, camera_.empty() ? std::nullopt : std::optional(camera_));
    seen_ = scene_->cameras[*scene_->nodes[node].camera];
  }

  void read_facts() {
    out_.facts = read_plate_facts(request_.plate);
    for (const std::string& doubt : out_.facts.doubts) {
      out_.notes.push_back("the picture says " + doubt + ", which is not believed");
    }
  }

  // The size of the picture to be.
  void picture() {
    if (!request_.plate.empty()) {
      pixels_why_ = "the plate's size";
    } else if (depth_) {
      out_.facts.pixels = depth_->colour.size();
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
    if (!seen_) return std::nullopt;
    if (seen_->aspect) return seen_->aspect;
    if (!seen_->gate_width_mm || !seen_->gate_height_mm) return std::nullopt;
    return *seen_->gate_width_mm / *seen_->gate_height_mm;
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
    set("unit", toml_text(scene_ ? unit_text(scene_->metres_per_unit) : "m"),
        scene_ && scene_->metres_per_unit != 1.0
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
    } else if (seen_ && seen_->gate_width_mm && seen_->gate_height_mm) {
      gate_ = {Length::from_mm(*seen_->gate_width_mm), Length::from_mm(*seen_->gate_height_mm)};
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
    if (!seen_ || !(seen_->yfov > 0.0)) return std::nullopt;
    return gate_.width / shape() * (0.5 / std::tan(0.5 * seen_->yfov));
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
      find_focus(*v);
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
    } else if (seen_ && seen_->f_number && *seen_->f_number > 0.0) {
      stop_ = *seen_->f_number;
      set("stop", toml_text(fmt::format("f/{:g}", stop_)), "as the scene's camera has it");
    } else {
      set("stop", toml_text(fmt::format("f/{:g}", stop_)), "f/2 or T2.1: smaller is wider");
      guess("take.stop", fmt::format("f/{:g}", stop_), "Nobody said a stop: a middle one",
            "what the lens's ring said, or the blur that you want");
    }
    if (facts.distance) {
      set("mark", toml_text(starter_metres(*facts.distance)),
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

  // The scene as its camera sees it, to find what is in the middle.
  VirtualCamera camera_for(Length v) {
    Shot shot;
    shot.body.gate = gate_;
    shot.body.pixels = out_.facts.pixels;
    shot.lens.focal = v;
    shot.take.stop = f_number(stop_);
    shot.focus.distance = DistanceEntry{DistanceKind::axial, Length::infinity()};
    shot.scene.emplace();
    shot.scene->file = request_.scene;
    if (!camera_.empty()) shot.scene->camera = camera_;
    const Answer answer = answer_numbers(shot, &*scene_);
    place_ = answer.place;
    for (const SubjectBlur& s : answer.subjects) {
      if (s.in_picture) near_to_far_.push_back(s);
    }
    add_subjects(shot);
    return answer.camera;
  }

  void add_subjects(const Shot& shot) {
    const std::vector<SubjectPlace> places = subjects_of(shot, &*scene_, place_);
    for (const SubjectBlur& s : near_to_far_) {
      StartedSubject subject{s.name, s.axial, std::nullopt};
      for (const SubjectPlace& p : places) {
        if (p.name != s.name || p.extent.size() < 2) continue;
        Vec3 low = p.extent.front();
        Vec3 high = low;
        for (const Vec3& corner : p.extent) {
          low = {std::min(low.x, corner.x), std::min(low.y, corner.y), std::min(low.z, corner.z)};
          high = {std::max(high.x, corner.x), std::max(high.y, corner.y),
                  std::max(high.z, corner.z)};
        }
        subject.longest =
            Length::from_m(std::max({high.x - low.x, high.y - low.y, high.z - low.z}));
      }
      out_.subjects.push_back(std::move(subject));
    }
  }

  // What is nearest to the middle of the frame, but grounds and walls.
  void find_focus(Length v) {
    if (!scene_ || !focus_on_.empty()) return;
    focus_ = usual_focus;
    const VirtualCamera camera = camera_for(v);
    if (seen_->focus_m && *seen_->focus_m > 0.0) {
      focus_ = Length::from_m(*seen_->focus_m);
      focus_why_ = "as the scene's camera has it";
      return;
    }
    constexpr int wide = 192;
    const PixelSize size{wide, std::max(1, static_cast<int>(std::lround(wide / shape())))};
    const Survey all = survey(*scene_, camera, place_, size);
    std::vector<std::size_t> covers(all.names.size(), 0);
    for (const int thing : all.thing) {
      if (thing >= 0) ++covers[static_cast<std::size_t>(thing)];
    }
    const auto small = [&](int thing) {
      return thing >= 0 && static_cast<double>(covers[static_cast<std::size_t>(thing)]) <
                               vast * static_cast<double>(all.thing.size());
    };
    const auto place = middle_thing(all, small);
    for (const SubjectBlur& s : near_to_far_) {
      if (!place || s.name != all.names[static_cast<std::size_t>(all.thing[*place])]) continue;
      focus_on_ = s.name;
      focus_ = s.axial;
      return;
    }
    focus_why_.clear();
    const std::size_t any =
        nearest_place(all, [&](std::size_t i) { return std::isfinite(all.depth[i]); });
    if (any < all.depth.size()) {
      focus_ = Length::from_m(static_cast<double>(all.depth[any]));
      focus_why_ = "what is in the middle of the frame";
    }
  }

  // The nearest thing in the middle ninth; where nothing is there, what is nearest to the middle.
  template <class Wanted>
  std::optional<std::size_t> middle_thing(const Survey& all, const Wanted& wanted) {
    std::optional<std::size_t> best;
    for (int y = all.size.height / 3; y < (2 * all.size.height + 2) / 3; ++y) {
      for (int x = all.size.width / 3; x < (2 * all.size.width + 2) / 3; ++x) {
        const auto i = static_cast<std::size_t>(y) * static_cast<std::size_t>(all.size.width) +
                       static_cast<std::size_t>(x);
        if (wanted(all.thing[i]) && (!best || all.depth[i] < all.depth[*best])) best = i;
      }
    }
    if (best) {
      focus_why_ = "The nearest thing in the middle ninth of the frame";
      return best;
    }
    focus_why_ = "The thing nearest to the middle of the frame";
    const std::size_t i = nearest_place(all, [&](std::size_t k) { return wanted(all.thing[k]); });
    return i < all.thing.size() ? std::optional(i) : std::nullopt;
  }

  // The place nearest to the middle that is wanted; beyond the end: none.
  template <class Wanted>
  static std::size_t nearest_place(const Survey& all, const Wanted& wanted) {
    std::size_t best = std::numeric_limits<std::size_t>::max();
    double least = std::numeric_limits<double>::infinity();
    for (int y = 0; y < all.size.height; ++y) {
      for (int x = 0; x < all.size.width; ++x) {
        const auto i = static_cast<std::size_t>(y) * static_cast<std::size_t>(all.size.width) +
                       static_cast<std::size_t>(x);
        const double off =
            std::hypot(x + 0.5 - 0.5 * all.size.width, y + 0.5 - 0.5 * all.size.height);
        if (off >= least || !wanted(i)) continue;
        least = off;
        best = i;
      }
    }
    return best;
  }

  void focus() {
    const std::string settle = "what is sharp: a name, a place in the picture, or a distance";
    if (scene_ && focus_on_.empty() && focus_why_.empty()) {
      find_focus(distance_to_gate().value_or(focal_));
    }
    if (!focus_on_.empty()) {
      open("focus");
      set("on", toml_text(focus_on_), starter_metres(focus_) + " away");
      guess("focus.on", focus_on_, focus_why_, settle);
    } else if (scene_) {
      open("focus");
      set("at", toml_text(starter_metres(focus_)), focus_why_);
      if (focus_why_ != "as the scene's camera has it") {
        guess("focus.at", starter_metres(focus_),
              focus_why_.empty() ? "Nothing is in the picture to focus on"
                                 : "How far away it is in the middle of the frame",
              settle);
      }
    } else if (depth_) {
      open("focus");
      set("area", "\"median\"", "of the depth picture's middle");
      guess("focus.area", "median", "What is in the middle of the depth picture", settle);
    } else if (!out_.facts.distance) {
      open("focus");
      set("at", toml_text(starter_metres(usual_focus)),
          "along the view axis, from the camera's origin");
      guess("focus.at", starter_metres(usual_focus), "Nothing tells how far away what is sharp is",
            "a tape, the barrel's mark, or match on the plate's discs");
    } else {
      open("focus", "what the CG camera focuses on; leads over take.mark");
      may("on", "\"boat\"");
    }
    open("[subject]", "anything with a name and a place");
    may("name", "\"boat\"");
    may("at", "\"2.35 m\"", "along the view axis, from the camera's origin");
  }

  // ---- files ------------------------------------------------------------------------------------

  void named_files() {
    if (scene_) {
      open("scene");
      set("file", toml_text(name_from(request_.file, request_.scene)), "relative to this file");
      if (!camera_.empty()) set("camera", toml_text(camera_));
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
    if (depth_) {
      open("depth");
      set("file", toml_text(name_from(request_.file, request_.depth)), "relative to this file");
      if (!read_origin(request_.depth).axial_depth) {
        set("kind", "\"axial\"", "axial, radial, inverse or normalised");
        guess("depth.kind", "axial",
              "Nobody said how the depth picture counts: metres along the view",
              "what the program that made it says of its depth");
        warn_of_depth();
      }
    }
  }

  void warn_of_depth() {
    float least = std::numeric_limits<float>::infinity();
    float most = 0.0F;
    const auto see = [&](float v) {
      if (!std::isfinite(v)) return;
      least = std::min(least, v);
      most = std::max(most, v);
    };
    if (depth_->has_depth()) {
      for (const float v : depth_->depth) see(v);
    } else {
      for (const Rgba& p : depth_->colour.pixels()) see(p[0]);
    }
    if (least < 0.0F || most > 1.0F || !(most > 0.0F)) return;
    out_.notes.push_back(fmt::format(
        "{}: all of it is from {:.3g} to {:.3g}: it may be normalised or 1/z rather than "
        "metres; say so in [depth], with near and far",
        request_.depth, least, most));
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
        "half of what the camera sees is {} than {}: the scene counts in metres, as its format has "
        "it; if it was made in another unit, write [scene] scale = {}",
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
  std::vector<std::string>& files_;
  StartedShot out_{};
  std::vector<StarterSection> sections_{};
  std::optional<Scene> scene_{};
  std::optional<SceneCamera> seen_{};  // the scene's camera
  std::string camera_{};
  std::optional<Frame> depth_{};
  std::string pixels_why_{};
  Extent gate_{};
  Length focal_{};
  double stop_ = usual_stop;
  Pose place_{};
  std::vector<SubjectBlur> near_to_far_{};  // in the picture
  std::string focus_on_{};
  std::string focus_why_{};
  Length focus_ = usual_focus;
};

// Whether a picture is one of depths, or has them beside its colour.
bool has_depth(const std::string& file) {
  if (lower_case_ending(file) != ".exr") return false;
  return read_values(file).has_depth();
}

void take_once(std::string& place, const std::string& file, const char* what) {
  if (!place.empty()) {
    throw UsageError(fmt::format("{} and {} are both {}; give one", place, file, what));
  }
  place = file;
}

}  // namespace

StartRequest start_request(const std::vector<std::string>& what, std::vector<std::string>& files) {
  StartRequest request;
  for (const std::string& file : what) {
    const std::string ending = lower_case_ending(file);
    files.push_back(file);
    if (ending == ".gltf" || ending == ".glb" || ending == ".usda") {
      take_once(request.scene, file, "scenes");
    } else if (has_depth(file)) {
      take_once(request.depth, file, "pictures with depth");
    } else {
      take_once(request.plate, file, "plates");
    }
  }
  return request;
}

StartedShot start_shot(const StartRequest& request, std::vector<std::string>& files) {
  if (request.scene.empty() && request.depth.empty() && request.plate.empty()) {
    throw UsageError("a shot is begun from a scene, a depth picture or a plate; name one");
  }
  return Starter(request, files).started();
}

}  // namespace jolly_iris
