// The set from above, or from the side: camera, view, focus plane, what is sharp, who stands where.
//
// Drawn to scale, camera at the left. From above, the paper is the plane of the view axis and of
// the picture's horizontal, so that axial distances are read along it; from the side, up is up.
// Where the focus is close and the set deep, a second panel shows the surroundings of the focus
// larger. Every subject is shaded by its blur and says it in words.
#pragma once

#include <optional>
#include <string>
#include <vector>
#include "jolly_iris/export.hpp"
#include "jolly_iris/optics/geometry.hpp"

#include "jolly_iris/scene/answer.hpp"

namespace JOLLY_IRIS_EXPORT jolly_iris {

/// Where the focus was at a frame, in the world.
struct FocusStep {
  double frame = 0.0;
  Vec3 eye = Vec3{};    ///< the entrance pupil
  Vec3 point = Vec3{};  ///< on the view axis; finite
  bool key = false;     ///< a pull has a key here
};

struct Plan {
  std::string title{};
  Answer answer{};
  std::vector<SubjectPlace> places{};
  std::vector<FocusStep> path{};  ///< by rising frame; empty where nothing is pulled
  bool from_side = false;
};

/// What a plan shows of a shot.
/// @param shot as the file has it, with its pulls; `now` at the answer's frame
/// @param scene posed at that frame (and left so); may be null
Plan plan_of(const Shot& shot, const Shot& now, const Scene* scene, const Answer& answer,
             bool from_side);

/// A rectangle of the drawing, px from its top left corner.
struct PlanBox {
  double x = 0.0;
  double y = 0.0;
  double width = 0.0;
  double height = 0.0;
};

/// A subject's words beside it.
struct PlanLabel {
  std::string name{};
  std::vector<std::string> lines{};
  PlanBox box{};
  double anchor_x = 0.0;  ///< the place that it names
  double anchor_y = 0.0;
};

/// A part of the set at one scale.
struct PlanPanel {
  PlanBox box{};
  double px_per_m = 1.0;
  double ahead_m = 0.0;  ///< distance from the camera at the box's left side
  double aside_m = 0.0;  ///< to the right (from above) or up (from the side) at the box's middle
  bool enlarged = false;
  std::vector<PlanLabel> labels{};
  int unlabelled = 0;  ///< for which there was no room
};

struct PlanLayout {
  int width = 1280;
  int height = 800;
  std::vector<PlanPanel> panels{};
};

/// Where all comes to lie. No label covers another, none leaves its panel.
PlanLayout layout_of(const Plan& plan);

/// The drawing, 1280 × 800. @return the file's bytes
std::string plan_png(const Plan& plan);
std::string plan_svg(const Plan& plan);

}  // namespace jolly_iris
