#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <numbers>

#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/optics/quantity.hpp"
#include "jolly_iris/scene/answer.hpp"
#include "optics/nearest.hpp"

namespace jolly_iris {

namespace {

constexpr double a_degree = std::numbers::pi / 180.0;

Quaternion turned(const TrackRow& row) {
  if (row.rotation) {
    const auto& q = *row.rotation;
    return Quaternion{q[3], q[0], q[1], q[2]}.normalized();
  }
  const auto& [pan, tilt, roll] = row.pan_tilt_roll;
  return Quaternion::about(Vec3::unit_y(), -pan * a_degree) *
         Quaternion::about(Vec3::unit_x(), tilt * a_degree) *
         Quaternion::about(Vec3::unit_z(), -roll * a_degree);
}

double first_frame(const Track& track) {
  return track.rows.empty() ? 0.0 : track.rows.front().frame;
}

Pose on_track(const Track& track, double frame, Length unit) {
  const auto& rows = track.rows;
  if (rows.empty()) {
    throw OpticsError("the camera's track has no rows; load_shot reads them", "scene.track");
  }
  const auto next = std::upper_bound(rows.begin(), rows.end(), frame,
                                     [](double f, const TrackRow& r) { return f < r.frame; });
  const TrackRow& b = next == rows.end() ? rows.back() : *next;
  const TrackRow& a = next == rows.begin() ? rows.front() : *(next - 1);
  const double t =
      b.frame > a.frame ? std::clamp((frame - a.frame) / (b.frame - a.frame), 0.0, 1.0) : 0.0;
  Pose place = Pose{};
  if (a.rotation) {
    place.linear = turned(a).slerp(t, turned(b)).to_matrix();
  } else {
    // Angles go evenly, so that a pan of more than half a turn stays one.
    TrackRow between = a;
    for (std::size_t i = 0; i < 3; ++i) {
      between.pan_tilt_roll[i] = (1.0 - t) * a.pan_tilt_roll[i] + t * b.pan_tilt_roll[i];
    }
    place.linear = turned(between).to_matrix();
  }
  place.translation = ((1.0 - t) * Vec3(a.place) + t * Vec3(b.place)) * unit.m();
  return place;
}

Pose on_the_floor(const Take& take) {
  Pose place = Pose{};
  if (take.height) place.translation.y = take.height->m();
  if (take.tilt) place = place.turned(Quaternion::about(Vec3::unit_x(), take.tilt->radians()));
  return place;
}

// The world place of something the camera aims at.
Vec3 aim_of(const Shot& shot, const Scene* scene, const std::string& name, const char* key,
            const char* purpose) {
  std::vector<std::string> names;
  for (const SubjectEntry& entry : shot.subjects) {
    if (!entry.place) continue;
    if (entry.name == name) return Vec3(*entry.place) * shot.unit.m();
    names.push_back(entry.name);
  }
  for (std::size_t i = 0; scene != nullptr && i < scene->nodes.size(); ++i) {
    if (scene->nodes[i].name == name) {
      const Box3<double> box = bounds_of(*scene, i);
      return box.empty() ? Vec3(scene->nodes[i].world.translation) : box.centre();
    }
    if (!scene->nodes[i].name.empty()) names.push_back(scene->nodes[i].name);
  }
  throw UsageError(fmt::format("{}there is nothing called '{}' with a place {}.{}", shot.where(key),
                               name, purpose, did_you_mean(name, names)));
}

void turn_to(Pose& place, const Vec3& aim, const Shot& shot) {
  const Vec3 back = place.translation - aim;
  const Vec3 right = Vec3::unit_y().cross(back);
  if (!(right.length() > 1e-9)) {
    throw OpticsError(
        fmt::format("{}'{}' is right above or below the camera, or at its own place: which way is "
                    "up cannot be told",
                    shot.where("scene.aim"), *shot.scene->aim),
        "scene.aim");
  }
  place.linear.column(2) = back.normalized();
  place.linear.column(0) = right.normalized();
  place.linear.column(1) = place.linear.column(2).cross(place.linear.column(0));
}

// Turns a camera about its pupil so that it looks to the same side, level and not rolled.
void make_level(Pose& place, const Shot& shot) {
  const Vec3 back = place.linear.column(2);
  const Vec3 aside(back.x, 0.0, back.z);
  if (aside.length() < 0.17) {
    throw OpticsError(shot.where("scene.level") +
                          "this camera looks within 10 deg of straight up or down: which way it "
                          "would look when level cannot be told",
                      "scene.level");
  }
  place.linear.column(2) = aside.normalized();
  place.linear.column(1) = Vec3::unit_y();
  place.linear.column(0) = place.linear.column(1).cross(place.linear.column(2));
}

// Around what the camera goes: a subject's place, or a point on its view.
Vec3 centre_of_orbit(const Shot& shot, const Scene* scene, const Pose& place) {
  const std::string& around = shot.scene->around;
  try {
    const Length z = parse_length(around);
    if (!(z.mm() > 0.0)) {
      throw OpticsError(
          fmt::format("{}{} is not in front of the camera", shot.where("scene.around"), around),
          "scene.around");
    }
    return place.translation - place.linear.column(2) * z.m();
  } catch (const QuantityError&) {
    return aim_of(shot, scene, around, "scene.around", "to go around");
  }
}

void go_around(Pose& place, const Shot& shot, const Scene* scene) {
  const SceneEntry& entry = *shot.scene;
  if (entry.around.empty() || (entry.orbit == Angle{} && entry.orbit_up == Angle{})) return;
  const Vec3 centre = centre_of_orbit(shot, scene, place);
  const auto turn = [&](const Vec3& axis, double radians) {
    const Matrix3 r = Quaternion::about(axis, radians).to_matrix();
    place.linear = r * place.linear;
    place.translation = centre + r * (place.translation - centre);
  };
  turn(place.linear.column(0).normalized(), -entry.orbit_up.radians());
  turn(Vec3::unit_y(), entry.orbit.radians());
}

// How far in front of the scene's camera the entrance pupil is.
double pupil_ahead_m(const Shot& shot) {
  const CameraOrigin origin = shot.scene->origin;
  if (origin == CameraOrigin::pupil) return 0.0;
  const bool mount = origin == CameraOrigin::mount;
  if (!shot.lens.pupil || (mount && !shot.body.flange)) {
    throw OpticsError(
        fmt::format("{}the scene's camera stands at the {}, and the entrance pupil, where the CG "
                    "camera belongs, is elsewhere; give {}",
                    shot.where("scene.origin"), mount ? "mount" : "sensor",
                    shot.lens.pupil ? "body.flange (mount to sensor)"
                                    : "lens.pupil (entrance pupil to sensor)"),
        "scene.origin");
  }
  return shot.lens.pupil->m() - (mount ? shot.body.flange->m() : 0.0);
}

}  // namespace

Lean lean_of(const Pose& place) {
  const Vec3 forward = -place.linear.column(2);
  const double tilt = std::asin(std::clamp(forward.y, -1.0, 1.0));
  const double roll = std::atan2(-place.linear(1, 0), place.linear(1, 1));
  return {Angle::from_radians(tilt), Angle::from_radians(roll)};
}

Pose stand_of(const Shot& shot, const Scene* scene) {
  Pose place;
  if (shot.track) {
    place = on_track(*shot.track, shot.frame.value_or(first_frame(*shot.track)), shot.unit);
  } else if (scene != nullptr) {
    try {
      place = camera_place(*scene, shot.scene ? shot.scene->camera : std::nullopt);
    } catch (const UsageError& e) {
      throw UsageError(shot.where("scene.camera") + e.what());
    }
  } else {
    place = on_the_floor(shot.take);
  }
  if (!shot.scene) return place;
  if (shot.scene->aim) {
    turn_to(place, aim_of(shot, scene, *shot.scene->aim, "scene.aim", "to aim at"), shot);
  }
  place = place.moved(
      Vec3(shot.scene->right.m(), shot.scene->up.m(), shot.scene->back.m() - pupil_ahead_m(shot)));
  go_around(place, shot, scene);
  if (shot.scene->level) make_level(place, shot);
  return place;
}

}  // namespace jolly_iris
