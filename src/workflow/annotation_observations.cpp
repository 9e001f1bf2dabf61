#include "workflow/annotation_observations.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "jolly_iris/measure/edge_blur.hpp"
#include "jolly_iris/measure/ellipse_fit.hpp"
#include "jolly_iris/measure/lines.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/optics/relative_illumination.hpp"
#include "jolly_iris/picture/region_light.hpp"

namespace jolly_iris {

namespace {

constexpr double drawn_px = 1.0;           // how exactly boxes and edges are drawn
constexpr double metered_fraction = 0.05;  // how exactly spot meters read, and cards are even
constexpr double min_tint = 0.02;
constexpr std::size_t enough_edges = 3;
constexpr double sharp_fraction =
    0.3;  // a thing's own edges are partly soft: its sharper ones count
constexpr double floor_fraction = 0.05;  // of all edges of a plate, those in focus
constexpr double max_floor_px = 1.2;
constexpr double min_floor_px = 0.3;
constexpr double above_floor = 1.3;

class Drawn {
 public:
  Drawn(const LoadedShot& loaded, const Picture& plate, PlateObservations& seen)
      : loaded_(loaded),
        plate_(plate),
        seen_(seen),
        marks_(loaded.now.plate->marks),
        to_plate_(static_cast<double>(plate.height()) / loaded.answer.camera.pixels.height) {}

  void add_all() {
    add_circles();
    for (const DrawnBox& box : marks_.boxes) {
      if (box.kind == DrawnBox::Kind::grey) {
        add_card(box);
      } else if (!box.name.empty()) {
        add_box(box);
      }
    }
    add_lines();
  }

 private:
  void left(const std::string& name, const std::string& why) {
    seen_.left.push_back(fmt::format("{}: {}", name, why));
  }

  void add_circles() {
    for (std::size_t i = 0; i < marks_.circles.size(); ++i) {
      const DrawnCircle& circle = marks_.circles[i];
      Observation o;
      o.kind = Observation::Kind::circle;
      o.name = circle.name.empty() ? fmt::format("round thing {}", i + 1) : circle.name;
      try {
        const EllipseFit fit = fit_ellipse(circle);
        o.value = fit.height_over_width.value;
        o.sigma = std::max(0.5 * fit.height_over_width.margin, 0.002);
        seen_.all.push_back(o);
      } catch (const OpticsError& e) {
        left(o.name, e.what());
      }
    }
  }

  // A subject's box tells its size, if the real one is known, and how soft its edges are.
  void add_box(const DrawnBox& box) {
    const auto named = [&](const auto& s) { return s.name == box.name; };
    const auto& subjects = loaded_.answer.subjects;
    const auto blur = std::find_if(subjects.begin(), subjects.end(), named);
    if (blur == subjects.end()) return;
    const auto& entries = loaded_.now.subjects;
    const auto entry = std::find_if(entries.begin(), entries.end(), named);
    if (entry != entries.end() && entry->size) {
      Observation o;
      o.kind = Observation::Kind::length;
      o.name = fmt::format("size of {}", box.name);
      o.value = std::max(box.box[2], box.box[3]);
      o.sigma = std::hypot(drawn_px * std::sqrt(2.0), 0.01 * o.value);
      o.at = blur->axial;
      o.in_scene = is_in_scene(loaded_, box.name);
      o.length = *entry->size;
      o.length_in_scene = false;  // it was measured on the set
      seen_.all.push_back(o);
    }
    add_edges(box, blur->axial);
  }

