#include "jolly_iris/answer.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <set>

#include "jolly_iris/errors.hpp"
#include "jolly_iris/exposure.hpp"
#include "jolly_iris/nearest.hpp"
#include "jolly_iris/opening.hpp"
#include "notes.hpp"

namespace jolly_iris {

namespace {

Eigen::Isometry3d place_of_camera(const Shot& shot, const Scene* scene) {
  if (scene == nullptr) return Eigen::Isometry3d::Identity();
  try {
    return camera_place(*scene, shot.scene ? shot.scene->camera : std::nullopt);
  } catch (const UsageError& e) {
    throw UsageError(shot.where("scene.camera") + e.what());
  }
}

SubjectPlace seen_from(const Eigen::Isometry3d& camera, std::string name,
                       const Eigen::Vector3d& world) {
  const Eigen::Vector3d p = camera.inverse() * world;
  return {std::move(name), Length::from_m(-p.z()), Length::from_m(p.norm()), {p}};
}

std::vector<Eigen::Vector3d> corners_of(const Eigen::AlignedBox3d& box,
                                        const Eigen::Isometry3d& camera) {
  std::vector<Eigen::Vector3d> corners;
  for (int i = 0; i < 8; ++i) {
    corners.emplace_back(camera.inverse() *
                         box.corner(static_cast<Eigen::AlignedBox3d::CornerType>(i)));
  }
  return corners;
}

// Bounds reach into the frame unless all their corners lie beyond one of its four sides, or behind.
bool reaches_into_frame(const std::vector<Eigen::Vector3d>& extent, const VirtualCamera& camera) {
  if (extent.empty()) return true;
  const double wide = camera.gate.width / (2.0 * camera.focal);
  const double high = camera.gate.height / (2.0 * camera.focal);
  const auto all = [&](auto&& beyond) { return std::all_of(extent.begin(), extent.end(), beyond); };
  using V = const Eigen::Vector3d&;
  return !all([&](V p) { return p.z() >= 0.0; }) &&
         !all([&](V p) { return p.x() < wide * p.z(); }) &&
         !all([&](V p) { return p.x() > -wide * p.z(); }) &&
         !all([&](V p) { return p.y() < high * p.z(); }) &&
         !all([&](V p) { return p.y() > -high * p.z(); });
}

bool is_camera(const Scene& scene, std::size_t node, const Eigen::Isometry3d& place) {
  const Node& n = scene.nodes[node];
  return n.camera && (n.world.translation() - place.translation()).norm() < 1e-9;
}

SubjectBlur blur_of(const SubjectPlace& place, const VirtualCamera& camera, Length limit) {
  const Length coc = circle_of_confusion(camera, place.axial);
  return {place.name,
          place.axial,
          place.radial,
          coc,
          to_pixels(coc, camera),
          std::abs(coc.mm()) <= limit.mm(),
          reaches_into_frame(place.extent, camera),
          std::nullopt};
}

// How large a subject of known size appears, where the shot file tells its size.
std::optional<double> size_in_picture(const Shot& shot, const SubjectBlur& subject,
                                      const VirtualCamera& camera) {
  for (const SubjectEntry& entry : shot.subjects) {
    if (entry.name == subject.name && entry.size) {
      return to_pixels(*entry.size * (camera.focal / subject.axial), camera);
    }
  }
  return std::nullopt;
}

std::string said(const Shot& shot) {
  if (shot.focus.on) return "on " + *shot.focus.on;
  if (shot.focus.at) {
    return shot.focus.at->is_infinite() ? "at infinity"
                                        : fmt::format("at {:.4g} m", shot.focus.at->m());
  }
  const Length mark = shot.focus.mark ? *shot.focus.mark : *shot.take.mark;
  return mark.is_infinite() ? "mark at infinity" : fmt::format("mark {:.4g} m", mark.m());
}

// A subject that has only a size describes a node of the scene; a misspelt one would do nothing.
void require_places(const Shot& shot, const std::vector<SubjectPlace>& places) {
  for (std::size_t i = 0; i < shot.subjects.size(); ++i) {
    const std::string& name = shot.subjects[i].name;
    std::vector<std::string> names;
    for (const SubjectPlace& place : places) names.push_back(place.name);
    if (std::find(names.begin(), names.end(), name) != names.end()) continue;
    throw UsageError(fmt::format(
        "{}'{}' has no place: there is no node of that name in the scene, and neither at nor place "
        "is given.{}",
        shot.where(fmt::format("subject[{}].name", i)), name, did_you_mean(name, names)));
  }
}

VirtualCamera resolve_said(const Shot& shot, Length focus) {
  try {
    return resolve(shot.body, shot.lens, shot.take, focus);
  } catch (const OpticsError& e) {
    throw OpticsError(shot.where(e.key()) + e.what(), e.key());
  }
}

}  // namespace

std::vector<SubjectPlace> subjects_of(const Shot& shot, const Scene* scene) {
  const Eigen::Isometry3d camera = place_of_camera(shot, scene);
  std::vector<SubjectPlace> subjects;
  std::set<std::string> names;
  for (const SubjectEntry& entry : shot.subjects) {
    if (!entry.at && !entry.place) continue;  // describes a node of the scene
    if (!names.insert(entry.name).second) continue;
    if (entry.at) {
      subjects.push_back({entry.name, *entry.at, *entry.at, {}});
    } else {
      const Eigen::Vector3d world = Eigen::Vector3d(entry.place->data()) * shot.unit.m();
      subjects.push_back(seen_from(camera, entry.name, world));
    }
  }
  if (scene == nullptr) return subjects;
  for (std::size_t i = 0; i < scene->nodes.size(); ++i) {
    const Node& node = scene->nodes[i];
    if (node.name.empty() || is_camera(*scene, i, camera)) continue;
    if (!names.insert(node.name).second) continue;
    const Eigen::AlignedBox3d box = bounds_of(*scene, i);
    const Eigen::Vector3d middle =
        box.isEmpty() ? Eigen::Vector3d(node.world.translation()) : box.center();
    subjects.push_back(seen_from(camera, node.name, middle));
    if (!box.isEmpty()) subjects.back().extent = corners_of(box, camera);
  }
  return subjects;
}

Length focus_of(const Shot& shot, const std::vector<SubjectPlace>& subjects) {
  if (shot.focus.on) {
    const std::string& name = *shot.focus.on;
    const auto found = std::find_if(subjects.begin(), subjects.end(),
                                    [&](const SubjectPlace& s) { return s.name == name; });
    if (found == subjects.end()) {
      std::vector<std::string> names;
      for (const SubjectPlace& s : subjects) names.push_back(s.name);
      throw UsageError(
          fmt::format("{}there is no subject '{}'.{}", shot.where("focus.on"), name,
                      names.empty() ? " The shot has no subjects." : did_you_mean(name, names)));
    }
    if (!(found->axial.mm() > 0.0)) {
      throw OpticsError(
          fmt::format("{}'{}' is {:.4g} m behind the camera (or beside it); nothing there can be "
                      "in focus",
                      shot.where("focus.on"), name, -found->axial.m()),
          "focus.on");
    }
    return found->axial;
  }
  if (shot.focus.at) return *shot.focus.at;
  const char* key = shot.focus.mark ? "focus.mark" : "take.mark";
  const std::optional<Length> mark = shot.focus.mark ? shot.focus.mark : shot.take.mark;
  if (!mark) {
    throw OpticsError(shot.file +
                          ": there is no focus; give take.mark = \"2.4 m\" (what the barrel said), "
                          "or [focus] on = \"a subject\"",
                      "focus");
  }
  try {
    return focus_from_mark(shot.lens, *mark);
  } catch (const OpticsError& e) {
    throw OpticsError(shot.where(key) + e.what(), key);
  }
}

Answer answer(const Shot& shot, const Scene* scene) {
  const std::vector<SubjectPlace> places = subjects_of(shot, scene);
  require_places(shot, places);
  Answer result;
  result.unit = shot.unit;
  result.place = place_of_camera(shot, scene);
  result.camera = resolve_said(shot, focus_of(shot, places));
  try {
    // An outline that cannot be is told now, not in the middle of a trace.
    (void)Opening(shot.lens.iris, result.camera.aperture_radius);
    result.coc_limit = coc_limit(shot.criterion, shot.body, result.camera);
  } catch (const OpticsError& e) {
    throw OpticsError(shot.where(e.key()) + e.what(), e.key());
  }
  result.sharp = sharp_range(result.camera, result.coc_limit);
  result.hyperfocal = hyperfocal(result.camera, result.coc_limit);
  std::vector<std::string> behind;
  for (const SubjectPlace& place : places) {
    if (place.axial.mm() > 0.0) {
      result.subjects.push_back(blur_of(place, result.camera, result.coc_limit));
      SubjectBlur& subject = result.subjects.back();
      subject.size_px = size_in_picture(shot, subject, result.camera);
    } else {
      behind.push_back(place.name);
    }
  }
  std::stable_sort(result.subjects.begin(), result.subjects.end(),
                   [](const SubjectBlur& a, const SubjectBlur& b) { return a.axial < b.axial; });
  result.infinity = blur_of({"infinity", Length::infinity(), Length::infinity(), {}}, result.camera,
                            result.coc_limit);
  result.ev100 = ev100(shot.lens, shot.take, result.camera);
  result.shutter = shutter_time(shot.take);
  result.shutter_angle = shutter_angle(shot.take);
  result.origins = shot.origins;
  result.focus_said = said(shot);
  result.notes = notes_for(shot, result, behind);
  return result;
}

}  // namespace jolly_iris
