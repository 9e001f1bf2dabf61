#include "jolly_iris/files/lens_text.hpp"

#include <fmt/format.h>

#include <sstream>

namespace jolly_iris {

namespace {

std::string millimetres(Length l) { return fmt::format("\"{:.9g} mm\"", l.mm()); }
std::string metres(Length l) { return fmt::format("\"{:.9g} m\"", l.m()); }
std::string dioptres(Power p) { return fmt::format("\"{:.9g} dpt\"", p.dioptres()); }

void add_distortion(const Distortion& d, std::string& out) {
  if (!d.any()) return;
  out += "\n[distortion]\n";
  for (std::size_t i = 0; i < 3; ++i) out += fmt::format("k{} = {:.9g}\n", i + 1, d.k[i]);
  if (d.width) {
    out += fmt::format("wide = [{:.9g}, {:.9g}, {:.9g}]\n", (*d.width)[0], (*d.width)[1],
                       (*d.width)[2]);
  }
  for (std::size_t i = 0; i < 2; ++i) {
    if (d.p[i] != 0.0) out += fmt::format("p{} = {:.9g}\n", i + 1, d.p[i]);
  }
  if (d.radius) out += "radius = " + millimetres(*d.radius) + '\n';
}

void add_faults(const Aberrations& a, std::string& out) {
  if (!a.bends() && !a.coloured() && a.curvature.dioptres() == 0.0 &&
      a.focus_shift[1].dioptres() == 0.0) {
    return;
  }
  out += "\n[faults]\n";
  out += "spherical = " + millimetres(a.spherical) + '\n';
  out += "coma = " + millimetres(a.coma) + '\n';
  out += "curvature = " + dioptres(a.curvature) + '\n';
  if (a.height.mm() > 0.0) out += "height = " + millimetres(a.height) + '\n';
  constexpr const char* colours[] = {"red", "green", "blue"};
  for (std::size_t c = 0; c < 3; ++c) {
    out += fmt::format("focus_{} = {}\n", colours[c], dioptres(a.focus_shift[c]));
  }
  for (std::size_t c = 0; c < 3; ++c) {
    out += fmt::format("magnification_{} = {:.9g}\n", colours[c], a.magnification[c]);
  }
}

}  // namespace

std::string lens_text(const Lens& lens, const std::string& comment) {
  std::string out;
  std::istringstream lines(comment);
  for (std::string line; std::getline(lines, line);) out += "# " + line + '\n';
  if (!lens.name.empty()) out += fmt::format("name = \"{}\"\n", lens.name);
  out += "focal = " + millimetres(lens.focal) + '\n';
  if (lens.widest) {
    out += fmt::format("widest = \"{}{:.6g}\"\n", lens.widest->kind == Stop::Kind::f ? "f/" : "T",
                       lens.widest->value);
  }
  if (lens.transmission) out += fmt::format("transmission = {:.6g}\n", *lens.transmission);
  if (lens.close_focus) out += "close_focus = " + metres(*lens.close_focus) + '\n';
  if (lens.pupil) out += "pupil = " + millimetres(*lens.pupil) + '\n';
  if (lens.squeeze != 1.0) out += fmt::format("squeeze = {:.6g}\n", lens.squeeze);
  if (lens.iris.blades > 0) {
    out += fmt::format("\n[iris]\nblades = {}\n", lens.iris.blades);
    const BladeRadius& r = lens.iris.blade_radius;
    if (r.kind == BladeRadius::Kind::multiple) {
      out += fmt::format("blade_radius = \"{:.6g} x\"\n", r.times);
    } else if (r.kind == BladeRadius::Kind::length) {
      out += "blade_radius = " + millimetres(r.length) + '\n';
    }
    if (lens.iris.rotation.degrees() != 0.0) {
      out += fmt::format("rotation = \"{:.6g} deg\"\n", lens.iris.rotation.degrees());
    }
  }
  add_distortion(lens.distortion, out);
  add_faults(lens.aberrations, out);
  for (const VignettingRim& rim : lens.vignetting) {
    out += fmt::format("\n[[barrel]]\nradius = {}\nahead = {}\n", millimetres(rim.radius),
                       millimetres(rim.ahead));
  }
  for (const LossPoint& l : lens.loss) {
    out += fmt::format("\n[[loss]]\nheight = {}\nstops = {:.6g}\n", millimetres(l.height), l.stops);
  }
  for (const BreathingPoint& b : lens.breathing) {
    if (!b.focal) continue;
    out += fmt::format("\n[[breathing]]\nmark = {}\nfocal = {}\n",
                       b.mark.is_finite() ? metres(b.mark) : "\"infinity\"", millimetres(*b.focal));
  }
  for (const SqueezePoint& s : lens.squeezes) {
    out += fmt::format("\n[[squeezes]]\nmark = {}\nsqueeze = {:.9g}\n",
                       s.mark.is_finite() ? metres(s.mark) : "\"infinity\"", s.squeeze);
  }
  return out;
}

}  // namespace jolly_iris