  void add_edges(const DrawnBox& box, Length at) {
    if (!edges_) edges_ = edge_blurs(plate_);
    const Box where = box_in_picture(box.box, loaded_.now.body.pixels, plate_.size());
    std::vector<double> inside;
    std::vector<double> all;
    for (const EdgeBlur& e : *edges_) {
      all.push_back(e.width_px);
      if (e.at[0] >= where.x && e.at[1] >= where.y && e.at[0] < where.x + where.width &&
          e.at[1] < where.y + where.height) {
        inside.push_back(e.width_px);
      }
    }
    const std::string name = fmt::format("edges of {}", box.name);
    if (inside.size() < enough_edges) {
      left(name, fmt::format("{} clear ones in its box; {} or more tell its blur", inside.size(),
                             enough_edges));
      return;
    }
    std::sort(inside.begin(), inside.end());
    std::sort(all.begin(), all.end());
    const auto of = [](const std::vector<double>& sorted, double fraction) {
      return sorted[static_cast<std::size_t>(fraction * static_cast<double>(sorted.size() - 1))];
    };
    const double floor = std::clamp(of(all, floor_fraction), min_floor_px, max_floor_px);
    const double width = of(inside, sharp_fraction);
    if (width < above_floor * floor) {
      left(name,
           fmt::format("as sharp as the plate can show ({:.2f} px), which tells no blur", width));
      return;
    }
    Observation o;
    o.kind = Observation::Kind::edge;
    o.name = name;
    o.value = without_floor(width, floor) / to_plate_;
    const double spread = of(inside, 0.5) - width;
    o.sigma = std::hypot(0.05 * o.value, spread / to_plate_,
                         0.1 * floor / to_plate_ * floor / (o.value * to_plate_));
    o.at = at;
    o.in_scene = is_in_scene(loaded_, box.name);
    seen_.all.push_back(o);
  }

  // A card whose light was metered tells the exposure; one whose light's white is known, the white
  // that the camera was told.
  void add_card(const DrawnBox& box) {
    if (!box.luminance && !box.light) return;
    const std::string name = box.name.empty() ? "grey card" : box.name;
    const Primaries primaries = loaded_.now.primaries;
    const RegionLight light = light_of_region(
        plate_, box_in_picture(box.box, loaded_.now.body.pixels, plate_.size()), primaries);
    if (light.clipped > 0.01 || !(light.luminance > 0.0) || !(light.mean[2] > 0.0)) {
      left(name, light.clipped > 0.01 ? "a part of it is clipped" : "it is black");
      return;
    }
    Observation o;
    o.primaries = primaries;
    if (box.luminance) {
      o.kind = Observation::Kind::grey;
      o.name = fmt::format("light of {}", name);
      o.luminance = *box.luminance;
      o.value = light.luminance;
      o.sigma = metered_fraction * o.value;
      o.falls_to = RelativeIllumination(loaded_.now.lens, loaded_.answer.camera)
                       .fraction({box.box[0] + 0.5 * box.box[2], box.box[1] + 0.5 * box.box[3]});
      add_if_noted(o);
    }
    if (box.light) {
      o.kind = Observation::Kind::tinge;
      o.name = fmt::format("red/blue of {}", name);
      o.light = *box.light;
      o.value = light.mean[0] / light.mean[2];
      o.sigma = min_tint * o.value;
      add_if_noted(o);
    }
  }

  // Notes that have no exposure or no white cannot be matched in it.
  void add_if_noted(const Observation& o) {
    try {
      CameraEstimate estimate = estimate_of(loaded_);
      (void)predicted(o, estimate, loaded_.answer.camera);
      seen_.all.push_back(o);
    } catch (const OpticsError& e) {
      seen_.left.emplace_back(e.what());
    }
  }

  void add_lines() {
    if (marks_.lines.size() < 4) return;
    try {
      const VirtualCamera& c = loaded_.answer.camera;
      const FoundPerspective p = perspective_from_lines(c, marks_.lines, {drawn_px, true});
      if (!p.focal_mm) return;
      const double px_a_mm = 1e-3 / c.pixel_pitch().m();
      Observation o;
      o.kind = Observation::Kind::view;
      o.name = "drawn edges";
      o.value = p.focal_mm->value * px_a_mm;
      o.sigma = std::max(0.5 * p.focal_mm->margin * px_a_mm, 1e-4 * o.value);
      seen_.all.push_back(o);
    } catch (const OpticsError& e) {
      left("drawn edges", e.what());
    }
  }

  const LoadedShot& loaded_;
  const Picture& plate_;
  PlateObservations& seen_;
  const PlateMarks& marks_;
  double to_plate_;
  std::optional<std::vector<EdgeBlur>> edges_{};
};

}  // namespace

void add_drawn(const LoadedShot& loaded, const Picture& plate, PlateObservations& seen) {
  Drawn(loaded, plate, seen).add_all();
}

}  // namespace jolly_iris
