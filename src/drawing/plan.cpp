#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <filesystem>

#include "jolly_iris/drawing/plan.hpp"
#include "jolly_iris/scene/frames.hpp"

namespace jolly_iris {

namespace {

// Enough frames for a smooth path, and every key.
std::vector<double> frames_to_draw(const Shot& shot) {
  double first = shot.pulls.front().frame;
  double last = shot.pulls.back().frame;
  if (shot.frames) {
    first = shot.frames->first;
    last = shot.frames->last;
  }
  constexpr double max = 240.0;
  std::vector<double> frames =
      frames_of({first, last}, std::max(1.0, std::ceil((last - first) / max)));
  for (const Pull& pull : shot.pulls) frames.push_back(pull.frame);
  std::sort(frames.begin(), frames.end());
  frames.erase(std::unique(frames.begin(), frames.end()), frames.end());
  return frames;
}

std::string title_of(const Shot& now, const Answer& a, bool from_side) {
  const auto metres = [](Length l) {
    return l.is_infinite() ? std::string("infinity") : fmt::format("{:.4g} m", l.m());
  };
  std::string title = std::filesystem::path(now.file).filename().string();
  if (a.frame) title += fmt::format(", frame {:g}", *a.frame);
  title += from_side ? ", from the side" : ", from above";
  title += fmt::format(
      "\n{:.2f} mm at f/{:.3g}, {:.1f} deg {}, focus {} ({}), {}", a.camera.focal.mm(),
      a.camera.f_number,
      from_side ? a.camera.vertical_picture_view().degrees()
                : a.camera.horizontal_picture_view().degrees(),
      from_side ? "high" : "wide", metres(a.camera.focus), a.focus_description,
      a.nothing_sharp ? std::string("nothing sharp")
                      : fmt::format("sharp {} to {}", metres(a.sharp.near), metres(a.sharp.far)));
  return title;
}

}  // namespace

Plan plan_of(const Shot& shot, const Shot& now, const Scene* scene, const Answer& answer,
             bool from_side) {
  Plan plan;
  plan.answer = answer;
  plan.places = subjects_of(now, scene, answer.place, answer.camera.focus);
  plan.from_side = from_side;
  plan.title = title_of(now, answer, from_side);
  if (shot.pulls.size() < 2) return plan;
  const auto frames = frames_to_draw(shot);
  const auto answers = answers_at(shot, scene, frames);
  for (std::size_t i = 0; i < answers.size(); ++i) {
    const double z = answers[i].camera.focus.m();
    if (!std::isfinite(z)) continue;
    FocusStep step;
    step.frame = frames[i];
    step.eye = answers[i].place.translation;
    step.point = answers[i].place * Vec3(0.0, 0.0, -z);
    step.key = std::any_of(shot.pulls.begin(), shot.pulls.end(),
                           [&](const Pull& p) { return p.frame == frames[i]; });
    plan.path.push_back(step);
  }
  return plan;
}

}  // namespace jolly_iris
