#include "jolly_iris/scene/motion_blur.hpp"

#include <fmt/format.h>

#include <cmath>

#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/optics/keyframes.hpp"
#include "jolly_iris/scene/answer.hpp"
#include "jolly_iris/scene/frames.hpp"
#include "optics/nearest.hpp"

namespace jolly_iris {

namespace {

SubjectPlace place_at(const Shot& now, const Scene* scene, const std::string& name) {
  const auto places = subjects_of(now, scene, stand_of(now, scene));
  std::vector<std::string> names;
  for (const SubjectPlace& place : places) {
    if (place.name != name) {
      names.push_back(place.name);
      continue;
    }
    if (place.axial.mm() > 0.0) return place;
    throw UsageError(fmt::format("'{}' is behind the camera, so it smears nowhere", name));
  }
  throw UsageError(fmt::format("there is no subject '{}'.{}", name, did_you_mean(name, names)));
}

}  // namespace

double speed_in_picture(const Shot& shot, const Scene* scene, const std::string& name,
                        double frame) {
  if (!shot.take.fps) {
    throw OpticsError("how fast something moves needs the frame rate: fps = 24", "take.fps");
  }
  std::array<std::array<double, 2>, 2> seen{};
  std::optional<Scene> posed;
  if (scene != nullptr) posed = *scene;
  for (const std::size_t end : {0U, 1U}) {
    const double at = frame + (end == 0 ? -0.5 : 0.5);
    const Shot now = shot_at(shot, at);
    if (posed) pose_at_frame(*posed, shot, at);
    const SubjectPlace place = place_at(now, posed ? &*posed : nullptr, name);
    if (!place.middle) return 0.0;
    const VirtualCamera camera = resolve(now.body, now.lens, now.take, place.axial);
    const Vec3& p = *place.middle;
    seen[end] = pixel_of_direction(camera, {p.x, p.y, p.z});
  }
  return std::hypot(seen[1][0] - seen[0][0], seen[1][1] - seen[0][1]) * *shot.take.fps;
}

double speed_in_picture(const VirtualCamera& camera, double metres_per_second, Length axial) {
  if (!(axial.mm() > 0.0)) {
    throw OpticsError(
        fmt::format("something at {:.4g} m is not in front of the camera", axial.m()));
  }
  const Length a_second = Length::from_m(metres_per_second);
  return a_second / axial * (camera.focal / camera.pixel_pitch_x());
}

}  // namespace jolly_iris
