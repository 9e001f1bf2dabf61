#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <numbers>

#include "jolly_iris/answer.hpp"
#include "jolly_iris/errors.hpp"
#include "jolly_iris/nearest.hpp"

namespace jolly_iris {

namespace {

constexpr double a_degree = std::numbers::pi / 180.0;

Eigen::Quaterniond turned(const TrackRow& row) {
  if (row.rotation) {
    const auto& q = *row.rotation;
    return Eigen::Quaterniond(q[3], q[0], q[1], q[2]).normalized();
  }
  const auto& [pan, tilt, roll] = row.pan_tilt_roll;
  using Turn = Eigen::AngleAxisd;
  return Turn(-pan * a_degree, Eigen::Vector3d::UnitY()) *
         Turn(tilt * a_degree, Eigen::Vector3d::UnitX()) *
         Turn(-roll * a_degree, Eigen::Vector3d::UnitZ());
}

Eigen::Isometry3d on_track(const Track& track, double frame, Length unit) {
  const auto& rows = track.rows;
  const auto next = std::upper_bound(rows.begin(), rows.end(), frame,
                                     [](double f, const TrackRow& r) { return f < r.frame; });
  const TrackRow& b = next == rows.end() ? rows.back() : *next;
  const TrackRow& a = next == rows.begin() ? rows.front() : *(next - 1);
  const double t =
      b.frame > a.frame ? std::clamp((frame - a.frame) / (b.frame - a.frame), 0.0, 1.0) : 0.0;
  Eigen::Isometry3d place = Eigen::Isometry3d::Identity();
  if (a.rotation) {
    place.linear() = turned(a).slerp(t, turned(b)).toRotationMatrix();
  } else {
    // Angles go evenly, so that a pan of more than half a turn stays one.
    TrackRow between = a;
    for (std::size_t i = 0; i < 3; ++i) {
      between.pan_tilt_roll[i] = (1.0 - t) * a.pan_tilt_roll[i] + t * b.pan_tilt_roll[i];
    }
    place.linear() = turned(between).toRotationMatrix();
  }
  place.translation() =
      ((1.0 - t) * Eigen::Vector3d(a.place.data()) + t * Eigen::Vector3d(b.place.data())) *
      unit.m();
  return place;
}

Eigen::Isometry3d on_the_floor(const Take& take) {
  Eigen::Isometry3d place = Eigen::Isometry3d::Identity();
  if (take.height) place.translation().y() = take.height->m();
  if (take.tilt) place.rotate(Eigen::AngleAxisd(take.tilt->radians(), Eigen::Vector3d::UnitX()));
  return place;
}

// The world place of something the camera aims at.
Eigen::Vector3d aim_of(const Shot& shot, const Scene* scene, const std::string& name) {
  std::vector<std::string> names;
  for (const SubjectEntry& entry : shot.subjects) {
    if (!entry.place) continue;
    if (entry.name == name) return Eigen::Vector3d(entry.place->data()) * shot.unit.m();
    names.push_back(entry.name);
  }
  for (std::size_t i = 0; scene != nullptr && i < scene->nodes.size(); ++i) {
    if (scene->nodes[i].name == name) {
      const Eigen::AlignedBox3d box = bounds_of(*scene, i);
      return box.isEmpty() ? Eigen::Vector3d(scene->nodes[i].world.translation()) : box.center();
    }
    if (!scene->nodes[i].name.empty()) names.push_back(scene->nodes[i].name);
  }
  throw UsageError(fmt::format("{}there is nothing called '{}' with a place to aim at.{}",
                               shot.where("scene.aim"), name, did_you_mean(name, names)));
}

void turn_to(Eigen::Isometry3d& place, const Eigen::Vector3d& aim, const Shot& shot) {
  const Eigen::Vector3d back = place.translation() - aim;
  const Eigen::Vector3d right = Eigen::Vector3d::UnitY().cross(back);
  if (!(right.norm() > 1e-9)) {
    throw OpticsError(
        fmt::format("{}'{}' is right above or below the camera, or at its own place: which way is "
                    "up cannot be told",
                    shot.where("scene.aim"), *shot.scene->aim),
        "scene.aim");
  }
  place.linear().col(2) = back.normalized();
  place.linear().col(0) = right.normalized();
  place.linear().col(1) = place.linear().col(2).cross(place.linear().col(0));
}

// Turns a camera about its pupil so that it looks to the same side, level and not rolled.
void make_level(Eigen::Isometry3d& place, const Shot& shot) {
  const Eigen::Vector3d back = place.linear().col(2);
  const Eigen::Vector3d aside(back.x(), 0.0, back.z());
  if (aside.norm() < 0.17) {
    throw OpticsError(shot.where("scene.level") +
                          "this camera looks within 10 deg of straight up or down: which way it "
                          "would look when level cannot be told",
                      "scene.level");
  }
  place.linear().col(2) = aside.normalized();
  place.linear().col(1) = Eigen::Vector3d::UnitY();
  place.linear().col(0) = place.linear().col(1).cross(place.linear().col(2));
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

Lean lean_of(const Eigen::Isometry3d& place) {
  const Eigen::Vector3d forward = -place.linear().col(2);
  const double tilt = std::asin(std::clamp(forward.y(), -1.0, 1.0));
  const double roll = std::atan2(-place.linear()(1, 0), place.linear()(1, 1));
  return {Angle::from_radians(tilt), Angle::from_radians(roll)};
}

Eigen::Isometry3d stand_of(const Shot& shot, const Scene* scene) {
  Eigen::Isometry3d place;
  if (shot.track) {
    place = on_track(*shot.track, shot.frame.value_or(shot.track->rows.front().frame), shot.unit);
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
  if (shot.scene->aim) turn_to(place, aim_of(shot, scene, *shot.scene->aim), shot);
  place.translate(Eigen::Vector3d(0.0, 0.0, shot.scene->back.m() - pupil_ahead_m(shot)));
  if (shot.scene->level) make_level(place, shot);
  return place;
}

}  // namespace jolly_iris
