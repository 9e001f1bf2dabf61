#include "jolly_iris/scene/answer.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "focus.hpp"
#include "jolly_iris/optics/depth_code.hpp"
#include "jolly_iris/optics/distance.hpp"
#include "jolly_iris/optics/errors.hpp"
#include "jolly_iris/optics/opening.hpp"
#include "jolly_iris/optics/seen_blur.hpp"
#include "jolly_iris/optics/undistort.hpp"
#include "notes.hpp"
#include "optics/nearest.hpp"
#include "places.hpp"
#include "ray_pick.hpp"
#include "scale_check.hpp"
#include "view_clip.hpp"

namespace jolly_iris {

namespace {

// Bounds reach into the frame unless all their corners lie beyond one of its four sides, or behind.
bool reaches_into_frame(const std::vector<Vec3>& extent, const VirtualCamera& camera) {
  if (extent.empty()) return true;
  const double v = camera.focal.mm();
  const double right = camera.shift_right.mm() / v;
  const double up = camera.shift_up.mm() / v;
  const double width = camera.picture.width.mm() / (2.0 * v);
  const double height = camera.picture.height.mm() / (2.0 * v);
  const auto all = [&](auto&& beyond) { return std::all_of(extent.begin(), extent.end(), beyond); };
  using V = const Vec3&;
  // z is negative in front; a point lies at x / −z
  return !all([&](V p) { return p.z >= 0.0; }) &&
         !all([&](V p) { return p.x > -(right + width) * p.z; }) &&
         !all([&](V p) { return p.x < -(right - width) * p.z; }) &&
         !all([&](V p) { return p.y > -(up + height) * p.z; }) &&
         !all([&](V p) { return p.y < -(up - height) * p.z; });
}

struct Blurring {
  const Shot& shot;
  const VirtualCamera& camera;
  const Pose& stand;
  Length limit;

  std::optional<Length> mark_of(Length axial) const {
    // Nearer than 1 : 1 and beyond a close-up's reach no barrel stands.
    const double k2 = shot.lens.converter * shot.lens.converter;
    const bool near = axial < 2.0 * k2 * shot.lens.focal && shot.lens.close_up.dioptres() == 0.0;
    if (near || axial > farthest_focus(shot.lens)) return std::nullopt;
    try {
      return mark_from_focus(shot.lens, axial);
    } catch (const OpticsError&) {
      return std::nullopt;
    }
  }
  const SeenBlur& seen;
  bool nothing_sharp;

  double px(Length z, const GatePlace& at) const { return to_pixels(seen.of(z, at), camera); }
  // Where the picture shows it, from the axis; what is known by its distance alone is in the
  // middle.
  GatePlace place_of(const SubjectPlace& place) const {
    if (!place.middle || !(place.middle->z < 0.0)) return {};
    const double k = camera.focal.m() / -place.middle->z;
    return {Length::from_m(k * place.middle->x), Length::from_m(k * place.middle->y)};
  }
  bool is_sharp(double coc_px) const {
    return std::abs(coc_px) * camera.pixel_pitch().mm() <= limit.mm() * (1.0 + 1e-12);
  }

