#include "jolly_iris/optics/lens.hpp"

#include <fmt/format.h>

#include <cmath>

#include "above_zero.hpp"
#include "jolly_iris/optics/errors.hpp"

namespace jolly_iris {

namespace {

void require_fraction(double value, const char* what, const char* key) {
  if (!(value > 0.0 && value <= 1.0)) {
    throw OpticsError(
        fmt::format("{} is {:g}; it is a share of the light: more than 0, at most 1", what, value),
        key);
  }
}

void require_squeeze(double squeeze, const char* key) {
  if (!(squeeze >= 1.0) || !std::isfinite(squeeze)) {
    throw OpticsError(fmt::format("the squeeze is {:g}; it is 1 (none) or more, e.g. 2", squeeze),
                      key);
  }
}

void require_vignetting(const Lens& lens) {
  for (std::size_t i = 0; i < lens.vignetting.size(); ++i) {
    const VignettingRim& rim = lens.vignetting[i];
    const std::string key = fmt::format("lens.barrel[{}]", i);
    require_above_zero(rim.radius.mm(), "a rim's radius in mm", (key + ".radius").c_str());
    if (!rim.ahead.is_finite()) {
      throw OpticsError("a rim's distance from the pupil is not finite", key + ".ahead");
    }
  }
  for (std::size_t i = 0; i < lens.loss.size(); ++i) {
    const std::string key = fmt::format("lens.loss[{}]", i);
    require_above_zero(lens.loss[i].height.mm(), "a measured image height in mm",
                       (key + ".height").c_str());
    if (!(lens.loss[i].stops >= 0.0) || !std::isfinite(lens.loss[i].stops)) {
      throw OpticsError(
          fmt::format("a loss of {:g} stops; it is 0 or more: the picture's middle is "
                      "the brightest",
                      lens.loss[i].stops),
          key + ".stops");
    }
    if (i > 0 && !(lens.loss[i].height > lens.loss[i - 1].height)) {
      throw OpticsError(fmt::format("the loss at {:.4g} mm stands behind the one at {:.4g} mm; "
                                    "heights rise, each once",
                                    lens.loss[i].height.mm(), lens.loss[i - 1].height.mm()),
                        key + ".height");
    }
  }
}

void require_aberrations(const Lens& lens) {
  const Aberrations& f = lens.aberrations;
  const auto finite = [](double v, const char* what, const char* key) {
    if (!std::isfinite(v)) throw OpticsError(fmt::format("{} is not finite", what), key);
  };
  finite(f.spherical.mm(), "the spherical aberration", "lens.faults.spherical");
  finite(f.coma.mm(), "the coma", "lens.faults.coma");
  finite(f.curvature.dioptres(), "the field curvature", "lens.faults.curvature");
  if (f.coma.mm() != 0.0 || f.curvature.dioptres() != 0.0) {
    require_above_zero(f.height.mm(), "the image height of coma and curvature in mm",
                       "lens.faults.height");
  }
  for (std::size_t c = 0; c < 3; ++c) {
    finite(f.focus_shift[c].dioptres(), "a colour's focus shift", "lens.faults");
    require_above_zero(f.magnification[c], "a colour's magnification", "lens.faults");
  }
  if (f.bends() && !lens.widest) {
    throw OpticsError(
        "spherical aberration and coma are given at the widest stop, so it must be known; write "
        "widest = \"f/1.4\"",
        "lens.widest");
  }
  const auto require_colour = [](const std::array<double, 3>& colour, const char* key) {
    double sum = 0.0;
    for (const double v : colour) {
      sum += v;
      if (v >= 0.0 && std::isfinite(v)) continue;
      throw OpticsError(
          fmt::format("a disc's colour holds {:g}; its red, green and blue are 0 or more", v), key);
    }
    require_above_zero(sum, "a disc's colour", key);
  };
  for (const ColourPlace& p : lens.colouring.places) {
    require_above_zero(p.reach.mm(), "a colour's reach in mm", "lens.colouring.reach");
    require_colour(p.colour, "lens.colouring.colour");
  }
  if (!lens.colouring.tint) return;
  const DiscTint& tint = *lens.colouring.tint;
  require_above_zero(tint.reach.mm(), "a tint's reach in mm", "lens.tint.reach");
  require_above_zero(tint.power, "a tint's power", "lens.tint.power");
  require_colour(tint.colour, "lens.tint.colour");
  for (const double share : {tint.least, tint.most}) {
    if (share >= 0.0 && share <= 1.0) continue;
    throw OpticsError(fmt::format("{:g} is no share of a tint, 0 to 1", share),
                      share == tint.least ? "lens.tint.least" : "lens.tint.most");
  }
}

template <class Point>
void require_table(const std::vector<Point>& table, const char* what, const char* key) {
  if (table.size() == 1) {
    throw OpticsError(
        fmt::format("the {} is measured at one mark only; it takes two or more", what), key);
  }
  for (std::size_t i = 0; i < table.size(); ++i) {
    require_above_zero(table[i].mark.m() > 0.0 ? 1.0 : table[i].mark.m(), "a measured mark in m",
                       key);
    if (i > 0 && !(table[i].mark > table[i - 1].mark)) {
      throw OpticsError(fmt::format("the {} has the mark {:.4g} m behind {:.4g} m; marks are given "
                                    "from near to far, each once",
                                    what, table[i].mark.m(), table[i - 1].mark.m()),
                        key);
    }
  }
}

// Linear in reciprocal marks, as focus itself moves; the ends are held (and said in the report).
template <class Point, class Value>
double interpolated(const std::vector<Point>& table, Length mark, const Value& value) {
  if (mark <= table.front().mark) return value(table.front());
  for (std::size_t i = 1; i < table.size(); ++i) {
    if (mark > table[i].mark) continue;
    const double a = 1.0 / table[i - 1].mark.mm();
    const double b = 1.0 / table[i].mark.mm();
    const double t = (1.0 / mark.mm() - a) / (b - a);
    return (1.0 - t) * value(table[i - 1]) + t * value(table[i]);
  }
  return value(table.back());
}

}  // namespace

void require_possible(const Lens& lens) {
  require_above_zero(lens.focal.mm(), "the focal length in mm", "lens.focal");
  require_above_zero(lens.adapter, "the adapter's factor", "lens.adapter");
  require_above_zero(lens.converter, "the converter's factor", "lens.converter");
  require_fraction(lens.adapter_transmission, "the adapter's transmission",
                   "lens.adapter_transmission");
  if (lens.transmission) {
    require_fraction(*lens.transmission, "the lens's transmission", "lens.transmission");
  }
  if (!(lens.close_up.dioptres() >= 0.0) || !std::isfinite(lens.close_up.dioptres())) {
    throw OpticsError(fmt::format("the close-up attachment has {:g} dioptres; it has 0 (none) or "
                                  "more",
                                  lens.close_up.dioptres()),
                      "lens.close_up");
  }
  if (lens.zoom && (lens.focal < lens.zoom->shortest || lens.focal > lens.zoom->longest)) {
    throw OpticsError(
        fmt::format("the focal length of {:.4g} mm is not within the zoom's {:.4g} to {:.4g} mm",
                    lens.focal.mm(), lens.zoom->shortest.mm(), lens.zoom->longest.mm()),
        "lens.focal");
  }
  require_squeeze(lens.squeeze, "lens.squeeze");
  for (const SqueezePoint& p : lens.squeezes) require_squeeze(p.squeeze, "lens.squeezes");
  if (lens.squeeze_now) require_squeeze(*lens.squeeze_now, "lens.squeeze");
  require_table(lens.squeezes, "squeeze", "lens.squeezes");
  require_table(lens.breathing, "breathing", "lens.breathing");
  require_vignetting(lens);
  require_aberrations(lens);
  if (lens.widest) require_above_zero(lens.widest->value, "the widest stop", "lens.widest");
  for (const BreathingPoint& p : lens.breathing) {
    const bool good = p.focal ? p.focal->mm() > 0.0 && !p.field
                              : p.field && p.field->degrees() > 0.0 && p.field->degrees() < 180.0;
    if (good) continue;
    throw OpticsError(
        fmt::format("the breathing at {:.4g} m needs either a focal length above zero or a field "
                    "of view between 0 and 180 deg",
                    p.mark.m()),
        "lens.breathing");
  }
}

Length farthest_focus(const Lens& lens) {
  return lens.close_up.dioptres() > 0.0 ? Length::from_m(1.0 / lens.close_up.dioptres())
                                        : Length::infinity();
}

Length bare_focus(const Lens& lens, Length focus) {
  const double k2 = lens.converter * lens.converter;
  const double vergence = k2 * (1.0 / focus.m() - lens.close_up.dioptres());
  if (vergence < -1e-12 * k2 * lens.close_up.dioptres()) {
    throw OpticsError(
        fmt::format("the focus distance of {:.4g} m is beyond {:.4g} m, the farthest the lens "
                    "reaches with a close-up attachment of {:g} dioptres",
                    focus.m(), farthest_focus(lens).m(), lens.close_up.dioptres()),
        "focus");
  }
  const Length bare = vergence > 0.0 ? Length::from_m(1.0 / vergence) : Length::infinity();
  if (!(focus.mm() > 0.0) || !(bare > lens.focal)) {
    const double min = lens.converter == 1.0 && lens.close_up.dioptres() == 0.0
                           ? lens.focal.m()
                           : 1.0 / (1.0 / (k2 * lens.focal.m()) + lens.close_up.dioptres());
    throw OpticsError(
        fmt::format("the focus distance of {:.4g} m is not beyond one focal length ({:.4g} m); a "
                    "lens forms no picture of things that close",
                    focus.m(), min),
        "focus");
  }
  return bare;
}

Length focus_from_mark(const Lens& lens, Length mark) {
  // What stands in front makes 1/s = 1/(k² s_b) + P of the bare lens's focus.
  const auto through_front = [&](Length bare) {
    const double vergence =
        1.0 / (lens.converter * lens.converter * bare.m()) + lens.close_up.dioptres();
    return vergence > 0.0 ? Length::from_m(1.0 / vergence) : Length::infinity();
  };
  const bool plain = lens.converter == 1.0 && lens.close_up.dioptres() == 0.0;
  if (mark.is_infinite()) return plain ? mark : through_front(mark);
  if (lens.pupil) {
    const Length focus = mark - *lens.pupil;
    if (focus <= lens.focal) {
      throw OpticsError(
          fmt::format("the mark of {:.4g} m lies {:.4g} mm in front of the entrance pupil, which "
                      "is {:.4g} mm from the sensor plane; it must lie beyond one focal length "
                      "({:.4g} mm)",
                      mark.m(), focus.mm(), lens.pupil->mm(), lens.focal.mm()),
          "take.mark");
    }
    return plain ? focus : through_front(focus);
  }
  const double d = mark.mm();
  const double f = lens.focal.mm();
  if (!(d >= 4.0 * f)) {
    throw OpticsError(
        fmt::format("the mark of {:.4g} m is closer than four focal lengths ({:.4g} m for a "
                    "{:.4g} mm lens), and no simple lens focuses there. Marks are measured from "
                    "the sensor plane; for a macro lens give lens.pupil",
                    mark.m(), 4.0 * lens.focal.m(), f),
        "take.mark");
  }
  const Length bare = Length::from_mm((d + std::sqrt(d * d - 4.0 * f * d)) / 2.0);
  return plain ? bare : through_front(bare);
}

Length mark_from_focus(const Lens& lens, Length focus) {
  const Length bare = bare_focus(lens, focus);
  if (bare.is_infinite()) return bare;
  if (lens.pupil) return bare + *lens.pupil;
  const double s = bare.mm();
  const double f = lens.focal.mm();
  return Length::from_mm(s + f * s / (s - f));
}

Length pinhole_focal(const Lens& lens, Length focus, Length gate_width) {
  const Length bare = bare_focus(lens, focus);
  if (lens.breathing.empty()) {
    // v = A f₀ s / (s − f₀), written so that an infinite s is no special case
    return lens.converter * lens.adapter * lens.focal / (1.0 - lens.focal / bare);
  }
  // A zoom's table was measured at one focal length; at another all of it scales alike.
  const double zoomed = lens.breathing_at ? lens.focal / *lens.breathing_at : 1.0;
  return Length::from_mm(
      zoomed *
      interpolated(lens.breathing, mark_from_focus(lens, focus), [&](const BreathingPoint& p) {
        return p.focal ? p.focal->mm()
                       : gate_width.mm() / (2.0 * std::tan(p.field->radians() / 2.0));
      }));
}

double squeeze_at_focus(const Lens& lens, Length focus) {
  if (lens.squeeze_now) return *lens.squeeze_now;
  if (lens.squeezes.empty()) return lens.squeeze;
  return interpolated(lens.squeezes, mark_from_focus(lens, focus),
                      [](const SqueezePoint& p) { return p.squeeze; });
}

Length pupil_to_sensor(const Lens& lens, Length focus) {
  if (lens.pupil) return *lens.pupil;
  return lens.focal / (1.0 - lens.focal / bare_focus(lens, focus));
}

double marked_f_number(const Lens& lens, const Stop& stop) {
  if (stop.kind == Stop::Kind::f) return stop.value;
  return stop.value * std::sqrt(lens.transmission.value_or(1.0));
}

double marked_t_number(const Lens& lens, const Stop& stop) {
  if (stop.kind == Stop::Kind::t) return stop.value;
  return stop.value / std::sqrt(lens.transmission.value_or(1.0));
}

bool opens_to(const Lens& lens, const Stop& stop) {
  constexpr double rounding = 1e-3;  // of numbers that were computed from marks
  return !lens.widest ||
         marked_f_number(lens, stop) * (1.0 + rounding) >= marked_f_number(lens, *lens.widest);
}

Stop widest_as(const Lens& lens, Stop::Kind kind) {
  return kind == Stop::Kind::t ? t_number(marked_t_number(lens, lens.widest.value()))
                               : f_number(marked_f_number(lens, lens.widest.value()));
}

}  // namespace jolly_iris
