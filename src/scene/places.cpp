#include "places.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <string_view>
#include <unordered_set>

#include "jolly_iris/optics/distance.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/optics/undistort.hpp"

namespace jolly_iris {

namespace {

// The camera as far as its framing goes.
VirtualCamera framing(const Shot& shot, Length focus) {
  const Length reached = std::min(focus, farthest_focus(shot.lens));
  return resolve(shot.body, shot.lens, shot.take, reached);
}

// The direction in which the camera sees a place that was entered by its pixel. The plate bends
// what the CG picture does not.
std::array<double, 3> direction_of(const DistanceEntry& entry, const Shot& shot, Length focus) {
  const VirtualCamera camera = framing(shot, focus);
  std::array<double, 2> px = *entry.pixel;
  if (!entry.pixel_in_cg && camera.distortion.any()) px = DistortionMap(camera).undistorted(px);
  return direction_of_pixel(camera, px[0], px[1]);
}

Angle off_axis_of(const std::array<double, 3>& d) {
  return Angle::from_radians(std::atan(std::hypot(d[0], d[1])));
}

Stand floor_stand(const Shot& shot, const Pose& stand) {
  const Vec3 forward = -stand.linear.column(2);
  const double tilt = std::asin(std::clamp(forward.y, -1.0, 1.0));
  const bool placed = shot.scene || shot.track;
  if (!shot.take.height && !placed) {
    throw OpticsError(
        "a distance along the floor needs the camera's height above it; give take.height = \"1.2 "
        "m\" (and take.tilt, if it is tilted)",
        "take.height");
  }
  return {shot.take.height.value_or(Length::from_m(stand.translation.y)),
          shot.take.tilt.value_or(Angle::from_radians(tilt))};
}

SubjectPlace point(std::string name, const Vec3& p) {
  SubjectPlace place;
  place.name = std::move(name);
  place.axial = place.front = place.back = place.origin = Length::from_m(-p.z);
  place.radial = Length::from_m(p.length());
  place.off_axis = Angle::from_radians(std::atan2(std::hypot(p.x, p.y), -p.z));
  place.extent = {p};
  place.middle = p;
  return place;
}

SubjectPlace entered(const SubjectEntry& entry, const Shot& shot, const Pose& stand, Length focus,
                     const std::string& key) {
  const DistanceEntry& distance = *entry.distance;
  SubjectPlace place;
  place.name = entry.name;
  place.axial = axial_of(distance, shot, stand, focus, key);
  if (distance.pixel) {
    const auto d = direction_of(distance, shot, focus);
    place.off_axis = off_axis_of(d);
    if (place.axial.is_finite()) {
      place.middle = Vec3(d[0], d[1], d[2]) * place.axial.m();
      place.extent = {*place.middle};
    }
  } else if (distance.off_axis) {
    place.off_axis = *distance.off_axis;
  }
  place.radial = radial_from_axial(place.axial, place.off_axis);
  place.front = place.back = place.origin = place.axial;
  return place;
}

void reach_around(SubjectPlace& place, Length deep) {
  if (place.axial.is_infinite()) return;
  place.front = place.axial - deep / 2.0;
  place.back = place.axial + deep / 2.0;
}

Vec3 forward_of(const Pose& stand) { return -stand.linear.column(2); }

SubjectPlace node_place(const Node& node, const NodeExtent& extent, const Pose& stand) {
  const Box3<double>& box = extent.box;
  const Pose view = stand.inverse();
  const Vec3 origin = view * Vec3(node.world.translation);
  if (box.empty()) return point(node.name, origin);
  SubjectPlace place = point(node.name, view * box.centre());
  place.origin = Length::from_m(-origin.z);
  place.extent.clear();
  place.extent.reserve(8);
  for (int i = 0; i < 8; ++i) {
    place.extent.emplace_back(view * box.corner(static_cast<std::size_t>(i)));
  }
  if (extent.any()) {
    const double eye = forward_of(stand).dot(stand.translation);
    place.front = Length::from_m(extent.reach.min - eye);
    place.back = Length::from_m(extent.reach.max - eye);
  }
  return place;
}

bool by_pixel(const std::optional<DistanceEntry>& entry) { return entry && entry->pixel; }
bool by_pixel(const Focus& focus) {
  return by_pixel(focus.distance) || (focus.picked && focus.picked->distance.pixel);
}

}  // namespace

Length axial_of(const DistanceEntry& entry, const Shot& shot, const Pose& stand, Length focus,
                const std::string& key) {
  try {
    const Angle off_axis = entry.pixel ? off_axis_of(direction_of(entry, shot, focus))
                                       : entry.off_axis.value_or(Angle{});
    switch (entry.kind) {
      case DistanceKind::radial:
        return axial_from_radial(entry.length, off_axis);
      case DistanceKind::tape:
        return axial_from_tape(shot.lens, entry.length, off_axis);
      case DistanceKind::mark:
        return focus_from_mark(shot.lens, entry.length);
      case DistanceKind::floor:
        return axial_from_floor(entry.length, entry.height.value_or(Length{}), off_axis,
                                floor_stand(shot, stand));
      case DistanceKind::axial:
        break;
    }
    return entry.length;
  } catch (const OpticsError& e) {
    throw OpticsError(
        shot.where(fmt::format("{}.{}", key,
                               entry.kind == DistanceKind::axial ? "at" : to_string(entry.kind))) +
            e.what(),
        e.key());
  }
}

bool hangs_on_focus(const Shot& shot) {
  return by_pixel(shot.focus) ||
         (shot.move && (by_pixel(shot.move->from) || by_pixel(shot.move->to))) ||
         std::any_of(shot.subjects.begin(), shot.subjects.end(),
                     [](const SubjectEntry& s) { return by_pixel(s.distance); });
}

std::vector<SubjectPlace> subjects_of(const Shot& shot, const Scene* scene, const Pose& stand,
                                      Length focus) {
  std::vector<SubjectPlace> subjects;
  std::unordered_set<std::string_view> names;
  std::unordered_set<std::string_view> sized;
  const std::size_t max = shot.subjects.size() + (scene == nullptr ? 0 : scene->nodes.size());
  subjects.reserve(max);
  names.reserve(max);
  for (std::size_t i = 0; i < shot.subjects.size(); ++i) {
    const SubjectEntry& entry = shot.subjects[i];
    if (entry.size) sized.insert(entry.name);
    if (!entry.distance && !entry.place) continue;  // describes a node of the scene
    if (!names.insert(entry.name).second) continue;
    if (entry.distance) {
      subjects.push_back(entered(entry, shot, stand, focus, fmt::format("subject[{}]", i)));
    } else {
      const Vec3 world = Vec3(*entry.place) * shot.unit.m();
      subjects.push_back(point(entry.name, stand.inverse() * world));
    }
    if (entry.deep) reach_around(subjects.back(), *entry.deep);
  }
  if (scene == nullptr) return subjects;
  const std::vector<NodeExtent> extents = extents_of(*scene, forward_of(stand));
  for (std::size_t i = 0; i < scene->nodes.size(); ++i) {
    const Node& node = scene->nodes[i];
    if (node.name.empty() || (node.camera && !node.mesh)) continue;  // cameras are nobody's subject
    if (!names.insert(node.name).second) continue;
    subjects.push_back(node_place(node, extents[i], stand));
    if (sized.contains(node.name)) subjects.back().longest_m = longest_side(*scene, i);
  }
  return subjects;
}

}  // namespace jolly_iris
