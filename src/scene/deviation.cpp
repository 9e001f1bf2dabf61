#include "jolly_iris/scene/deviation.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <numbers>

namespace jolly_iris {

namespace {

struct Candidate {
  double value;
  std::string reason;
};

// The reason whose value the found one is (within a fifth of a percent), the first that fits.
std::string reason_for(double found, const std::vector<Candidate>& candidates) {
  constexpr double close = 0.002;
  for (const Candidate& c : candidates) {
    if (c.value > 0.0 && std::abs(std::log(found / c.value)) < close) return c.reason;
  }
  return {};
}

std::string metres(double m) {
  return std::abs(m) < 0.01  ? fmt::format("{:.3g} mm", m * 1000.0)
         : std::abs(m) < 1.0 ? fmt::format("{:.3g} cm", m * 100.0)
                             : fmt::format("{:.3g} m", m);
}

// A program that was told centimetres reads metres, and so on.
std::vector<Candidate> units_of(double right, const char* what) {
  std::vector<Candidate> candidates;
  for (const double factor : {10.0, 100.0, 1000.0, 25.4, 2.54, 12.0, 30.48, 39.37}) {
    candidates.push_back(
        {right * factor, fmt::format("{} in another unit: {:g} x too much", what, factor)});
    candidates.push_back(
        {right / factor, fmt::format("{} in another unit: {:g} x too little", what, factor)});
  }
  return candidates;
}

void framing(const CgCamera& cg, const Shot& now, const Answer& a, std::vector<Deviation>& out) {
  // Half the field's tangent: what the picture's width covers at a distance.
  const double found = cg.picture.width / cg.focal;
  const VirtualCamera& c = a.camera;
  const double wanted = c.picture.width / c.focal;
  const double ratio = found / wanted;
  if (std::abs(ratio - 1.0) < 0.001) return;
  const Lens& lens = now.lens;
  std::vector<Candidate> candidates{
      {c.picture.width / c.lens_focal,
       "that is the lens at infinity: the breathing at this focus is missing"}};
  if (lens.adapter != 1.0) {
    candidates.push_back({c.picture.width / (lens.focal * lens.converter),
                          "that is the marked focal length without the adapter"});
    candidates.push_back({c.picture.width / (c.focal / lens.adapter), "the adapter is missing"});
  }
  if (lens.converter != 1.0) {
    candidates.push_back({wanted * lens.converter, "the converter is missing"});
  }
  if (now.body.window) {
    const double shrunk = static_cast<double>(now.body.window->width) / now.body.photosites->width;
    candidates.push_back({wanted / shrunk, "the window is missing: that is the whole gate"});
  }
  if (c.squeeze != 1.0) {
    candidates.push_back({wanted / c.squeeze, "the squeeze is missing: that is the squeezed gate"});
  }
  const auto degrees = [](double tangent) {
    return 2.0 * std::atan(tangent / 2.0) * 180.0 / std::numbers::pi;
  };
  out.push_back({Deviation::What::framing, ratio,
                 fmt::format("frames {:.1f} % too {}: {:.3f} deg wide instead of {:.3f}",
                             100.0 * std::abs(ratio - 1.0), ratio > 1.0 ? "wide" : "narrow",
                             degrees(found), degrees(wanted)),
                 reason_for(found, candidates)});
}

void opening(const CgCamera& cg, const Shot& now, const Answer& a, std::vector<Deviation>& out) {
  if (!cg.aperture_radius) return;
  const VirtualCamera& c = a.camera;
  const double found = cg.aperture_radius->mm();
  const double wanted = c.aperture_radius.mm();
  const double ratio = found / wanted;
  if (std::abs(ratio - 1.0) < 0.01) return;
  const double v = cg.focal.mm();
  const double n0 = marked_f_number(now.lens, now.take.stop);
  std::vector<Candidate> candidates{
      {2.0 * wanted, "that is the diameter where the radius belongs"},
      {0.5 * wanted, "that is half the radius: a radius where the diameter belongs"},
      {v / (2.0 * n0), "that is the marked f-number beside a focal length it does not belong to"},
      {v / (2.0 * c.lens_f_number),
       "that is the f-number at infinity beside the focal length of this focus"},
      {v / (2.0 * c.lens_t_number), "that is the T-number where the f-number belongs"}};
  for (Candidate& u : units_of(wanted, "an aperture")) candidates.push_back(std::move(u));
  out.push_back({Deviation::What::opening, ratio,
                 fmt::format("opening {:.3g} x too {} for {}{:.3g}: like f/{:.3g} on the lens",
                             ratio > 1.0 ? ratio : 1.0 / ratio, ratio > 1.0 ? "wide" : "small",
                             now.take.stop.kind == Stop::Kind::f ? "f/" : "T", now.take.stop.value,
                             n0 / ratio),
                 reason_for(found, candidates)});
}

// What the focus is relative to: what the shot focuses on, or the nearest subject.
std::string landmark(const Shot& now) {
  if (now.focus.on && !now.move) return *now.focus.on;
  return "the wanted focus";
}

void focus(const CgCamera& cg, const Shot& now, const Answer& a, std::vector<Deviation>& out) {
  if (!cg.focus) return;
  const VirtualCamera& c = a.camera;
  // How much what should be sharp is blurred then.
  const double blur_mm = 2.0 * c.aperture_radius.mm() * c.focal.mm() *
                         std::abs(1.0 / cg.focus->mm() - 1.0 / c.focus.mm());
  if (blur_mm < 0.1 * a.coc_limit.mm()) return;
  const double found = cg.focus->m();
  const double wanted = c.focus.m();
  std::vector<Candidate> candidates;
  for (const SubjectBlur& s : a.subjects) {
    if (!now.focus.on || s.name != *now.focus.on) continue;
    candidates.push_back({s.radial.m(), "that is the radial distance where the axial belongs"});
    candidates.push_back({s.tape.m(), "that is the tape's distance, from the sensor"});
  }
  if (a.mark && a.mark->is_finite()) {
    candidates.push_back({a.mark->m(), "that is the barrel's mark, which counts from the sensor"});
  }
  if (now.take.mark) {
    candidates.push_back({now.take.mark->m(),
                          "that is the take's mark, which counts from the "
                          "sensor"});
  }
  for (Candidate& u : units_of(wanted, "a distance")) candidates.push_back(std::move(u));
  const std::string where =
      std::isinf(found)    ? "at infinity"
      : std::isinf(wanted) ? fmt::format("at {:.4g} m instead of infinity", found)
                           : fmt::format("{} {} {}", metres(std::abs(found - wanted)),
                                         found > wanted ? "behind" : "in front of", landmark(now));
  out.push_back(
      {Deviation::What::focus, found - wanted,
       fmt::format("focus {}, which blurs it by {:.1f} px", where, blur_mm / c.pixel_pitch().mm()),
       reason_for(found, candidates)});
}

void shape(const CgCamera& cg, const Answer& a, std::vector<Deviation>& out) {
  const VirtualCamera& c = a.camera;
  if (cg.width_to_height && std::abs(*cg.width_to_height / c.pupil_aspect() - 1.0) > 0.01) {
    out.push_back(
        {Deviation::What::squeeze, *cg.width_to_height / c.pupil_aspect(),
         fmt::format("discs {:.3g} times as wide as high instead of {:.3g}", *cg.width_to_height,
                     c.pupil_aspect()),
         reason_for(*cg.width_to_height, {{1.0 / c.pupil_aspect(), "the squeeze is turned round"},
                                          {1.0, "the squeeze is missing"}})});
  }
  if (cg.blades && *cg.blades != c.iris.blades) {
    out.push_back({Deviation::What::blades, static_cast<double>(*cg.blades),
                   fmt::format("{} blades instead of {}", *cg.blades, c.iris.blades), ""});
  }
  const auto shift = [&](std::optional<Length> found, Length wanted, const char* way) {
    if (!found || std::abs((*found - wanted).mm()) < 0.001 * c.picture.width.mm()) return;
    out.push_back(
        {Deviation::What::shift, (*found - wanted).mm(),
         fmt::format("shifted {:+.3g} mm {} instead of {:+.3g} mm", found->mm(), way, wanted.mm()),
         ""});
  };
  shift(cg.shift_right, c.shift_right, "right");
  shift(cg.shift_up, c.shift_up, "up");
}

void place(const std::optional<Pose>& found, const Shot& now, const Answer& a,
           std::vector<Deviation>& out) {
  if (!found) return;
  const Vec3 by = found->translation - a.place.translation;
  if (by.length() > 1e-3) {
    const double along = by.dot(-a.place.linear.column(2));
    std::string reason;
    const double e = a.camera.pupil_to_sensor.m();
    if (std::abs(along + e) < 0.2 * e && (by + a.place.linear.column(2) * along).length() < 1e-3) {
      reason = "that is the sensor plane; the CG camera's origin belongs at the entrance pupil";
    }
    out.push_back(
        {Deviation::What::place, by.length(),
         fmt::format("stands {} from where it should ({} {} along the view)", metres(by.length()),
                     metres(std::abs(along)), along >= 0.0 ? "ahead" : "back"),
         reason});
  }
  const double turn = Quaternion::from(found->linear.transposed() * a.place.linear).angle() *
                      180.0 / std::numbers::pi;
  if (turn > 0.01) {
    out.push_back({Deviation::What::turn, turn, fmt::format("looks {:.2f} deg elsewhere", turn),
                   now.scene && now.scene->aim ? "the shot aims its camera" : ""});
  }
}

}  // namespace

PlacedCamera camera_in(const Scene& scene, const std::optional<std::string>& name,
                       const Extent& picture) {
  PlacedCamera found;
  found.place = camera_place(scene, name);
  const SceneCamera& from = scene.cameras[*scene.nodes[camera_node(scene, name)].camera];
  CgCamera& cg = found.camera;
  cg.message = "in " + scene.file;
  // Without a gate of its own, it has the shot's: only the field of view is known then.
  const double aspect = from.aspect.value_or(picture.width / picture.height);
  const double height = from.gate_height_mm.value_or(picture.height.mm());
  cg.picture = {Length::from_mm(from.gate_width_mm.value_or(height * aspect)),
                Length::from_mm(height)};
  cg.focal = cg.picture.height / (2.0 * std::tan(from.yfov / 2.0));
  if (from.f_number) cg.aperture_radius = cg.focal / (2.0 * *from.f_number);
  if (from.focus_m) cg.focus = Length::from_m(*from.focus_m);
  if (from.shift_right_mm) cg.shift_right = Length::from_mm(*from.shift_right_mm);
  if (from.shift_up_mm) cg.shift_up = Length::from_mm(*from.shift_up_mm);
  return found;
}

std::vector<Deviation> deviations(const PlacedCamera& found, const Shot& now,
                                  const Answer& answer) {
  std::vector<Deviation> out;
  framing(found.camera, now, answer, out);
  opening(found.camera, now, answer, out);
  focus(found.camera, now, answer, out);
  shape(found.camera, answer, out);
  place(found.place, now, answer, out);
  return out;
}

}  // namespace jolly_iris
