#include "scene_look.hpp"

#include <algorithm>
#include <cmath>
#include <map>

#include "jolly_iris/optics/shot.hpp"
#include "jolly_iris/scene/answer.hpp"
#include "jolly_iris/trace/survey.hpp"
#include "jolly_iris/trace/trace.hpp"

namespace jolly_iris {

namespace {

// Grounds, waters and walls: what covers more of the picture is nothing that one focuses on.
constexpr double vast = 0.25;
constexpr int survey_wide = 192;

std::vector<StartedSubject> subjects_seen(const Scene& scene, const Answer& answer) {
  std::map<std::string, std::size_t> nodes;
  for (std::size_t i = 0; i < scene.nodes.size(); ++i) nodes.try_emplace(scene.nodes[i].name, i);
  std::vector<StartedSubject> seen;
  for (const SubjectBlur& s : answer.subjects) {
    if (!s.in_picture) continue;
    StartedSubject subject{s.name, s.axial, std::nullopt};
    const auto node = nodes.find(s.name);
    const auto side = node == nodes.end() ? std::nullopt : longest_side(scene, node->second);
    if (side) subject.longest = Length::from_m(*side);
    seen.push_back(std::move(subject));
  }
  return seen;
}

// One place of the grid that is wanted: the first by a measure, which is less the better.
template <class Wanted, class Measure>
std::optional<std::size_t> best_place(const Survey& all, const Wanted& wanted,
                                      const Measure& measure) {
  std::optional<std::size_t> best;
  double least = 0.0;
  for (std::size_t i = 0; i < all.thing.size(); ++i) {
    if (!wanted(i)) continue;
    const double m = measure(i);
    if (best && m >= least) continue;
    best = i;
    least = m;
  }
  return best;
}

}  // namespace

CameraView look_at_scene(const Scene& scene, const std::string& camera, const Body& body,
                         Length focal) {
  Shot shot;
  shot.body = body;
  shot.lens.focal = focal;
  shot.take.stop = f_number(2.8);  // of which nothing here depends
  shot.focus.distance = DistanceEntry{DistanceKind::axial, Length::infinity()};
  shot.scene.emplace();
  shot.scene->file = scene.file;
  if (!camera.empty()) shot.scene->camera = camera;
  const Answer answer = answer_numbers(shot, &scene);
  CameraView look;
  look.subjects = subjects_seen(scene, answer);

  const double shape = picture_shape(body);
  const Survey all =
      survey(scene, answer.camera, answer.place,
             {survey_wide, std::max(1, static_cast<int>(std::lround(survey_wide / shape)))});
  const auto wide = static_cast<std::size_t>(all.size.width);
  std::map<int, std::size_t> covers;
  for (const int thing : all.thing) ++covers[thing];
  const auto is_thing = [&](std::size_t i) {
    return all.thing[i] >= 0 &&
           static_cast<double>(covers[all.thing[i]]) < vast * static_cast<double>(all.thing.size());
  };
  const auto in_ninth = [&](std::size_t i) {
    const auto third = [](std::size_t at, int of) {
      return 3 * at + 2 > static_cast<std::size_t>(of) &&
             3 * at + 1 < 2 * static_cast<std::size_t>(of);
    };
    return is_thing(i) && third(i % wide, all.size.width) && third(i / wide, all.size.height);
  };
  const auto near = [&](std::size_t i) { return static_cast<double>(all.depth[i]); };
  const auto off_middle = [&](std::size_t i) {
    const std::size_t row = i / wide;
    return std::hypot(static_cast<double>(i % wide) + 0.5 - 0.5 * all.size.width,
                      static_cast<double>(row) + 0.5 - 0.5 * all.size.height);
  };
  auto place = best_place(all, in_ninth, near);
  look.why = "The nearest thing in the middle ninth of the frame";
  if (!place) {
    place = best_place(all, is_thing, off_middle);
    look.why = "The thing nearest to the middle of the frame";
  }
  for (const StartedSubject& s : look.subjects) {
    if (!place || s.name != all.names[static_cast<std::size_t>(all.thing[*place])]) continue;
    look.on = s.name;
    look.distance = s.axial;
    return look;
  }
  place = best_place(
      all, [&](std::size_t i) { return std::isfinite(all.depth[i]); }, off_middle);
  look.why = "How far away it is in the middle of the frame";
  if (place) look.distance = Length::from_m(near(*place));
  return look;
}

}  // namespace jolly_iris