  SubjectBlur of(const SubjectPlace& place) const {
    SubjectBlur blur;
    blur.name = place.name;
    blur.axial = place.axial;
    blur.radial = place.radial;
    blur.tape = tape_from_axial(shot.lens, place.axial, place.off_axis);
    blur.mark = mark_of(place.axial);
    if (place.middle) {
      const Vec3 across = stand.linear * *place.middle;
      blur.floor = Length::from_m(std::hypot(across.x, across.z));
    }
    blur.front = place.front;
    blur.back = place.back;
    const GatePlace at = place_of(place);
    blur.coc = seen.of(place.axial, at);
    blur.coc_px = to_pixels(blur.coc, camera);
    if (place.front.mm() > 0.0) blur.coc_front_px = px(place.front, at);
    blur.coc_back_px = px(place.back, at);
    blur.sharp = is_sharp(blur.coc_px);
    const double front = blur.coc_front_px.value_or(-std::numeric_limits<double>::infinity());
    // Blur rises with distance: some of it is sharp if it is neither all in front nor all behind.
    const bool some = !nothing_sharp && (is_sharp(front) || front < 0.0) &&
                      (is_sharp(blur.coc_back_px) || blur.coc_back_px > 0.0);
    blur.partly_sharp = some && !(is_sharp(front) && is_sharp(blur.coc_back_px));
    blur.entered = place.extent.size() < 2;
    blur.in_picture = reaches_into_frame(place.extent, camera);
    if (shot.depth) blur.depth_code = encode_depth(shot.depth->code, place.axial, place.radial);
    for (const SubjectEntry& entry : shot.subjects) {
      if (entry.name != place.name || !entry.size) continue;
      blur.size_px = to_pixels(*entry.size * (camera.focal / place.axial), camera);
    }
    return blur;
  }
};

// A subject that has only a size describes a node of the scene; a misspelt one would do nothing.
void require_places(const Shot& shot, const std::vector<SubjectPlace>& places) {
  for (std::size_t i = 0; i < shot.subjects.size(); ++i) {
    const SubjectEntry& entry = shot.subjects[i];
    if (entry.distance || entry.place) continue;
    const std::string& name = entry.name;
    std::vector<std::string> names;
    for (const SubjectPlace& place : places) names.push_back(place.name);
    if (std::find(names.begin(), names.end(), name) != names.end()) continue;
    throw UsageError(fmt::format(
        "{}'{}' has no place: there is no node of that name in the scene, and neither at nor place "
        "is given.{}",
        shot.where(fmt::format("subject[{}].name", i)), name, did_you_mean(name, names)));
  }
}

// Runs what may throw, and says where in the file the key at fault stands.
template <class Work>
auto with_place(const Shot& shot, const Work& work) {
  try {
    return work();
  } catch (const OpticsError& e) {
    throw OpticsError(shot.where(e.key()) + e.what(), e.key());
  }
}

// What the scene has where something was picked in a depth picture, if the two agree.
std::string name_of_picked(const Focus& focus, const Answer& a, const Scene* scene) {
  const Picked& picked = *focus.picked;
  constexpr double slack = 0.02;  // of the distance: depth pictures are coarse
  if (scene == nullptr || !picked.distance.pixel) return {};
  const auto d =
      direction_of_pixel(a.camera, (*picked.distance.pixel)[0], (*picked.distance.pixel)[1]);
  const auto seen = ray_pick(*scene, a.place, {d[0], d[1], d[2]});
  const double z = (a.camera.focus - focus.offset).m();
  if (!seen) return {};
  if (std::abs(seen->axial_m - z) <= slack * z) return seen->name;
  return fmt::format("the scene has {} there, at {:.4g} m: is it another frame or scale?",
                     seen->name.empty() ? "something" : seen->name, seen->axial_m);
}

struct Looked {
  std::vector<SubjectPlace> places;
  Length focus;
};

// Where all is, and the focus. What was entered by where the picture shows it hangs on the framing,
// that on the focus, and that perhaps on it: the two settle in a few rounds.
Looked look(const Shot& shot, const Scene* scene, const Pose& stand) {
  Looked seen{{}, Length::infinity()};
  for (int round = 0; round < 50; ++round) {
    seen.places = subjects_of(shot, scene, stand, seen.focus);
    const Length before = seen.focus;
    seen.focus = focus_of(shot, seen.places, stand, before);
    if (!hangs_on_focus(shot)) break;
    if (std::abs(1.0 / seen.focus.m() - 1.0 / before.m()) < 1e-13) break;
  }
  return seen;
}

// The largest disc of what the picture shows or what lies in its margin, which grows with it.
Margin margin_of(const Answer& a, const Scene* scene) {
  Margin margin;
  const VirtualCamera& c = a.camera;
  for (int round = 0; round < 3; ++round) {
    const auto low = direction_of_pixel(c, -margin.beside, c.pixels.height + margin.above);
    const auto high = direction_of_pixel(c, c.pixels.width + margin.beside, -margin.above);
    const ViewPyramid view{low[0], high[0], low[1], high[1]};
    double max = std::abs(a.infinity.coc_px);
    const auto at = [&](double z_m) {
      max = std::max(max, std::abs(to_pixels(circle_of_confusion(c, Length::from_m(z_m)), c)));
    };
    for (const SubjectBlur& s : a.subjects) {
      // Nodes of the scene are looked at below, where the picture cuts them.
      if (s.in_picture && s.entered) at(s.axial.m());
    }
    for (std::size_t i = 0; scene != nullptr && i < scene->nodes.size(); ++i) {
      if (scene->nodes[i].parent) continue;
      const auto reach = reach_in_view(*scene, i, a.place, view);
      if (!reach) continue;
      at(reach->min);
      at(reach->max);
    }
    const Margin next = margin_for(c, max * c.pixel_pitch());
    if (next.beside == margin.beside && next.above == margin.above) break;
    margin = next;
  }
  return margin;
}

Answer numbers(const Shot& shot, const Scene* scene, std::vector<std::string>& behind) {
  Answer result;
  result.place = stand_of(shot, scene);
  result.unit = shot.unit;
  result.frame = shot.frame;
  with_place(shot, [&] { require_possible(shot.lens); });
  const Looked seen = look(shot, scene, result.place);
  require_places(shot, seen.places);
  with_place(shot, [&] {
    result.camera = with_blur_override(resolve(shot.body, shot.lens, shot.take, seen.focus),
                                       shot.blur_override);
    // An outline that cannot be is told now, not in the middle of a trace.
    (void)Opening(shot.lens.iris, result.camera.aperture_radius);
    if (result.camera.distortion.any()) (void)DistortionMap(result.camera);
    result.coc_limit = coc_limit(shot.criterion, shot.body, result.camera);
  });
  result.mark = mark_from_focus(shot.lens, seen.focus);
  const SeenBlur seen_blur(result.camera);
  const std::optional<SharpRange> sharp = seen_blur.sharp_range(result.coc_limit);
  result.sharp = sharp.value_or(SharpRange{seen.focus, seen.focus});
  result.nothing_sharp = !sharp.has_value();
  if (result.nothing_sharp) result.least_blur_px = to_pixels(seen_blur.least(), result.camera);
  result.hyperfocal = hyperfocal(result.camera, result.coc_limit);
  if (result.hyperfocal > farthest_focus(shot.lens)) result.hyperfocal = Length::infinity();
  const Blurring blurring{shot,      result.camera,       result.place, result.coc_limit,
                          seen_blur, result.nothing_sharp};
  std::vector<const SubjectPlace*> near_to_far;
  near_to_far.reserve(seen.places.size());
  for (const SubjectPlace& place : seen.places) {
    if (place.axial.mm() > 0.0)
      near_to_far.push_back(&place);
    else
      behind.push_back(place.name);
  }
  std::stable_sort(
      near_to_far.begin(), near_to_far.end(),
      [](const SubjectPlace* a, const SubjectPlace* b) { return a->axial < b->axial; });
  result.subjects.reserve(near_to_far.size());
  for (const SubjectPlace* place : near_to_far) result.subjects.push_back(blurring.of(*place));
  SubjectPlace infinity;
  infinity.name = "infinity";
  infinity.axial = infinity.radial = infinity.front = infinity.back = Length::infinity();
  result.infinity = blurring.of(infinity);
  result.scale = scale_check(shot, seen.places);
  if (shot.focus.picked && !shot.move) {
    result.picked = name_of_picked(shot.focus, result, scene);
  }
  with_place(shot, [&] {
    result.exposure = exposure_of(shot.lens, shot.take, result.camera);
    // A cheat blurs; it lets no other light in.
    result.corner = corner_loss(shot.lens, without_blur_override(result.camera));
  });
  result.ev100 = result.exposure.ev100;
  result.anchor = shot.body.anchor;
  result.light = shot.light;
  result.white = shot.take.white;
  result.cg_shutter = cg_shutter(shot.take);
  if (result.ev100) {
    result.value_per_candela =
        value_per_candela(*result.ev100, result.anchor, lens_q(result.exposure.t_is_known));
  }
  result.shutter = shutter_time(shot.take);
  result.shutter_angle = shutter_angle(shot.take);
  return result;
}

}  // namespace

Answer answer_numbers(const Shot& shot, const Scene* scene) {
  std::vector<std::string> behind;
  Answer result = numbers(shot, scene, behind);
  result.focus_description = focus_description(shot);
  return result;
}

Answer answer(const Shot& shot, const Scene* scene) {
  std::vector<std::string> behind;
  Answer result = numbers(shot, scene, behind);
  result.margin = margin_of(result, scene);
  result.origins = shot.origins;
  result.focus_description = focus_description(shot);
  if (!result.picked.empty()) result.focus_description += " (" + result.picked + ")";
  result.notes = notes_for(shot, result, behind);
  return result;
}

}  // namespace jolly_iris
